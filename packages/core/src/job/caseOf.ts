import {
  type Ambient,
  type Case,
  type CodeReading,
  limitsWith,
  type OwnValue,
  type Reading,
  type RecentWork,
  type TestResult,
  type VehicleSpec,
} from '../case/index.ts';

/** What a job holds, as far as a case needs it. */
export interface JobEvidence {
  id: string;
  vehicle: VehicleSpec;
  ambient: Ambient;
  complaint: { symptoms: string[]; recentWork?: RecentWork[] };
  records: { phase: string; codes: CodeReading[] }[];
  readings: { phase: string; reading: Reading }[];
  tests: { undone: boolean; phase?: 'before' | 'after'; test: TestResult }[];
  /** Figures entered for this vehicle, oldest first. */
  values?: readonly OwnValue[];
}

/**
 * The job as a case (CONTRACT): readings and standing tests of the phase, newest last; codes of its newest record.
 */
export function caseOfJob(job: JobEvidence, phase: 'before' | 'after' = 'before'): Case {
  const v = job.vehicle;
  const record = job.records.filter((r) => r.phase === phase).at(-1);
  const vehicle: VehicleSpec = {
    fuel: v.fuel,
    metering: v.metering,
    displacementL: v.displacementL,
    cylinders: v.cylinders,
  };
  if (v.induction) vehicle.induction = v.induction;
  if (v.injection) vehicle.injection = v.injection;
  if (v.banks) vehicle.banks = v.banks;
  if (v.ethanolPctCalibrated !== undefined) vehicle.ethanolPctCalibrated = v.ethanolPctCalibrated;
  const limits = limitsWith(v.limits, job.values ?? []);
  if (limits) vehicle.limits = limits;
  return {
    format: 'just-balance/case',
    version: 1,
    id: job.id,
    vehicle,
    ambient: job.ambient,
    recentWork: job.complaint.recentWork ?? [],
    readings: job.readings.filter((r) => r.phase === phase).map((r) => r.reading),
    ...(record ? { codes: record.codes.map((c) => ({ code: c.code, state: c.state })) } : {}),
    complaints: complaintsOf(job.complaint.symptoms),
    tests: job.tests.filter((t) => !t.undone && (t.phase ?? 'before') === phase).map((t) => t.test),
  };
}

/** What was said; that nothing was noticed stands where nothing else does. */
function complaintsOf(symptoms: readonly string[]): string[] {
  const said = symptoms.filter((s) => s !== 'none');
  return said.length > 0 ? said : [...symptoms];
}
