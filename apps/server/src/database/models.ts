import type {
  CaptureCommand,
  CaptureStatus,
  ComplaintDto,
  ImportSummary,
  JobSummary,
  LayoutView,
  LinkStatus,
  VehicleRequest,
} from '@just-balance/contract';
import type { EntryData, EntryKind, OwnKind } from '@just-balance/contract/service';
import type { Ambient, Case, Reading, TestResult } from '@just-balance/core/case';
import type { Diagnosis, Settings } from '@just-balance/core/diagnosis';
import type { KnownFigure } from '@just-balance/core/expected';
import type { VehicleRecordData } from '@just-balance/core/link';
import type {
  DriveAnswer,
  PracticeAnswer,
  PracticeMove,
  PracticeScenario,
  PracticeScore,
} from '@just-balance/core/practice';
import type { Happened, Procedure } from '@just-balance/core/procedures';
import type { Mark } from '@just-balance/core/series';
import type { LearnedFigure, LearningChoice, Lesson } from '@just-balance/core/shop';
import { type Said } from '@just-balance/core/units';
import { DataTypes, Model, type ModelStatic, type Sequelize } from 'sequelize';

/** Every row that people share belongs to a shop. */
abstract class Owned extends Model {
  declare id: string;
  declare shopId: string;
  declare createdAt: Date;
}

export class Shop extends Model {
  declare id: string;
  declare name: string;
  declare settings: Settings & { learning?: LearningChoice };
  declare learned: StoredLearning | null;
  declare rev: number;
}

/** What of the shop's learning is in use, worked out from all its lessons; see core's shop. */
export interface StoredLearning {
  at: string;
  jobs: number;
  settings: Pick<Settings, 'priors' | 'reliability'>;
  figures: LearnedFigure[];
}

export class Account extends Owned {
  declare rev: number;
  declare email: string;
  declare name: string;
  /** One of `ROLES`; any other has no rights. */
  declare role: string;
  /** Empty until the first password is set. */
  declare passwordHash: string;
  declare disabledAt: Date | null;
  /** Where it was asked for with `include`. */
  declare shop?: Shop;
}

export class Session extends Model {
  /** SHA-256 of the cookie's token: a stolen database signs nobody in. */
  declare id: string;
  declare accountId: string;
  declare expiresAt: Date;
  declare createdAt: Date;
  /** What the browser calls itself, for the list of sessions. */
  declare device: string;
  declare seenAt: Date | null;
}

/** A one-time link by which a person sets a password; kept by the hash of its token. */
export class Invitation extends Model {
  declare id: string;
  declare accountId: string;
  declare expiresAt: Date;
}

/** A browser that an account has signed in from before, by the hash of its cookie. */
export class KnownDevice extends Model {
  declare id: string;
  declare accountId: string;
}

/** A write that was done under an idempotency key, stored in the transaction of the work itself. */
export class DoneRequest extends Model {
  declare accountId: string;
  declare keyHash: string;
  declare request: string;
  declare bodyHash: string;
  declare status: number;
  declare response: unknown;
  declare createdAt: Date;
}

export class Vehicle extends Owned {
  declare rev: number;
  declare data: VehicleRequest;
}

export class Job extends Owned {
  declare rev: number;
  declare vehicleId: string;
  declare status: 'open' | 'parked' | 'closed';
  declare complaint: ComplaintDto;
  declare ambient: Ambient;
  declare adapter: string | null;
  declare openedBy: string;
  /** On a simulated car, to learn: counts for nothing of the shop's. */
  declare practice: boolean;
  /** Practised without help: until it is answered nothing of it is weighed here. */
  declare sealed: boolean;
  /** Its tags and its lesson are written. */
  declare filed: boolean;
  /** When somebody should look at it again. */
  declare remindAt: Date | null;
  declare summary: StoredSummary | null;
  declare changes: number;
  /** Who brought it in from an archive, and when. */
  declare importedBy: string | null;
  declare importedAt: Date | null;
  /** Where it was asked for with `include`. */
  declare vehicle?: Vehicle;
  declare records?: VehicleRecord[];
  declare readings?: ReadingRow[];
  declare tests?: TestRow[];
  declare repairs?: Repair[];
  declare diagnoses?: StoredDiagnosisRow[];
  declare runs?: ServiceRun[];
  declare entries?: ServiceEntry[];
}

