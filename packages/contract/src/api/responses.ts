import type { Ambient, Case, OperatingPoint, Reading, TestResult } from '@just-balance/core/case';
import type { Diagnosis, Settings } from '@just-balance/core/diagnosis';
import type { KnownFigure } from '@just-balance/core/expected';
import type { MonitorStatus } from '@just-balance/core/obd';
import type { ComplaintDto, ImportSummary, Phase, VehicleRequest } from './requests.ts';

/** Types only: what the server answers and what travels over the socket. */
export interface AccountView {
  id: string;
  name: string;
  email: string;
  role: string;
  /** What the role may do. */
  rights: string[];
  shop: { id: string; name: string; rev: number; settings: Settings };
}

export interface SessionView {
  account: AccountView | null;
  setupNeeded: boolean;
  demo: { email: string; password: string; name: string }[] | null;
}

/** A person of the shop, as its lead sees them. */
export interface PersonView {
  id: string;
  rev: number;
  name: string;
  email: string;
  role: string;
  /** False for a role that this version does not know: it has no rights. */
  known: boolean;
  disabled: boolean;
  hasPassword: boolean;
  /** Browsers signed in now. */
  sessions: number;
  /** A one-time link was given and not used yet. */
  linkWaits: boolean;
}

export interface LinkGiven {
  token: string;
  expiresAt: string;
}

/** A browser signed in to the asker's own account. */
export interface OwnSessionView {
  id: string;
  device: string;
  since: string;
  seen: string;
  current: boolean;
}

export interface VehicleView extends VehicleRequest {
  id: string;
  rev: number;
}

export interface CodeView {
  code: string;
  state: 'stored' | 'pending' | 'permanent';
  text: string | null;
}

/** Codes, monitors and freeze frame as they stood: kept before anything may be cleared. */
export interface RecordView {
  id: string;
  phase: Phase;
  at: string;
  source: 'link' | 'hand';
  codes: CodeView[];
  lampOn: boolean;
  monitors: MonitorStatus | null;
  freezeFrame: { name: string; value: number | string; unit: string }[];
  vin: string | null;
  /** Oxygen sensors fitted, by PID 13 or 1D; null where that was not read. */
  sensors: { bank: number; sensor: number; wide: boolean }[] | null;
  warmupsSinceClear: number | null;
  distanceSinceClearKm: number | null;
}

export interface ReadingView {
  id: string;
  rev: number;
  phase: Phase;
  source: 'capture' | 'hand' | 'import';
  captureId: string | null;
  doubtful: string | null;
  at: string;
  reading: Reading;
}

export interface TestView {
  id: string;
  rev: number;
  at: string;
  undone: boolean;
  by: string;
  test: TestResult;
}

export interface RepairView {
  id: string;
  rev: number;
  at: string;
  by: string;
  undone: boolean;
  text: string;
  fault: string | null;
  part: string | null;
  school: 'relearn' | 'reset';
}

export interface KnownView extends KnownFigure {
  id: string;
  rev: number;
  by: string;
}

export interface CaptureView {
  id: string;
  at: string;
  phase: Phase;
  state: 'running' | 'done' | 'stopped' | 'failed';
  source: 'link' | 'import';
  /** File name of an import. */
  name: string | null;
  startedAt: string;
  seconds: number;
  gaps: number;
}

export interface ChannelView {
  id: string;
  unit: string;
  quantum: number | null;
  kind: 'number' | 'text';
  n: number;
  fromS: number;
  toS: number;
  /** Parts its bytes come in; `GET …/columns/ID?part=K`. */
  parts: number;
}

/** A capture as a recording: its channels, the gaps in it, its marks. Times in s from its start. */
export interface RecordingView extends CaptureView {
  durationS: number;
  channels: ChannelView[];
  gapSpans: { from: number; to: number }[];
  marks: { at: string; from: number; to: number }[];
  summary: ImportSummary | null;
}

export interface EventView {
  id: string;
  at: string;
  by: string;
  kind: string;
  data: Record<string, unknown>;
}

export interface StoredDiagnosis {
  id: string;
  at: string;
  coreVersion: string;
  input: Case;
  output: Diagnosis;
}

/** A row of the board. */
export interface JobListItem {
  id: string;
  rev: number;
  status: 'open' | 'parked' | 'closed';
  label: string;
  note: string | null;
  /** The first symptom. */
  symptom: string | null;
  openedAt: string;
  openedBy: string;
  /** The job's head cannot be read as it is stored: open it to mend it. */
  damaged: boolean;
  worst: JobSummary['worst'];
  counts: JobSummary['counts'];
  leading: JobSummary['leading'];
}

