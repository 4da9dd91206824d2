import { dtoProblems } from '@just-balance/contract';
import { ENTRY_KINDS, type HappenedDto, happenedProblems, RunEventsRequest } from '@just-balance/contract/service';
import { eventProblem } from '@just-balance/core/job';
import type { Model, ModelStatic } from 'sequelize';
import { isGroup } from '../common/group.ts';
import { Capture } from '../rows/captures.ts';
import { Job, JobEvent, StoredDiagnosisRow } from '../rows/jobs.ts';
import { KnownFigureRow } from '../rows/known.ts';
import { Photo } from '../rows/photos.ts';
import { ReadingRow } from '../rows/readings.ts';
import { VehicleRecord } from '../rows/records.ts';
import { Repair } from '../rows/repairs.ts';
import { ServiceEntry, ServiceEvent, ServiceRun } from '../rows/service.ts';
import { TestRow } from '../rows/tests.ts';
import { Vehicle } from '../rows/vehicles.ts';
import { diagnosisProblem } from './diagnosisShape.ts';

/** Says what is wrong with a value, or null. */
type Check = (v: unknown) => string | null;

const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;

const uuid: Check = (v) => (typeof v === 'string' && UUID.test(v) ? null : 'an id (UUID)');
const text =
  (most: number): Check =>
  (v) =>
    typeof v === 'string' && v.length <= most ? null : `a text of at most ${most} characters`;
const oneOf =
  (...values: string[]): Check =>
  (v) =>
    values.includes(v as string) ? null : `one of ${values.join(', ')}`;
const whole =
  (low: number, high: number): Check =>
  (v) =>
    Number.isInteger(v) && (v as number) >= low && (v as number) <= high ? null : `a whole number, ${low} to ${high}`;
const flag: Check = (v) => (typeof v === 'boolean' ? null : 'true or false');
/** No car that is read here is older, and no clock that is ahead by a century is a clock. */
const FIRST = Date.parse('1990-01-01T00:00:00Z');
const LAST = Date.parse('2100-01-01T00:00:00Z');
const moment: Check = (v) =>
  typeof v === 'string' &&
  /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{3}Z$/.test(v) &&
  Date.parse(v) >= FIRST &&
  Date.parse(v) < LAST
    ? null
    : 'a moment between 1990 and 2100, as in 2026-05-04T09:12:33.120Z';
const orNull =
  (check: Check): Check =>
  (v) =>
    v === null ? null : check(v);
/** Of a column that archives of before did not have. */
const absentOr =
  (check: Check): Check =>
  (v) =>
    v === undefined ? null : check(v);
const eventMs = whole(1_500_000_000_000, 4_000_000_000_000);
/** What it holds is looked at by every reader of it: see `stored.ts`. */
const object: Check = (v) => (isGroup(v) ? null : 'an object');
const rev = whole(1, 1_000_000);

const happened: Check = (v) => {
  const event = { id: '00000000-0000-7000-8000-000000000000', atMs: 1_600_000_000_000, what: v };
  const p =
    dtoProblems(RunEventsRequest, { events: [event] })[0] ?? happenedProblems(v as HappenedDto, 'events[0].what')[0];
  return p ? `${p.field}: ${p.message}` : null;
};

const span = (m: unknown) =>
  isGroup(m) && Number.isFinite(m.from) && Number.isFinite(m.to) && (m.at === undefined || text(60)(m.at) === null);
const meta: Check = (v) => {
  if (!isGroup(v)) return 'an object';
  for (const key of ['gaps', 'marks'])
    if (
      v[key] !== undefined &&
      !(Array.isArray(v[key]) && (v[key] as unknown[]).length <= 2000 && (v[key] as unknown[]).every(span))
    )
      return `${key}: a list of spans`;
  for (const key of ['startedAtMs', 'seconds'])
    if (v[key] !== undefined && !Number.isFinite(v[key])) return `${key}: a number`;
  if (v.only !== undefined && text(60)(v.only)) return 'only: a channel';
  return v.window === undefined ||
    (isGroup(v.window) && Number.isFinite(v.window.fromMs) && Number.isFinite(v.window.toMs))
    ? null
    : 'window: from and to in ms';
};

const own = { id: uuid, createdAt: moment };
const phase = oneOf('before', 'after');
const by = text(120);

interface Table {
  model: ModelStatic<Model>;
  /** Every column that travels; the shop's and the account's do not. */
  columns: Readonly<Record<string, Check>>;
  most: number;
  /** What must be so beside each column by itself. */
  fits?(row: Readonly<Record<string, unknown>>): { field: string; message: string } | null;
}