/** What the board and the job's head show, kept by every write into the job. */
export type StoredSummary = Pick<JobSummary, 'counts' | 'leading' | 'standing' | 'waits' | 'hands'> & {
  label: string;
  note: string | null;
  /** What the logbook shows beside it: the cause that was repaired, else the leading one; every code that was read. */
  found?: { cause: string | null; codes: string[] };
};

export class JobEvent extends Owned {
  declare jobId: string;
  declare accountId: string | null;
  declare by: string;
  declare kind: string;
  declare data: Record<string, unknown>;
  /** Who brought it in from an archive, and when: it is then the archive's word. */
  declare importedBy: string | null;
  declare importedAt: Date | null;
}

/** Records from before something was read lack it. */
export interface RecordData extends Partial<Pick<VehicleRecordData, 'cycleBytes' | 'sensors' | 'counters' | 'tests'>> {
  phase: 'before' | 'after';
  source: 'link' | 'hand';
  codes: { code: string; state: 'stored' | 'pending' | 'permanent' }[];
  lampOn: boolean;
  monitorBytes: string | null;
  freezeFrame: { name: string; value: number | string; unit: string }[];
  vin: string | null;
  warmupsSinceClear: number | null;
  distanceSinceClearKm: number | null;
}

export class VehicleRecord extends Owned {
  declare jobId: string;
  declare rev: number;
  declare data: RecordData;
}

export class ReadingRow extends Owned {
  declare jobId: string;
  declare rev: number;
  declare phase: 'before' | 'after';
  declare source: 'capture' | 'hand' | 'import';
  declare captureId: string | null;
  declare doubtful: string | null;
  /** Taken back: neither shown nor weighed. */
  declare undone: boolean;
  declare data: Reading;
}

export class TestRow extends Owned {
  declare jobId: string;
  declare rev: number;
  declare undone: boolean;
  declare phase: 'before' | 'after';
  declare by: string;
  declare data: TestResult;
}

export class Repair extends Owned {
  declare jobId: string;
  declare rev: number;
  declare undone: boolean;
  declare by: string;
  declare data: {
    text: string;
    fault: string | null;
    part: string | null;
    adaptation: 'relearn' | 'reset';
    /** See `RepairView`. */
    guessed?: boolean;
  };
}

/** A figure that beats physics; see KnownFigure in core's expected. */
export class KnownFigureRow extends Owned {
  declare jobId: string;
  declare rev: number;
  declare undone: boolean;
  declare by: string;
  declare vehicleId: string;
  declare family: string;
  declare layer: KnownFigure['layer'];
  declare data: Omit<KnownFigure, 'layer'>;
}

/** What a capture is beside its samples. Times in s from its start, wall-clock times in ms since 1970. */
interface CaptureMeta {
  /** Free recording of one channel alone. */
  only?: string;
  /** The good window of a guided capture. */
  window?: { fromMs: number; toMs: number };
  /** Time of the first sample, once the rows are columns; 0 where nobody knows. */
  startedAtMs?: number;
  seconds?: number;
  gaps?: { from: number; to: number }[];
  marks?: Mark[];
  /** Of an import: what was read and what was left out. */
  summary?: ImportSummary;
}