/** Open jobs, those of the asker, and all there ever were. */
export interface JobCounts {
  open: number;
  mine: number;
  all: number;
}

export interface CautionView {
  caution: string;
  step: string;
  at: string;
  by: string;
}

/** A stored row that cannot be read: it is neither shown nor judged until it is mended. */
export interface DamageView {
  noun: string;
  id: string;
  problems: { field: string; message: string }[];
  stored: unknown;
}

export interface JobSummary {
  id: string;
  rev: number;
  status: 'open' | 'parked' | 'closed';
  vehicle: VehicleView;
  complaint: ComplaintDto;
  ambient: Ambient;
  adapter: string | null;
  openedAt: string;
  openedBy: string;
  /** Worst displayed total of the newest readings, for the board. */
  worst: { totalPct: number; at: OperatingPoint } | null;
  counts: { records: number; before: number; after: number; tests: number; repairs: number; recordsAfter: number };
  leading: { fault: string; probability: number } | null;
}

export interface JobView extends JobSummary {
  records: RecordView[];
  readings: ReadingView[];
  tests: TestView[];
  repairs: RepairView[];
  captures: CaptureView[];
  /** Figures that beat physics for this vehicle and its engine family, oldest first. */
  known: KnownView[];
  cautions: CautionView[];
  /** The two newest judgements kept, older first. */
  diagnoses: StoredDiagnosis[];
  events: EventView[];
  damaged: DamageView[];
}

export interface AdapterView {
  address: string;
  label: string;
  simulated: boolean;
}

export interface BayView {
  bay: number;
  vehicleId: string;
  /** What may be chosen to stand in the bay. */
  fleet: { id: string; label: string }[];
  vehicle: VehicleRequest;
  key: boolean;
  rpm: number;
  kmh: number;
  target: string;
  /** Road scripts to choose from, and the one being driven. */
  scripts: { id: string; label: string }[];
  script: string | null;
  closedLoop: boolean;
  ectC: number;
  /** Simulated seconds a second; 0 paused. */
  rate: number;
  degradation: { dropShare: number; corruptShare: number; delayMs: number; brownOut: boolean };
  fault: { id: string; severity: number; bank?: 1 | 2 } | null;
  faultsIn: { id: string; severity: number; bank?: 1 | 2 }[];
  faults: { id: string; label: string; unit: string; low: number; high: number; typical: number; perBank: boolean }[];
  tests: string[];
  baroKPa: number;
  airC: number;
  /** What a bench test or a meter showed; only in the answer to it. */
  result?: BenchTestResult | { pin: number; volts: number }[];
}

/** A bench test on a simulated vehicle, answered from its physics; where a person looks, with the chance of a wrong look. */
export interface BenchTestResult {
  test: string;
  outcome?: string;
  values?: Record<string, number | string>;
  bank?: 1 | 2;
  chanceOfWrong: number;
}

export interface ConditionView {
  id: string;
  label: string;
  met: boolean;
  detail: string;
}

/** Where a guided capture stands, pushed with every committed second. */
export interface CaptureStatus {
  captureId: string;
  at: string;
  phase: Phase;
  state: 'waiting' | 'capturing' | 'refused' | 'done' | 'lost' | 'paused';
  conditions: ConditionView[];
  /** Seconds of good window so far, and wanted. */
  goodS: number;
  wantedS: number;
  reason: string | null;
  etaS: number | null;
  keptSeconds: number;
}

export interface LinkStatus {
  adapter: string;
  state: 'off' | 'connecting' | 'discovering' | 'ready' | 'silent' | 'lost';
  detail: string;
  valuesPerSecond: number;
  /** Samples of each channel in the last second, smoothed. */
  rates: Record<string, number>;
}

/** Socket messages, server to screen. */
export type ServerMessage =
  | { type: 'live'; jobId: string; t: number; values: Record<string, number | string>; committed: boolean }
  | { type: 'link'; jobId: string; status: LinkStatus }
  | { type: 'capture'; jobId: string; status: CaptureStatus }
  | { type: 'changed'; jobId: string }
  | { type: 'error'; message: string }
  | { type: 'subscribed'; jobId: string };

/** Socket messages, screen to server. */
export type ClientMessage = { type: 'subscribe'; jobId: string } | { type: 'unsubscribe'; jobId: string };

export interface ApiError {
  statusCode: number;
  message: string;
  errors?: { field: string; message: string }[];
  /** On a conflict: what stands in the database now. */
  current?: unknown;
}
