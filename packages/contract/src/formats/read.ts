import 'reflect-metadata';
import type { Case, TestResult } from '@just-balance/core/case';
import { NO_EVIDENCE, outcomesOf, TEST_BY_ID } from '@just-balance/core/catalogue';
import { resolveBanks, type Settings } from '@just-balance/core/diagnosis';
import { dtoProblems, type FieldError, SHAPE_BOUNDS, shapeProblem } from '../checks/index.ts';
import { CaseDto } from './case.ts';
import { headProblem, type ReadResult } from './head.ts';
import { SettingsDto } from './settings.ts';

/** No figure of a case is larger: pressures, counts, minutes and days included. [house] */
const CASE_BOUNDS = { ...SHAPE_BOUNDS, number: 1e7 };
const MAX_VALUES = 40;

/** What tests and outcomes the catalogue does not know. */
export function testProblems(t: TestResult, field: string): FieldError[] {
  const row = TEST_BY_ID.get(t.id);
  if (!row) return [{ field: `${field}.id`, message: `unknown test "${t.id}"` }];
  const legal: string[] = [...outcomesOf(row), ...NO_EVIDENCE];
  const outcomes = t.outcome === undefined ? [] : [t.outcome].flat();
  const out: FieldError[] = [];
  for (const o of outcomes) {
    if (typeof o !== 'string' || !legal.includes(o)) {
      out.push({
        field: `${field}.outcome`,
        message: `${JSON.stringify(o).slice(0, 60)} is not an outcome of ${t.id}: ${outcomesOf(row).join(', ')}`,
      });
    }
  }
  const values = Object.entries(t.values ?? {});
  if (values.length > MAX_VALUES) out.push({ field: `${field}.values`, message: `at most ${MAX_VALUES} values` });
  for (const [k, v] of values.slice(0, MAX_VALUES)) {
    if (typeof v === 'number' && !Number.isFinite(v))
      out.push({ field: `${field}.values.${k}`, message: 'not a finite number' });
    if (v === null || typeof v === 'object') out.push({ field: `${field}.values.${k}`, message: 'a number or a text' });
  }
  if (!row.reading && outcomes.length === 0 && !t.values)
    out.push({ field, message: `${t.id} needs an outcome${row.measure ? ' or values' : ''}` });
  return out;
}

/** A parsed JSON value as a case: valid, or every problem with its field. Unknown fields are ignored. */
export function readCase(json: unknown): ReadResult<Case> {
  const object = headProblem(json, 'just-balance/case');
  if (object?.field === '') return { ok: false, errors: [object] };
  const shape = shapeProblem(json, CASE_BOUNDS);
  if (shape) return { ok: false, errors: [shape] };
  if (object) return { ok: false, errors: [object] };
  const errors = dtoProblems(CaseDto, json);
  if (errors.length > 0) return { ok: false, errors };
  const c = json as Case;
  const problems = (c.tests ?? []).flatMap((t, i) => testProblems(t, `tests[${i}]`));
  if ((c.readings ?? []).length + (c.tests ?? []).length === 0)
    problems.push({ field: 'readings', message: 'at least one reading or test is required' });
  // What follows reads into the tests: only where they are whole.
  if (problems.length > 0) return { ok: false, errors: problems };
  if (c.vehicle.banks === 1 && resolveBanks({ ...c, vehicle: { ...c.vehicle, banks: undefined } }) === 2) {
    problems.push({ field: bank2Field(c), message: 'bank 2 data on a vehicle with banks: 1' });
  }
  return problems.length > 0 ? { ok: false, errors: problems } : { ok: true, value: c };
}

function bank2Field(c: Case): string {
  for (const [i, r] of (c.readings ?? []).entries()) {
    const sensor = Object.keys(r.o2 ?? {}).find((k) => k.startsWith('bank2'));
    if (sensor) return `readings[${i}].o2.${sensor}`;
    for (const field of ['trims', 'lambda', 'o2V'] as const)
      if (r[field]?.bank2) return `readings[${i}].${field}.bank2`;
  }
  return 'vehicle.banks';
}

function fail(field: string, message: string): ReadResult<never> {
  return { ok: false, errors: [{ field, message }] };
}

/** Diagnosis settings from JSON; unknown fields are ignored. */
export function readSettings(json: unknown): ReadResult<Settings> {
  if (json === null || typeof json !== 'object' || Array.isArray(json)) return fail('', 'settings are a JSON object');
  const shape = shapeProblem(json, CASE_BOUNDS);
  if (shape) return { ok: false, errors: [shape] };
  const errors = dtoProblems(SettingsDto, json);
  return errors.length > 0 ? { ok: false, errors } : { ok: true, value: json as Settings };
}
