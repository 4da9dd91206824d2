export { DriveEntry, InspectionEntry, PlanEntry } from './dto.ts';
export { checkDriveProcedure, readCarState, readDriveProcedure, readPlanRequest } from './read.ts';
