export { checkDriveProcedure, readCarState, readDriveProcedure, readPlanRequest } from './read.ts';
