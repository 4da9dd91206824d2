import { type TestView, withFinds } from '@just-balance/contract';
import { type HandOverJob } from '@just-balance/core/handOver';
import { type Transaction } from 'sequelize';
import { Job, StoredDiagnosisRow } from '../rows/jobs.ts';
import { NEWEST_FIRST, OLDEST_FIRST } from '../rows/order.ts';
import { ReadingRow } from '../rows/readings.ts';
import { VehicleRecord } from '../rows/records.ts';
import { Repair } from '../rows/repairs.ts';
import { type ServiceEntry, type ServiceRun } from '../rows/service.ts';
import { TestRow } from '../rows/tests.ts';
import { Vehicle } from '../rows/vehicles.ts';
import { diagnosisView, entryView, readingView, recordView, repairView, runView, testView } from './rowViews.ts';
import { type Damage, readable, readHead, readVehicle } from './stored.ts';

/** A run is read with what happened in it. */
export const RUN_EVENTS = {
  association: 'events',
  separate: true,
  order: [
    ['atMs', 'ASC'],
    ['id', 'ASC'],
  ] as [string, string][],
};

/** What a judgement and a summary are made from; rows that cannot be read are left out and named. */
export interface JobParts {
  vehicle: Vehicle;
  records: VehicleRecord[];
  readings: ReadingRow[];
  tests: TestRow[];
  repairs: Repair[];
  /** The newest. */
  diagnosis: StoredDiagnosisRow | null;
  runs: ServiceRun[];
  entries: ServiceEntry[];
  damage: Damage[];
}

/** The job with everything a judgement needs. Throws where it is gone. */
export async function partsOf(job: Job, transaction?: Transaction): Promise<JobParts> {
  const { id, shopId } = job;
  const rows = (association: string) => ({ association, where: { shopId }, separate: true, order: OLDEST_FIRST });
  const whole = (await Job.findOne({
    where: { id, shopId },
    include: [
      { association: 'vehicle', where: { shopId } },
      rows('records'),
      { ...rows('readings'), where: { shopId, undone: false } },
      rows('tests'),
      rows('repairs'),
      { ...rows('diagnoses'), order: NEWEST_FIRST, limit: 1 },
      { ...rows('runs'), include: [RUN_EVENTS] },
      rows('entries'),
    ],
    ...(transaction ? { transaction } : {}),
  }))!;
  const vehicle = whole.vehicle!;
  const damage: Damage[] = [...readVehicle(vehicle).damage, ...readHead(whole).damage];
  return {
    vehicle,
    records: readable('record', whole.records!, damage),
    readings: readable('reading', whole.readings!, damage),
    tests: readable('test', whole.tests!, damage),
    repairs: readable('repair', whole.repairs!, damage),
    diagnosis: whole.diagnoses![0] ?? null,
    runs: readable('run', whole.runs!, damage),
    entries: readable('entry', whole.entries!, damage),
    damage,
  };
}

/** Tests of the job, oldest first: those that were entered, and what was found in its runs. */
export function testsOf(parts: JobParts): TestView[] {
  return withFinds(parts.tests.map(testView), parts.runs.map(runView), parts.repairs.map(repairView));
}

/** The job as its hand-over, its waits and its outcome see it. */
export function handOverJobOf(job: Job, parts: JobParts): HandOverJob {
  const { complaint, ambient } = readHead(job);
  return {
    id: job.id,
    status: job.status,
    openedAt: job.createdAt.toISOString(),
    openedBy: job.openedBy,
    vehicle: readVehicle(parts.vehicle).value,
    ambient,
    complaint,
    records: parts.records.map(recordView),
    readings: parts.readings.map(readingView),
    tests: testsOf(parts),
    repairs: parts.repairs.map(repairView),
    runs: parts.runs.map(runView),
    entries: parts.entries.map(entryView),
    photos: [],
    diagnoses: parts.diagnosis ? [diagnosisView(parts.diagnosis)] : [],
    cautions: [],
  };
}

/** Who did something to it last. */
export function handsOf(parts: JobParts): string | null {
  const acts = [
    ...[...parts.tests, ...parts.repairs, ...parts.entries].map((r) => ({ at: r.createdAt.getTime(), by: r.by })),
    ...parts.runs.flatMap((r) => (r.events ?? []).map((e) => ({ at: Number(e.atMs), by: e.by }))),
  ];
  return (
    acts.reduce<{ at: number; by: string } | null>((a, b) => (a === null || b.at >= a.at ? b : a), null)?.by ?? null
  );
}
