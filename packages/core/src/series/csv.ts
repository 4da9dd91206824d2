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
  yield ['time', ...s.channels.map((c) => quoted(c.unit ? `${c.id} (${c.unit})` : c.id))].join(',');
  const at = s.channels.map(() => 0);
  for (;;) {
    let t = Number.POSITIVE_INFINITY;
    s.channels.forEach((c, k) => {
      if (at[k]! < c.time.length) t = Math.min(t, c.time[at[k]!]!);
    });
    if (t === Number.POSITIVE_INFINITY) return;
    const cells = s.channels.map((c, k) => {
      if (c.time[at[k]!] !== t) return '';
      const v = c.value[at[k]!];
      at[k] = at[k]! + 1;
      return String(v);
    });
    yield `${t},${cells.join(',')}`;
  }
}
