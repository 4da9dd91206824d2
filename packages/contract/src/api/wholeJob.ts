import type { CaptureView } from './captures.ts';
import type { CautionView } from './cautions.ts';
import type { StoredDiagnosis } from './diagnosis.ts';
import type { DamageView, EventView, JobSummary } from './jobs.ts';
import type { KnownView } from './known.ts';
import type { ReadingView } from './readings.ts';
import type { RecordView } from './records.ts';
import type { RepairView } from './repairs.ts';
import type { EntryView, PhotoView, RunView } from './service.ts';
import type { TestView } from './tests.ts';

/** What a job holds beside its head, each under `/jobs/ID/NOUN`, oldest first. */
export const JOB_RESOURCES = [
  'records',
  'readings',
  'tests',
  'repairs',
  'captures',
  'known',
  'cautions',
  'diagnosis',
  'damaged',
  'runs',
  'entries',
  'photos',
] as const;
export type JobResource = (typeof JOB_RESOURCES)[number];

/** One row of each kind that a job holds. */
export interface JobRows {
  records: RecordView;
  readings: ReadingView;
  tests: TestView;
  repairs: RepairView;
  captures: CaptureView;
  /** Figures that beat physics for this vehicle and its engine family. */
  known: KnownView;
  cautions: CautionView;
  diagnosis: StoredDiagnosis;
  damaged: DamageView;
  /** Runs of service procedures. */
  runs: RunView;
  entries: EntryView;
  photos: PhotoView;
}

type JobLists = { [N in Exclude<JobResource, 'diagnosis'>]: JobRows[N][] };

/** A job as its page puts it together, and as an export carries it: of each kind its rows, oldest first. */
export interface JobView extends JobSummary, JobLists {
  /** Judgements kept; on the page the two newest. */
  diagnoses: StoredDiagnosis[];
}

/** With its history: what an export carries. */
export interface WholeJob extends JobView {
  events: EventView[];
}
