import type { Series } from '../series/index.ts';

/** A text as a cell; `formulaSafe` puts an apostrophe before what a spreadsheet would take for a formula. */
export function csvCell(text: string, formulaSafe = false): string {
  const safe = formulaSafe && /^[=+\-@\t\r]/.test(text) ? `'${text}` : text;
  return /[",\n\r]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}

/** The head line: `time`, then `id (unit)` per channel. */
export function csvHead(channels: readonly { id: string; unit?: string }[], formulaSafe = false): string {
  return ['time', ...channels.map((c) => csvCell(c.unit ? `${c.id} (${c.unit})` : c.id, formulaSafe))].join(',');
}

/**
 * CSV lines of a series: `time`, then `id (unit)` per channel; a row per distinct time, empty where a channel has no
 * sample. Numbers as JavaScript prints them: reading them back gives the same. `formulaSafe` puts an apostrophe before
 * cells a spreadsheet would take for a formula (they start with = + - @): headers only, numbers stay numbers.
 */
export function* csvLines(s: Series, formulaSafe = false): Generator<string> {
  const columns: { time: Float64Array; value: ArrayLike<number | string> }[] = [...s.channels, ...(s.texts ?? [])];
  yield csvHead([...s.channels, ...(s.texts ?? [])], formulaSafe);
  const at = columns.map(() => 0);
  for (;;) {
    let t = Number.POSITIVE_INFINITY;
    columns.forEach((c, k) => {
      if (at[k]! < c.time.length) t = Math.min(t, c.time[at[k]!]!);
    });
    if (t === Number.POSITIVE_INFINITY) return;
    const cells = columns.map((c, k) => {
      if (c.time[at[k]!] !== t) return '';
      const v = c.value[at[k]!];
      at[k] = at[k]! + 1;
      return typeof v === 'string' ? csvCell(v, formulaSafe) : String(v);
    });
    yield `${t},${cells.join(',')}`;
  }
}
