/**
 * Single-line changes of TypeScript that a test should notice: each turns a condition, a sum, a word or a figure into
 * another that still compiles more often than not. Comments, imports, types and words for people are left alone.
 */
const OPERATORS = [
  [/ === /, ' !== '],
  [/ !== /, ' === '],
  [/ < /, ' >= '],
  [/ > /, ' <= '],
  [/ <= /, ' > '],
  [/ >= /, ' < '],
  [/ && /, ' || '],
  [/ \|\| /, ' && '],
  [/ \?\? /, ' && '],
  [/ \+ /, ' - '],
  [/ - /, ' + '],
  [/ \* /, ' / '],
  [/\btrue\b/, 'false'],
  [/\bfalse\b/, 'true'],
  [/\bMath\.max\b/, 'Math.min'],
  [/\bMath\.min\b/, 'Math.max'],
  [/\.some\(/, '.every('],
  [/\.every\(/, '.some('],
  [/\.at\(-1\)/, '.at(0)'],
  [/\bawait /, 'void '],
  [/^(\s*)(if|while) \((.+)\)( .*)?$/, '$1$2 (!($3))$4'],
  [/(?<![\w.'"`#-])(\d+(?:\.\d+)?)(?![\w.'"`%])/, (_, n) => String(Number(n) + 1)],
];
const LEFT_ALONE =
  /^\s*(\/\/|\/?\*|import\b|export (\*|\{|type|interface)|type\b|interface\b|declare\b|@|['"`]|\}?\s*$)/;
/** Between words of a sentence, a class of the look, where and how thick a drawing draws, or of the types. */
const NO_CODE =
  /className=|aria-|: (string|number|boolean|readonly)\b.*[;,]$|^\s*<\/?[A-Za-z]|^\s*([xyr]|[xy][12]|c[xy]|d[xy]|width|height|size|rows|fontSize|\w+Width|\w+Radius|tension)(=\{|: )-?\d/;

/** Every change of a file: line (from 0) and what it would be. */
export function changesOf(text) {
  const out = [];
  let typeOnly = false;
  text.split('\n').forEach((line, at) => {
    if (/^(export )?(interface|type) /.test(line)) typeOnly = true;
    const inside = typeOnly;
    if (/^\}|^[^ ].*;$/.test(line)) typeOnly = false;
    if (inside || LEFT_ALONE.test(line) || NO_CODE.test(line)) return;
    const code = line.replace(/(['"`])(?:\\.|(?!\1).)*\1/g, (s) => s[0] + '\u0000'.repeat(s.length - 2) + s[0]);
    for (const [from, to] of OPERATORS) {
      const m = from.exec(code);
      if (!m) continue;
      const changed =
        line.slice(0, m.index) +
        line.slice(m.index, m.index + m[0].length).replace(from, to) +
        line.slice(m.index + m[0].length);
      if (changed !== line) out.push({ at, to: changed });
    }
  });
  return out;
}