/** `receiving`: an import whose columns are still coming up; nobody sees it before it is whole. */
export class Capture extends Owned {
  declare jobId: string;
  declare at: string;
  declare phase: 'before' | 'after';
  declare state: 'running' | 'done' | 'stopped' | 'failed' | 'receiving';
  declare source: 'link' | 'import';
  declare name: string | null;
  declare gaps: number;
  declare endedAt: Date | null;
  /** Where its samples lie: a row a second, or packed by channel once it has ended. */
  declare form: 'rows' | 'columns';
  declare meta: CaptureMeta | null;
  /** Where it stands, for the screens of other servers; written after every committed second. */
  declare status: CaptureStatus | null;
  /** Of an import: what has come up so far. */
  declare receivedSamples: number;
  declare receivedBytes: number;
  declare receivedParts: number;
  /** What another server was asked to do with it; its owner does it and takes it away. */
  declare command: { command: CaptureCommand['command']; by: string; accountId: string } | null;
}

/** A channel of an ended capture, or a part of it: `encodeColumn`'s bytes, deflated. */
export class CaptureColumn extends Model {
  declare captureId: string;
  declare channel: string;
  declare part: number;
  declare shopId: string;
  declare unit: string;
  declare quantum: number | null;
  declare kind: 'number' | 'text';
  declare n: number;
  declare fromS: number;
  declare toS: number;
  declare data: Buffer;
}

export class CaptureRow extends Model {
  declare captureId: string;
  declare epoch: number;
  declare seq: number;
  declare shopId: string;
  declare atMs: number;
  declare data: Record<string, [number, number | string][]>;
}

export class StoredDiagnosisRow extends Owned {
  declare jobId: string;
  declare coreVersion: string;
  declare input: Case;
  declare settings: Settings;
  declare output: Diagnosis;
}

/** A run of a service procedure; `data` is what is followed, as it was when the run began. */
export class ServiceRun extends Owned {
  declare jobId: string;
  declare by: string;
  declare data: Procedure;
  /** Where it was asked for with `include`. */
  declare events?: ServiceEvent[];
}

/** What happened in a run; never changed. */
export class ServiceEvent extends Owned {
  declare jobId: string;
  declare runId: string;
  declare by: string;
  declare atMs: number;
  declare data: Happened;
}

/** Parts, decisions, outcomes, figures of the vehicle, pair readings. */
export class ServiceEntry extends Owned {
  declare jobId: string;
  declare rev: number;
  declare undone: boolean;
  declare by: string;
  declare kind: EntryKind;
  declare data: EntryData[EntryKind];
}

export class Photo extends Owned {
  declare jobId: string;
  declare rev: number;
  declare undone: boolean;
  declare by: string;
  declare runId: string | null;
  declare step: string | null;
  declare label: string;
  declare good: boolean;
  declare width: number;
  declare height: number;
  declare bytes: number;
  /** JPEG, and the same small. */
  declare image: Buffer;
  declare small: Buffer;
}

export class OwnProcedure extends Owned {
  declare rev: number;
  declare undone: boolean;
  declare by: string;
  /** The procedure's own id. */
  declare slug: string;
  declare kind: OwnKind;
  declare copiedFrom: string | null;
  declare data: { id: string; title: string };
}

/** How tables with one set of headers are read in a shop. */
export class TableLayout extends Model {
  declare shopId: string;
  declare headersHash: string;
  declare by: string;
  declare data: Pick<LayoutView, 'layout' | 'roles'>;
}

/** One thing a job can be found by: a word of its texts, a code, a cause, a part, a person. */
export class JobTag extends Model {
  declare jobId: string;
  declare kind: string;
  declare value: string;
  declare shopId: string;
  declare createdAt: Date;
}

/** Each word that stands in any job of the shop, once: how a beginning finds its endings. */
export class ShopWord extends Model {
  declare shopId: string;
  declare word: string;
}

export class JobLesson extends Model {
  declare jobId: string;
  declare shopId: string;
  declare createdAt: Date;
  declare leftOut: boolean;
  declare data: Lesson;
}

/** Who changed what of the shop: settings, people, what is learned from. Never changed. */
export class ShopChange extends Owned {
  declare accountId: string | null;
  declare by: string;
  declare kind: string;
  declare data: Record<string, unknown>;
}

