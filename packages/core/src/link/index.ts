export { PIDS_PER_REQUEST, PLANS, type PlanId, type PollingPlan, planAlone, planRequests } from './plan.ts';
export {
  ALLOWED_SERVICES,
  type Answer,
  type LinkAction,
  type LinkEvent,
  type LinkState,
  Requester,
  type Sample,
} from './requester.ts';
