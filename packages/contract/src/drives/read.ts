import {
  type CarState,
  DRIVE_PROCEDURES,
  type DriveProcedure,
  driveProblems,
  driveProcedure,
  type PlanRequest,
} from '@just-balance/core/readiness';
import { dtoProblems, type FieldError, SHAPE_BOUNDS, shapeProblem } from '../checks/index.ts';
import { headProblem, type ReadResult } from '../formats/head.ts';
import { type PlacedError, readYaml } from '../procedures/yaml.ts';
import { CarStateDto, DriveProcedureDto, PlanRequestDto } from './dto.ts';

const FORMAT = 'just-balance/drive-procedure';

/** A parsed value as a drive procedure: valid, or every problem with its field. Unknown fields are ignored. */
export function checkDriveProcedure(json: unknown): ReadResult<DriveProcedure> {
  const head = headProblem(json, FORMAT) ?? shapeProblem(json, SHAPE_BOUNDS);
  if (head) return { ok: false, errors: [head] };
  const errors = dtoProblems(DriveProcedureDto, json);
  const problems = errors.length > 0 ? errors : driveProblems(json as DriveProcedure);
  return problems.length > 0 ? { ok: false, errors: problems } : { ok: true, value: json as DriveProcedure };
}

/** A drive procedure from YAML or JSON: valid, or every problem with line and field. Never throws. */
export function readDriveProcedure(
  text: string,
): { ok: true; procedure: DriveProcedure } | { ok: false; errors: PlacedError[] } {
  const y = readYaml(text);
  if (!y.ok) return y;
  const r = checkDriveProcedure(y.json);
  return r.ok ? { ok: true, procedure: r.value } : { ok: false, errors: y.place(r.errors) };
}

/** Problems of a state within something larger. */
const under = (field: string, errors: readonly FieldError[]): FieldError[] =>
  errors.map((e) => ({ ...e, field: e.field ? `${field}.${e.field}` : field }));

/** What is known of a car before a start: the state itself, or what holds it under `state`. */
export function readCarState(json: unknown): ReadResult<CarState> {
  const held = (json as { state?: unknown } | null)?.state;
  const state = held !== undefined && typeof held === 'object' ? held : json;
  const shape = shapeProblem(state, SHAPE_BOUNDS);
  if (shape) return { ok: false, errors: [shape] };
  const errors = dtoProblems(CarStateDto, state);
  return errors.length > 0 ? { ok: false, errors } : { ok: true, value: state as CarState };
}

/** A plan request: valid, or every problem with its field. */
export function readPlanRequest(json: unknown): ReadResult<PlanRequest> {
  const head = headProblem(json, 'just-balance/drive-plan-request') ?? shapeProblem(json, SHAPE_BOUNDS);
  if (head) return { ok: false, errors: [head] };
  const errors = dtoProblems(PlanRequestDto, json);
  if (errors.length > 0) return { ok: false, errors };
  const { procedure, now, state, forecast, cooling } = json as PlanRequestDto;
  const found =
    typeof procedure === 'string'
      ? driveProcedure(procedure)
      : (() => {
          const r = checkDriveProcedure(procedure);
          return r.ok ? r.value : r;
        })();
  if (!found)
    return {
      ok: false,
      errors: [
        {
          field: 'procedure',
          message: `"${String(procedure)}" is no drive procedure: ${DRIVE_PROCEDURES.map((p) => p.id).join(', ')}`,
        },
      ],
    };
  if ('ok' in found) return { ok: false, errors: under('procedure', found.ok ? [] : found.errors) };
  return { ok: true, value: { procedure: found, now, state, forecast: forecast ?? [], cooling: cooling ?? [] } };
}