/** One try at a practice car. */
export class PracticeAttempt extends Owned {
  /** Of an exam: which exam, and which car of it. */
  declare place: string | null;
  declare rev: number;
  declare accountId: string;
  declare by: string;
  /** Null for a drive that is only looked at. */
  declare jobId: string | null;
  declare data: AttemptData;
}

export interface AttemptData {
  scenario: PracticeScenario;
  hints: boolean;
  /** The exam it belongs to. */
  exam: string | null;
  moves: PracticeMove[];
  answer: PracticeAnswer | null;
  driveAnswer?: DriveAnswer | null;
  score: PracticeScore | null;
  /** What always taking the best next test would have done. */
  bestPath?: { what: string; minutes: number; showed: Said }[];
  signed: { by: string; at: string } | null;
}

export class SavedView extends Owned {
  declare accountId: string;
  declare name: string;
  declare query: string;
}

export class LinkLease extends Model {
  declare address: string;
  declare shopId: string;
  declare holder: string;
  declare epoch: number;
  declare expiresAt: Date;
  declare jobId: string | null;
  declare status: LinkStatus | null;
}

const hash = { type: DataTypes.CHAR(64), primaryKey: true };
const id = { type: DataTypes.CHAR(36), primaryKey: true };
const shopId = { type: DataTypes.CHAR(36), allowNull: false };
const uuid = { type: DataTypes.CHAR(36), allowNull: false };
const json = { type: DataTypes.JSON, allowNull: false };
const text = (n: number) => ({ type: DataTypes.STRING(n), allowNull: false });
const rev = { type: DataTypes.INTEGER, allowNull: false, defaultValue: 1 };
const count = { type: DataTypes.BIGINT, allowNull: false, defaultValue: 0 };
const flag = { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false };
const time = { type: DataTypes.DATE(3), allowNull: false };
/** Of a row that was brought in from an archive: by whom and when. */
const imported = { importedBy: { type: DataTypes.STRING(120) }, importedAt: { type: DataTypes.DATE(3) } };

