export { identifyVehicle, type VehicleIdentity } from './identify.ts';
export { PIDS_PER_REQUEST, PLANS, type PlanId, type PollingPlan, planAlone, planRequests } from './plan.ts';
export {
  ALLOWED_SERVICES,
  type Answer,
  type FoundUnit,
  type LinkAction,
  type LinkEvent,
  type LinkState,
  Requester,
  type Sample,
} from './requester.ts';
export { packSecond, type SecondData, unpackSecond } from './second.ts';
export {
  AdapterShell,
  asideSince,
  BYTES_A_TICK,
  CLOSE_CHANNEL,
  MAX_UNSENT_BYTES,
  type SetAside,
  type ShellClock,
  type ShellHandlers,
} from './shell.ts';
export {
  type Ask,
  type Counters,
  type HeardAnswer,
  listening,
  readVehicleRecord,
  replayed,
  type VehicleRecordData,
} from './vehicleRecord.ts';
