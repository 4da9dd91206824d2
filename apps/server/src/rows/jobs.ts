import { type ComplaintDto, type JobSummary } from '@just-balance/contract';
import { type Ambient, type Case } from '@just-balance/core/case';
import { type Diagnosis, type Settings } from '@just-balance/core/diagnosis';
import type { JobOrder } from '@just-balance/core/shop';
import { DataTypes, type Model, type ModelStatic } from 'sequelize';
import { type Define, flag, id, imported, json, Owned, rev, shopId, text, uuid } from './columns.ts';
import { ReadingRow } from './readings.ts';
import { VehicleRecord } from './records.ts';
import { Repair } from './repairs.ts';
import { ServiceEntry, ServiceRun } from './service.ts';
import { TestRow } from './tests.ts';
import { Vehicle } from './vehicles.ts';

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
  /** How many parts its works still ask for, or have here and not fitted. */
  declare orders: number;
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
  /** Number plate; absent: of before it was kept. */
  plate?: string | null;
  /** What the logbook shows beside it: the cause that was repaired, else the leading one; every code that was read. */
  found?: { cause: string | null; codes: string[] };
  /** Parts its works ask for; absent: of before there was a list of them. */
  orders?: (Omit<JobOrder, 'atMs'> & { at: string })[];
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

export class StoredDiagnosisRow extends Owned {
  declare jobId: string;
  declare coreVersion: string;
  declare input: Case;
  declare settings: Settings;
  declare output: Diagnosis;
}

export function defineJobs(define: Define): void {
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
    orders: { type: DataTypes.INTEGER, allowNull: false, defaultValue: 0 },
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
  define(StoredDiagnosisRow, 'diagnosis', {
    id,
    shopId,
    jobId: uuid,
    coreVersion: text(20),
    input: json,
    settings: json,
    output: json,
  });
  Job.belongsTo(Vehicle, { as: 'vehicle', foreignKey: 'vehicleId', constraints: false });
  for (const [as, model] of Object.entries<ModelStatic<Model>>(OF_A_JOB))
    Job.hasMany(model, { as, foreignKey: 'jobId', constraints: false });
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
