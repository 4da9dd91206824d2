export * from './drive/index.ts';
export {
  INSPECTION_RULES,
  type InspectionAnswer,
  type InspectionRule,
  inspectionAnswers,
  MONITOR_NOTES,
  recentlyCleared,
} from './inspection.ts';
