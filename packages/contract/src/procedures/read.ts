import { type Procedure, procedureProblems } from '@just-balance/core/procedures';
import { dtoProblems, SHAPE_BOUNDS, shapeProblem } from '../checks/index.ts';
import { headProblem } from '../formats/head.ts';
import { ProcedureDto } from './dto.ts';
import { type PlacedError, readYaml } from './yaml.ts';

export type ReadProcedure = { ok: true; procedure: Procedure } | { ok: false; errors: PlacedError[] };

/** A service procedure from YAML or JSON (which is YAML too): valid, or every problem with line and field. Never throws. */
export function readProcedure(text: string): ReadProcedure {
  const y = readYaml(text);
  if (!y.ok) return y;
  const { json, place } = y;
  const head = headProblem(json, 'just-balance/procedure');
  if (head) return { ok: false, errors: place([head]) };
  const shape = shapeProblem(json, SHAPE_BOUNDS);
  if (shape) return { ok: false, errors: place([shape]) };
  const errors = dtoProblems(ProcedureDto, json, { unknownKeys: 'refused' });
  const problems = errors.length > 0 ? errors : procedureProblems(json as Procedure);
  if (problems.length > 0) return { ok: false, errors: place(problems) };
  return { ok: true, procedure: json as Procedure };
}
