export { checkInspectionRule, readInspectionRule } from './read.ts';
