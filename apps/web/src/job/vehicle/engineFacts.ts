import type { JobView } from '@just-balance/contract';
import { type EngineFacts, stationPressure } from '@just-balance/core/expected';

/** Intake air where the job names none, °C. [house] */
const ASSUMED_AIR_C = 20;

/** What expected values need to know of a job's engine and the day. */
export function engineFacts(job: Pick<JobView, 'vehicle' | 'ambient'>): Required<EngineFacts> {
  return {
    displacementL: job.vehicle.displacementL,
    baroKPa: stationPressure(job.ambient).baroKPa,
    airC: job.ambient.airC ?? ASSUMED_AIR_C,
    induction: job.vehicle.induction ?? 'na',
    fuel: job.vehicle.fuel,
  };
}
