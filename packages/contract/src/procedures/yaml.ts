import { type Document, isMap, isNode, LineCounter, parseDocument } from 'yaml';
import type { FieldError } from '../checks/index.ts';

/** A problem with its place in the file; lines from 1. */
export interface PlacedError extends FieldError {
  line: number;
}

const MOST_CHARACTERS = 1_000_000;
/** References of one part of a file to another: a few are a convenience, many are an attack. */
const MOST_ALIASES = 20;

/** A YAML or JSON text as a value, with what finds the line of a field in it; or what is wrong with the text. Never throws. */
export function readYaml(
  text: string,
): { ok: true; json: unknown; place: (e: FieldError) => PlacedError } | { ok: false; errors: PlacedError[] } {
  if (text.length > MOST_CHARACTERS)
    return { ok: false, errors: [{ line: 1, field: '', message: 'longer than a million characters' }] };
  const lines = new LineCounter();
  const doc = parseDocument(text, { lineCounter: lines, uniqueKeys: true, prettyErrors: false });
  if (doc.errors.length > 0)
    return {
      ok: false,
      errors: doc.errors.map((e) => ({ line: lines.linePos(e.pos[0]).line, field: '', message: e.message })),
    };
  try {
    const json: unknown = doc.toJS({ maxAliasCount: MOST_ALIASES });
    return { ok: true, json, place: (e) => ({ line: lineOf(doc, lines, e.field), ...e }) };
  } catch (e) {
    return { ok: false, errors: [{ line: 1, field: '', message: (e as Error).message }] };
  }
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
