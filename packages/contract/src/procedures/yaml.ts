import {
  Composer,
  type CST,
  type Document,
  isMap,
  isNode,
  isScalar,
  Lexer,
  LineCounter,
  type Pair,
  Parser,
  visit,
} from 'yaml';
import type { FieldError } from '../checks/index.ts';

/** A problem with its place in the file; lines from 1. */
export interface PlacedError extends FieldError {
  line: number;
}

/** What a file may be before anything is made of it: many times the longest of ours. [house] */
export const MOST_CHARACTERS = 200_000;
const MOST_VALUES = 10_000;
const MOST_DEPTH = 24;
/** References of one part of a file to another: a few are a convenience, many are an attack. */
const MOST_ALIASES = 20;
/** How the lexer begins a plain or block scalar, one in quotes, and lists and maps. */
const COUNTED = new Set(['\u001f', '"', "'", '|', '>', '[', '{', '-']);
/** Faults told of one file: nobody reads more, and each is looked up in the text. */
const MOST_ERRORS = 100;

const refused = (line: number, message: string) => ({ ok: false as const, errors: [{ line, field: '', message }] });

/**
 * A YAML or JSON text as a value, with what finds the lines of fields in it; or what is wrong with the text. The text is
 * bounded in length, values and depth while it is read, before any of it becomes a value. Never throws.
 */
export function readYaml(
  text: string,
):
  | { ok: true; json: unknown; place: (e: readonly FieldError[]) => PlacedError[] }
  | { ok: false; errors: PlacedError[] } {
  if (text.length > MOST_CHARACTERS)
    return refused(1, `longer than ${MOST_CHARACTERS.toLocaleString('en-US')} characters`);
  const lines = new LineCounter();
  const tokens: CST.Token[] = [];
  lines.addNewLine(0);
  const parser = new Parser(lines.addNewLine);
  let values = 0;
  const here = () => lines.linePos(parser.offset).line;
  try {
    for (const lexeme of new Lexer().lex(text)) {
      for (const token of parser.next(lexeme)) tokens.push(token);
      if (COUNTED.has(lexeme[0]!) && ++values > MOST_VALUES)
        return refused(here(), `more than ${MOST_VALUES.toLocaleString('en-US')} values`);
      // The stack holds the document and the scalar at hand too.
      if (parser.stack.length > MOST_DEPTH + 2) return refused(here(), `nested deeper than ${MOST_DEPTH}`);
    }
    for (const token of parser.end()) tokens.push(token);
    const [doc, second] = [...new Composer({ uniqueKeys: false }).compose(tokens)] as (Document | undefined)[];
    if (!doc) return refused(1, 'nothing in it');
    if (second) return refused(lines.linePos(second.range?.[0] ?? 0).line, 'a second document in one file');
    const errors = [...doc.errors.map((e) => ({ at: e.pos[0], message: e.message })), ...repeatedKeys(doc)];
    if (errors.length > 0)
      return {
        ok: false,
        errors: errors
          .slice(0, MOST_ERRORS)
          .map((e) => ({ line: lines.linePos(e.at).line, field: '', message: e.message })),
      };
    const json: unknown = doc.toJS({ maxAliasCount: MOST_ALIASES });
    return {
      ok: true,
      json,
      place: (found) =>
        found
          .slice(0, MOST_ERRORS)
          .map((e) => ({ line: lineOf(doc, lines, e.field), ...e }))
          .sort((a, b) => a.line - b.line),
    };
  } catch (e) {
    return refused(1, (e as Error).message);
  }
}

/** Keys that stand twice in their map; by a set, since the package holds each key against each other. */
function repeatedKeys(doc: Document): { at: number; message: string }[] {
  const out: { at: number; message: string }[] = [];
  visit(doc, {
    Map: (_, map) => {
      const seen = new Set<string>();
      for (const { key } of map.items as Pair[]) {
        const name = isScalar(key) ? String(key.value) : null;
        if (name !== null && seen.has(name))
          out.push({
            at: isNode(key) && key.range ? key.range[0] : 0,
            message: `the key "${name.slice(0, 60)}" stands twice`,
          });
        if (name !== null) seen.add(name);
      }
    },
  });
  return out;
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
