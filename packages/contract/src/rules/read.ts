import { type InspectionRule, ruleProblems } from '@just-balance/core/readiness';
import { dtoProblems, SHAPE_BOUNDS, shapeProblem } from '../checks/index.ts';
import { headProblem, type ReadResult } from '../formats/head.ts';
import { type PlacedError, readYaml } from '../procedures/yaml.ts';
import { InspectionRuleDto } from './dto.ts';

/** A parsed value as an inspection rule: valid, or every problem with its field. Unknown fields are ignored. */
export function checkInspectionRule(json: unknown): ReadResult<InspectionRule> {
  const head = headProblem(json, 'just-balance/inspection-rule') ?? shapeProblem(json, SHAPE_BOUNDS);
  if (head) return { ok: false, errors: [head] };
  const errors = dtoProblems(InspectionRuleDto, json);
  const problems = errors.length > 0 ? errors : ruleProblems(json as InspectionRule);
  return problems.length > 0 ? { ok: false, errors: problems } : { ok: true, value: json as InspectionRule };
}

/** An inspection rule from YAML or JSON: valid, or every problem with line and field. Never throws. */
export function readInspectionRule(
  text: string,
): { ok: true; rule: InspectionRule } | { ok: false; errors: PlacedError[] } {
  const y = readYaml(text);
  if (!y.ok) return y;
  const r = checkInspectionRule(y.json);
  return r.ok ? { ok: true, rule: r.value } : { ok: false, errors: y.place(r.errors) };
}
