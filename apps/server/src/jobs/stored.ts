import {
  AmbientRequest,
  ComplaintDto,
  dtoProblems,
  type FieldError,
  KnownFigureRequest,
  NewRepairRequest,
  ReadingDto,
  TestResultDto,
  testProblems,
  VehicleRequest,
} from '@just-balance/contract';
import { ENTRY_KINDS, type EntryKind, entryProblems, storedProcedureProblems } from '@just-balance/contract/service';
import type { TestResult } from '@just-balance/core/case';
import type { Model, ModelStatic } from 'sequelize';
import { isGroup } from '../common/group.ts';
import { Job } from '../rows/jobs.ts';
import { KnownFigureRow } from '../rows/known.ts';
import { ReadingRow } from '../rows/readings.ts';
import { VehicleRecord } from '../rows/records.ts';
import { Repair } from '../rows/repairs.ts';
import { ServiceEntry, ServiceRun } from '../rows/service.ts';
import { TestRow } from '../rows/tests.ts';
import { Vehicle } from '../rows/vehicles.ts';

/**
 * What a job's rows hold as JSON, and when it is as it should be. Rows of older versions, or of a hand in the database,
 * may hold anything: every reader of them asks here first, and what does not fit is named, not shown and not judged.
 */
export interface StoredResource {
  model: ModelStatic<Model>;
  column: 'data' | 'complaint' | 'ambient';
  problems(json: unknown): FieldError[];
}

const ID = '00000000-0000-7000-8000-000000000000';

/** A row's JSON lacks the id and layer that the request carried beside it. */
function within(type: new () => object, beside: object) {
  return (json: unknown) =>
    isGroup(json)
      ? dtoProblems(type, { ...Object.fromEntries(Object.entries(json).filter(([, v]) => v !== null)), ...beside })
      : [{ field: '', message: 'must be an object' }];
}

function recordProblems(json: unknown): FieldError[] {
  if (!isGroup(json)) return [{ field: '', message: 'must be an object' }];
  const bad = (field: string, message: string) => ({ field, message });
  const out: FieldError[] = [];
  if (json.phase !== 'before' && json.phase !== 'after') out.push(bad('phase', 'before or after'));
  if (json.source !== 'link' && json.source !== 'hand') out.push(bad('source', 'link or hand'));
  if (typeof json.lampOn !== 'boolean') out.push(bad('lampOn', 'true or false'));
  if (json.monitorBytes !== null && !/^([0-9a-f]{2}){4,8}$/i.test(String(json.monitorBytes)))
    out.push(bad('monitorBytes', 'four bytes in hex, or null'));
  const list = (key: string, fits: (v: Record<string, unknown>) => boolean, what: string) => {
    const v = json[key];
    if (!Array.isArray(v) || !v.every((x) => isGroup(x) && fits(x))) out.push(bad(key, what));
  };
  list(
    'codes',
    (c) => typeof c.code === 'string' && ['stored', 'pending', 'permanent'].includes(String(c.state)),
    'a list of codes, each with its state',
  );
  list(
    'freezeFrame',
    (f) => typeof f.name === 'string' && typeof f.unit === 'string' && ['number', 'string'].includes(typeof f.value),
    'a list of values, each with name and unit',
  );
  if (json.sensors !== undefined && json.sensors !== null)
    list('sensors', (s) => typeof s.bank === 'number' && typeof s.sensor === 'number', 'a list of sensors, or null');
  return out;
}

/** An entry's kind stands beside its data: it fits where it fits one of them. */
function entryFits(json: unknown): FieldError[] {
  const tries = (Object.keys(ENTRY_KINDS) as EntryKind[]).map((kind) => entryProblems(kind, json));
  return tries.find((t) => t.length === 0) ?? tries.sort((a, b) => a.length - b.length)[0]!;
}