/** What of a job travels, table by table, in the order in which it can be written. [house] bounds */
export const TABLES = {
  vehicle: { model: Vehicle, columns: { ...own, rev, data: object }, most: 1 },
  job: {
    model: Job,
    columns: {
      ...own,
      rev,
      vehicleId: uuid,
      status: oneOf('open', 'parked', 'closed'),
      complaint: object,
      ambient: object,
      adapter: orNull(text(120)),
      openedBy: by,
    },
    most: 1,
  },
  events: {
    model: JobEvent,
    columns: { ...own, by, kind: text(40), data: object },
    most: 100_000,
    fits: (row) => eventProblem(String(row.kind), row.data),
  },
  records: { model: VehicleRecord, columns: { ...own, rev, data: object }, most: 1000 },
  captures: {
    model: Capture,
    columns: {
      ...own,
      at: text(20),
      phase,
      state: oneOf('done', 'stopped', 'failed'),
      source: oneOf('link', 'import'),
      name: orNull(text(200)),
      gaps: whole(0, 1_000_000),
      endedAt: orNull(moment),
      meta: orNull(meta),
    },
    most: 2000,
  },
  readings: {
    model: ReadingRow,
    columns: {
      ...own,
      rev,
      phase,
      source: oneOf('capture', 'hand', 'import', 'recording'),
      captureId: orNull(uuid),
      doubtful: orNull(text(200)),
      undone: flag,
      data: object,
    },
    most: 5000,
  },
  tests: { model: TestRow, columns: { ...own, rev, undone: flag, phase, by, data: object }, most: 5000 },
  repairs: { model: Repair, columns: { ...own, rev, undone: flag, by, data: object }, most: 5000 },
  known: {
    model: KnownFigureRow,
    columns: {
      ...own,
      rev,
      undone: flag,
      by,
      vehicleId: uuid,
      family: text(120),
      layer: oneOf('entered', 'shop'),
      data: object,
    },
    most: 5000,
  },
  diagnoses: {
    model: StoredDiagnosisRow,
    columns: { ...own, coreVersion: text(20), input: object, settings: object, output: diagnosisProblem },
    most: 20_000,
  },
  runs: { model: ServiceRun, columns: { ...own, by, data: object }, most: 1000 },
  runEvents: {
    model: ServiceEvent,
    columns: { ...own, by, runId: uuid, atMs: eventMs, orderMs: absentOr(orNull(eventMs)), data: happened },
    most: 100_000,
  },
  entries: {
    model: ServiceEntry,
    columns: { ...own, rev, undone: flag, by, kind: oneOf(...Object.keys(ENTRY_KINDS)), data: object },
    most: 20_000,
  },
  photos: {
    model: Photo,
    columns: {
      ...own,
      rev,
      undone: flag,
      by,
      runId: orNull(uuid),
      step: orNull(text(60)),
      label: text(120),
      good: flag,
      width: whole(1, 10_000),
      height: whole(1, 10_000),
      bytes: whole(1, 50_000_000),
    },
    most: 400,
  },
} as const satisfies Record<string, Table>;

export type TableName = keyof typeof TABLES;
export const TABLE_NAMES = Object.keys(TABLES) as TableName[];
export type ArchiveRow = Record<string, unknown> & { id: string };
export type ArchiveRows = Record<TableName, ArchiveRow[]>;

/** A row as it travels: only its columns, moments as text. */
export function rowOut(table: TableName, row: Model): ArchiveRow {
  const out: Record<string, unknown> = {};
  for (const column of Object.keys(TABLES[table].columns)) {
    const v = row.get(column);
    out[column] = v instanceof Date ? v.toISOString() : v != null && column.endsWith('Ms') ? Number(v) : (v ?? null);
  }
  return out as ArchiveRow;
}

/** The first thing that is wrong with the rows of an archive, with its place; null where nothing is. */
export function rowsProblem(rows: unknown): string | null {
  if (!isGroup(rows)) return 'job.json: rows: an object';
  const seen = new Set<string>();
  for (const name of TABLE_NAMES) {
    const table: Table = TABLES[name];
    const list = rows[name];
    if (!Array.isArray(list)) return `job.json: rows.${name}: a list`;
    if (list.length > table.most) return `job.json: rows.${name}: at most ${table.most} rows`;
    for (const [i, row] of list.entries()) {
      const at = `job.json: rows.${name}[${i}]`;
      if (!isGroup(row)) return `${at}: an object`;
      for (const [column, check] of Object.entries(table.columns)) {
        const problem = check(row[column]);
        if (problem) return `${at}.${column}: ${problem}`;
      }
      const unfit = table.fits?.(row);
      if (unfit) return `${at}.${unfit.field}: ${unfit.message}`;
      if (seen.has(row.id as string)) return `${at}.id: stands twice in this archive`;
      seen.add(row.id as string);
    }
  }
  const all = rows as unknown as ArchiveRows;
  if (all.job.length !== 1) return 'job.json: rows.job: exactly one';
  if (all.vehicle.length !== 1 || all.vehicle[0]!.id !== all.job[0]!.vehicleId)
    return 'job.json: rows.vehicle: exactly the job’s vehicle';
  const runs = new Set(all.runs.map((r) => r.id));
  const lost = all.runEvents.findIndex((e) => !runs.has(e.runId as string));
  if (lost >= 0) return `job.json: rows.runEvents[${lost}].runId: no such run in this archive`;
  if (all.known.some((k) => k.vehicleId !== all.vehicle[0]!.id)) return 'job.json: rows.known: of another vehicle';
  return null;
}