/** Bind all models to a connection. The tables themselves come from the migrations. */
export function defineModels(sequelize: Sequelize): void {
  const define = (
    model: ModelStatic<Model>,
    tableName: string,
    attributes: Parameters<typeof Model.init>[0],
    createdAt = true,
  ) =>
    // Sequelize writes into the attribute objects it is given: each model gets its own.
    (model as typeof Model & ModelStatic<Model>).init(ownCopy(attributes), {
      sequelize,
      tableName,
      modelName: tableName,
      timestamps: createdAt,
      updatedAt: false,
      createdAt: createdAt ? 'createdAt' : false,
    });
  define(Shop, 'shop', { id, name: text(120), settings: json, learned: { type: DataTypes.JSON }, rev });
  define(Account, 'account', {
    id,
    shopId,
    rev,
    email: text(200),
    name: text(120),
    role: text(20),
    passwordHash: { ...text(200), defaultValue: '' },
    disabledAt: { type: DataTypes.DATE(3) },
  });
  define(Session, 'session', {
    id: hash,
    accountId: uuid,
    expiresAt: time,
    device: { ...text(200), defaultValue: '' },
    seenAt: { type: DataTypes.DATE(3) },
  });
  define(Invitation, 'invitation', { id: hash, accountId: uuid, expiresAt: time });
  define(KnownDevice, 'known_device', { id: hash, accountId: { ...uuid, primaryKey: true } });
  define(DoneRequest, 'done_request', {
    accountId: { ...uuid, primaryKey: true },
    keyHash: hash,
    request: text(300),
    bodyHash: text(64),
    status: { type: DataTypes.SMALLINT, allowNull: false },
    response: { type: DataTypes.JSON },
  });
  define(Vehicle, 'vehicle', { id, shopId, rev, data: json });
  define(Job, 'job', {
    id,
    shopId,
    rev,
    vehicleId: uuid,
    status: text(12),
    complaint: json,
    ambient: json,
    adapter: { type: DataTypes.STRING(120) },
    openedBy: text(120),
    practice: flag,
    sealed: flag,
    filed: flag,
    remindAt: { type: DataTypes.DATE(3) },
    summary: { type: DataTypes.JSON },
    changes: { type: DataTypes.INTEGER, allowNull: false, defaultValue: 0 },
    ...imported,
  });
  define(JobEvent, 'job_event', {
    id,
    shopId,
    jobId: uuid,
    accountId: { type: DataTypes.CHAR(36) },
    by: text(120),
    kind: text(40),
    data: json,
    ...imported,
  });
  define(VehicleRecord, 'vehicle_record', { id, shopId, jobId: uuid, rev, data: json });
  define(ReadingRow, 'reading', {
    id,
    shopId,
    jobId: uuid,
    rev,
    phase: text(8),
    source: text(8),
    captureId: { type: DataTypes.CHAR(36) },
    doubtful: { type: DataTypes.STRING(200) },
    undone: flag,
    data: json,
  });
  define(TestRow, 'test_result', {
    id,
    shopId,
    jobId: uuid,
    rev,
    undone: flag,
    phase: { ...text(8), defaultValue: 'before' },
    by: text(120),
    data: json,
  });
  define(Repair, 'repair', { id, shopId, jobId: uuid, rev, undone: flag, by: text(120), data: json });
  define(KnownFigureRow, 'known_figure', {
    id,
    shopId,
    jobId: uuid,
    rev,
    undone: flag,
    by: text(120),
    vehicleId: uuid,
    family: text(120),
    layer: text(8),
    data: json,
  });
  define(Capture, 'capture', {
    id,
    shopId,
    jobId: uuid,
    at: text(20),
    phase: text(8),
    state: text(10),
    gaps: { type: DataTypes.INTEGER, allowNull: false, defaultValue: 0 },
    endedAt: { type: DataTypes.DATE(3) },
    source: { ...text(8), defaultValue: 'link' },
    name: { type: DataTypes.STRING(200) },
    form: { ...text(8), defaultValue: 'rows' },
    meta: { type: DataTypes.JSON },
    status: { type: DataTypes.JSON },
    command: { type: DataTypes.JSON },
    receivedSamples: count,
    receivedBytes: count,
    receivedParts: count,
  });
  define(
    CaptureColumn,
    'capture_column',
    {
      captureId: { ...uuid, primaryKey: true },
      channel: { ...text(60), primaryKey: true },
      part: { type: DataTypes.INTEGER, primaryKey: true },
      shopId,
      unit: text(20),
      quantum: { type: DataTypes.DOUBLE },
      kind: text(8),
      n: { type: DataTypes.INTEGER, allowNull: false },
      fromS: { type: DataTypes.DOUBLE, allowNull: false },
      toS: { type: DataTypes.DOUBLE, allowNull: false },
      data: { type: DataTypes.BLOB('medium'), allowNull: false },
    },
    false,
  );
  define(
    CaptureRow,
    'capture_row',
    {
      captureId: { ...uuid, primaryKey: true },
      epoch: { type: DataTypes.INTEGER, primaryKey: true },
      seq: { type: DataTypes.INTEGER, primaryKey: true },
      shopId,
      atMs: { type: DataTypes.BIGINT, allowNull: false },
      data: json,
    },
    false,
  );
  define(StoredDiagnosisRow, 'diagnosis', {
    id,
    shopId,
    jobId: uuid,
    coreVersion: text(20),
    input: json,
    settings: json,
    output: json,
  });
  const ofJob = { id, shopId, jobId: uuid, by: text(120) };
  define(ServiceRun, 'service_run', { ...ofJob, data: json });
  define(ServiceEvent, 'service_event', { ...ofJob, runId: uuid, atMs: count, data: json });
  define(ServiceEntry, 'service_entry', { ...ofJob, rev, undone: flag, kind: text(12), data: json });
  const pixels = { type: DataTypes.INTEGER, allowNull: false };
  define(Photo, 'photo', {
    ...ofJob,
    rev,
    undone: flag,
    runId: { type: DataTypes.CHAR(36) },
    step: { type: DataTypes.STRING(60) },
    label: { ...text(120), defaultValue: '' },
    good: flag,
    width: pixels,
    height: pixels,
    bytes: pixels,
    image: { type: DataTypes.BLOB('medium'), allowNull: false },
    small: { type: DataTypes.BLOB, allowNull: false },
  });
  define(OwnProcedure, 'own_procedure', {
    id,
    shopId,
    by: text(120),
    rev,
    undone: flag,
    slug: text(60),
    kind: { type: DataTypes.STRING(12), allowNull: false, defaultValue: 'service' },
    copiedFrom: { type: DataTypes.STRING(60) },
    data: json,
  });
  define(
    TableLayout,
    'table_layout',
    { shopId: { ...shopId, primaryKey: true }, headersHash: hash, by: text(120), data: json },
    false,
  );
  define(
    JobTag,
    'job_tag',
    {
      jobId: { ...uuid, primaryKey: true },
      kind: { ...text(10), primaryKey: true },
      value: { ...text(120), primaryKey: true },
      shopId,
      createdAt: time,
    },
    false,
  );
  define(
    ShopWord,
    'shop_word',
    { shopId: { ...shopId, primaryKey: true }, word: { ...text(120), primaryKey: true } },
    false,
  );
  define(
    JobLesson,
    'job_lesson',
    { jobId: { ...uuid, primaryKey: true }, shopId, createdAt: time, leftOut: flag, data: json },
    false,
  );
  define(ShopChange, 'shop_change', {
    id,
    shopId,
    accountId: { type: DataTypes.CHAR(36) },
    by: text(120),
    kind: text(40),
    data: json,
  });
  define(PracticeAttempt, 'practice_attempt', {
    place: { type: DataTypes.STRING(80) },
    id,
    shopId,
    rev,
    accountId: uuid,
    by: text(120),
    jobId: { type: DataTypes.CHAR(36) },
    data: json,
  });
  define(SavedView, 'saved_view', { id, shopId, accountId: uuid, name: text(80), query: text(1000) });
  define(
    LinkLease,
    'link_lease',
    {
      address: { ...text(120), primaryKey: true },
      shopId,
      holder: text(64),
      epoch: { type: DataTypes.INTEGER, allowNull: false },
      expiresAt: time,
      jobId: { type: DataTypes.CHAR(36) },
      status: { type: DataTypes.JSON },
    },
    false,
  );
  associate();
}

/** Who belongs to whom; the tables' own keys come from the migrations. */
function associate(): void {
  Account.belongsTo(Shop, { as: 'shop', foreignKey: 'shopId', constraints: false });
  Job.belongsTo(Vehicle, { as: 'vehicle', foreignKey: 'vehicleId', constraints: false });
  for (const [as, model] of Object.entries<ModelStatic<Model>>(OF_A_JOB))
    Job.hasMany(model, { as, foreignKey: 'jobId', constraints: false });
  ServiceRun.hasMany(ServiceEvent, { as: 'events', foreignKey: 'runId', constraints: false });
}

/** What is read together with a job, by the name under which Sequelize finds it. */
const OF_A_JOB = {
  records: VehicleRecord,
  readings: ReadingRow,
  tests: TestRow,
  repairs: Repair,
  diagnoses: StoredDiagnosisRow,
  runs: ServiceRun,
  entries: ServiceEntry,
} as const;

function ownCopy<T extends object>(attributes: T): T {
  return Object.fromEntries(Object.entries(attributes).map(([k, v]) => [k, { ...(v as object) }])) as T;
}
