import type { DriveProcedure, InspectionRule } from '@just-balance/core/readiness';
import type { OwnSessionView, PersonView, SessionView } from './accounts.ts';
import type { AuditLine } from './audit.ts';
import type { CaptureStatus } from './captures.ts';
import type { StoredDiagnosis } from './diagnosis.ts';
import type { JobCounts, JobListItem, JobSummary, PartOrderView, RunningCapture } from './jobs.ts';
import type { LearnedView } from './learning.ts';
import type { AdapterView, LinkStatus } from './links.ts';
import type { LogbookCounts, LogbookRow, SavedViewView, VehicleVisit } from './logbook.ts';
import type { BayView } from './practice.ts';
import type { KeptLayoutView, RecordingView } from './recordings.ts';
import type { CleaningOutcomes, OwnProcedureView, OwnVersionView, OwnView, PhotoView } from './service.ts';
import type { SettingsView, ShopChangeView } from './settings.ts';
import type { AttemptLine, AttemptView, ScenarioView } from './trainer.ts';
import type { KeptDrive, VehicleChangeView, VehicleView } from './vehicles.ts';
import type { JobResource, JobRows } from './wholeJob.ts';

declare const ANSWER: unique symbol;

/** An address below `/api`, and what the server answers to reading it; null: there may be nothing to read. */
export type Route<Answer> = string & { readonly [ANSWER]?: Answer };

/** An address with each of its parts made safe for it. */
function at<Answer>(words: TemplateStringsArray, ...parts: (string | number)[]): Route<Answer> {
  return String.raw({ raw: words }, ...parts.map((p) => encodeURIComponent(p)));
}

/** What can be read, typed once: the page asks for nothing else. Lists that come a page at a time answer one page. */
export const ROUTES = {
  session: at<SessionView>`/session`,
  people: at<PersonView[]>`/people`,
  ownSessions: at<OwnSessionView[]>`/account/sessions`,
  settings: at<SettingsView>`/shop/settings`,
  shopChanges: at<ShopChangeView[]>`/shop/changes`,

  jobCounts: at<JobCounts>`/jobs/counts`,
  jobsDue: at<JobListItem[]>`/jobs/due`,
  orders: at<PartOrderView[]>`/jobs/orders`,
  capturesRunning: at<RunningCapture[]>`/jobs/running`,
  /** `query` of this and the other two: as an address says it, made by URLSearchParams or the like. */
  jobs: (query: string) => `/jobs?${query}` as Route<JobListItem[]>,
  ownOpenJobs: (limit: number) => at<JobListItem[]>`/jobs?status=open&whose=mine&limit=${limit}`,
  job: (job: string) => at<JobSummary>`/jobs/${job}`,
  jobRows: <N extends JobResource>(job: string, resource: N) => at<JobRows[N][]>`/jobs/${job}/${resource}`,
  /** Only the newest of the judgements kept. */
  newestDiagnoses: (job: string, newest: number) => at<StoredDiagnosis[]>`/jobs/${job}/diagnosis?newest=${newest}`,
  link: (job: string) => at<LinkStatus>`/jobs/${job}/link`,
  runningCapture: (job: string) => at<{ status: CaptureStatus | null }>`/jobs/${job}/captures/running`,
  recording: (job: string, capture: string) => at<RecordingView>`/jobs/${job}/captures/${capture}/recording`,

  vehicles: at<VehicleView[]>`/vehicles`,
  vehiclesLike: (words: string) => at<VehicleView[]>`/vehicles?q=${words}`,
  vehicleHistory: (vehicle: string) =>
    at<{ vehicle: VehicleView; visits: VehicleVisit[] }>`/vehicles/${vehicle}/history`,
  vehicleDrives: (vehicle: string) => at<KeptDrive[]>`/vehicles/${vehicle}/drives`,
  /** Every change of its card; `rev` only says of which revision, so that a newer one is read anew. */
  vehicleChanges: (vehicle: string, rev: number) => at<VehicleChangeView[]>`/vehicles/${vehicle}/changes?rev=${rev}`,

  adapters: at<AdapterView[]>`/adapters`,
  bays: at<BayView[]>`/bays`,
  procedureVersions: (id: string, rev: number) => at<OwnVersionView[]>`/procedures/${id}/versions?rev=${rev}`,
  procedures: at<OwnProcedureView[]>`/procedures`,
  driveProcedures: at<OwnView<DriveProcedure>[]>`/procedures?kind=drive`,
  layouts: at<KeptLayoutView[]>`/layouts`,
  inspectionRules: at<OwnView<InspectionRule>[]>`/procedures?kind=rule`,
  cleaningOutcomes: at<CleaningOutcomes[]>`/service/outcomes`,
  goodPhotos: at<(PhotoView & { jobId: string })[]>`/photos/good`,

  learned: at<LearnedView>`/learned`,
  logbook: (query: string) => `/logbook?${query}` as Route<LogbookRow[]>,
  logbookCounts: (query: string) => `/logbook/counts?${query}` as Route<LogbookCounts>,
  audit: (query: string) => `/audit?${query}` as Route<AuditLine[]>,
  savedViews: at<SavedViewView[]>`/logbook/views`,
  scenarios: at<ScenarioView[]>`/practice/scenarios`,
  attempts: at<AttemptLine[]>`/practice/attempts`,
  attempt: (attempt: string) => at<AttemptView>`/practice/attempts/${attempt}`,
} as const;
