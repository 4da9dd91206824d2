import { type Procedure, procedureProblems } from '@just-balance/core/procedures';
import { type Document, isMap, isNode, LineCounter, parseDocument } from 'yaml';
import { dtoProblems, type FieldError, SHAPE_BOUNDS, shapeProblem } from '../checks/index.ts';
import { headProblem } from '../formats/head.ts';
import { ProcedureDto } from './dto.ts';

/** A problem with its place in the file; lines from 1. */
export interface PlacedError extends FieldError {
  line: number;
}

export type ReadProcedure = { ok: true; procedure: Procedure } | { ok: false; errors: PlacedError[] };

const MOST_CHARACTERS = 1_000_000;
/** References of one part of a file to another: a few are a convenience, many are an attack. */
const MOST_ALIASES = 20;

/** A service procedure from YAML or JSON (which is YAML too): valid, or every problem with line and field. Never throws. */
export function readProcedure(text: string): ReadProcedure {
  if (text.length > MOST_CHARACTERS)
    return { ok: false, errors: [{ line: 1, field: '', message: 'longer than a million characters' }] };
  const lines = new LineCounter();
  const doc = parseDocument(text, { lineCounter: lines, uniqueKeys: true, prettyErrors: false });
  if (doc.errors.length > 0)
    return {
      ok: false,
      errors: doc.errors.map((e) => ({ line: lines.linePos(e.pos[0]).line, field: '', message: e.message })),
    };
  let json: unknown;
  try {
    json = doc.toJS({ maxAliasCount: MOST_ALIASES });
  } catch (e) {
    return { ok: false, errors: [{ line: 1, field: '', message: (e as Error).message }] };
  }
  const place = (e: FieldError): PlacedError => ({ line: lineOf(doc, lines, e.field), ...e });
  const head = headProblem(json, 'just-balance/procedure');
  if (head) return { ok: false, errors: [place(head)] };
  const shape = shapeProblem(json, SHAPE_BOUNDS);
  if (shape) return { ok: false, errors: [place(shape)] };
  const errors = dtoProblems(ProcedureDto, json, { unknownKeys: 'refused' });
  const problems = errors.length > 0 ? errors : procedureProblems(json as Procedure);
  if (problems.length > 0) return { ok: false, errors: problems.map(place).sort((a, b) => a.line - b.line) };
  return { ok: true, procedure: json as Procedure };
}

/** The line of a field like `steps[2].answers[0].goTo`; of what holds it where it is missing itself. */
function lineOf(doc: Document, lines: LineCounter, field: string): number {
  const path = [...field.matchAll(/[^.[\]]+/g)].map(([part]) => (/^\d+$/.test(part) ? Number(part) : part));
  for (let n = path.length; n >= 0; n--) {
    const holder = n === 0 ? doc.contents : doc.getIn(path.slice(0, n), true);
    // A key stands where it is written, its value perhaps lines below.
    const parent = n === 0 ? null : n === 1 ? doc.contents : doc.getIn(path.slice(0, n - 1), true);
    const key = isMap(parent) ? parent.items.find((i) => String(i.key) === String(path[n - 1]))?.key : undefined;
    const node = isNode(key) ? key : holder;
    if (isNode(node) && node.range) return lines.linePos(node.range[0]).line;
  }
  return 1;
}
