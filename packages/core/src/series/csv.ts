import type { Series } from './series.ts';

/**
 * CSV lines of a series: `time`, then `id (unit)` per channel; a row per distinct time, empty where a channel has no
 * sample. Numbers as JavaScript prints them: reading them back gives the same. `formulaSafe` puts an apostrophe before
 * cells a spreadsheet would take for a formula (they start with = + - @): headers only, numbers stay numbers.
 */
export function* csvLines(s: Series, formulaSafe = false): Generator<string> {
  const quoted = (t: string) => {
    const safe = formulaSafe && /^[=+\-@\t\r]/.test(t) ? `'${t}` : t;
    return /[",\n\r]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
  };
  const columns: { time: Float64Array; value: ArrayLike<number | string> }[] = [...s.channels, ...(s.texts ?? [])];
  const heads = [
    ...s.channels.map((c) => (c.unit ? `${c.id} (${c.unit})` : c.id)),
    ...(s.texts ?? []).map((c) => c.id),
  ];
  yield ['time', ...heads.map(quoted)].join(',');
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
      return typeof v === 'string' ? quoted(v) : String(v);
    });
    yield `${t},${cells.join(',')}`;
  }
}