export const STORED = {
  vehicle: { model: Vehicle, column: 'data', problems: (json) => dtoProblems(VehicleRequest, json) },
  complaint: { model: Job, column: 'complaint', problems: (json) => dtoProblems(ComplaintDto, json) },
  ambient: { model: Job, column: 'ambient', problems: (json) => dtoProblems(AmbientRequest, json) },
  record: { model: VehicleRecord, column: 'data', problems: recordProblems },
  reading: { model: ReadingRow, column: 'data', problems: (json) => dtoProblems(ReadingDto, json) },
  test: {
    model: TestRow,
    column: 'data',
    problems: (json) => {
      const shape = dtoProblems(TestResultDto, json);
      return shape.length > 0 ? shape : testProblems(json as TestResult, '');
    },
  },
  repair: { model: Repair, column: 'data', problems: within(NewRepairRequest, { id: ID }) },
  run: { model: ServiceRun, column: 'data', problems: storedProcedureProblems },
  entry: { model: ServiceEntry, column: 'data', problems: entryFits },
  known: { model: KnownFigureRow, column: 'data', problems: within(KnownFigureRequest, { id: ID, layer: 'shop' }) },
} satisfies Record<string, StoredResource>;

export type StoredResourceName = keyof typeof STORED;

/** What is left of a JSON value once its faulty top-level fields are taken out and what must be there is put in. */
function mended<T extends object>(json: unknown, problems: readonly FieldError[], fallback: T): T {
  if (problems.length === 0) return json as T;
  const kept: Record<string, unknown> = isGroup(json) ? { ...json } : {};
  for (const p of problems) delete kept[p.field.split(/[.[]/)[0]!];
  return { ...fallback, ...kept };
}

export interface Damage {
  resource: StoredResourceName;
  id: string;
  problems: FieldError[];
  stored: unknown;
}

/** A vehicle that can be shown, and what is wrong with the stored one. */
export function readVehicle(v: Vehicle): { value: VehicleRequest; damage: Damage[] } {
  const problems = STORED.vehicle.problems(v.data);
  const fallback = {
    label: 'Vehicle that cannot be read',
    fuel: 'petrol',
    metering: 'maf',
    displacementL: 2,
    cylinders: 4,
  } satisfies VehicleRequest;
  return { value: mended(v.data, problems, fallback), damage: damageOf('vehicle', v.id, problems, v.data) };
}

/** What was found to be without fault, by what it is: a list reads the same heads again and again. */
const sound = new Set<string>();
const MOST_SOUND = 5000;
const MOST_CHARACTERS = 2000;

function problemsOf(resource: 'complaint' | 'ambient', value: unknown): FieldError[] {
  const key = `${resource} ${JSON.stringify(value)}`;
  if (sound.has(key)) return [];
  const problems = STORED[resource].problems(value);
  if (problems.length === 0 && key.length <= MOST_CHARACTERS) {
    if (sound.size >= MOST_SOUND) sound.clear();
    sound.add(key);
  }
  return problems;
}

/** Complaint and surroundings of a job that can be shown, and what is wrong with the stored ones. */
export function readHead(job: Pick<Job, 'id' | 'complaint' | 'ambient'>) {
  const complaint = problemsOf('complaint', job.complaint);
  const ambient = problemsOf('ambient', job.ambient);
  return {
    complaint: mended<ComplaintDto>(job.complaint, complaint, { symptoms: [] }),
    ambient: mended<AmbientRequest>(job.ambient, ambient, {}),
    damage: [
      ...damageOf('complaint', job.id, complaint, job.complaint),
      ...damageOf('ambient', job.id, ambient, job.ambient),
    ],
  };
}

/** The rows that can be read; the others as damage. */
export function readable<T extends Model & { id: string; data: unknown }>(
  resource: StoredResourceName,
  rows: readonly T[],
  damage: Damage[],
): T[] {
  return rows.filter((r) => {
    const problems = STORED[resource].problems(r.data);
    damage.push(...damageOf(resource, r.id, problems, r.data));
    return problems.length === 0;
  });
}

function damageOf(resource: StoredResourceName, id: string, problems: FieldError[], stored: unknown): Damage[] {
  return problems.length > 0 ? [{ resource, id, problems: problems.slice(0, 20), stored }] : [];
}
