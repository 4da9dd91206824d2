/** One line of a typed or pasted forecast: a time, then a temperature. */
const LINE =
  /^\s*(?:(\d{4})-(\d{2})-(\d{2})[T ])?(\d{1,2}):(\d{2})(?::\d{2})?\s*[,;\t ]\s*([+\-−]?\d+(?:[.,]\d+)?)\s*(?:°?\s*[CF])?\s*$/i;

export interface TypedForecast {
  points: { at: string; value: number }[];
  /** Lines that could not be read, from 1. */
  bad: number[];
}

/**
 * Lines of `06:00 4.5` or `2026-02-10 06:00 4.5`, in local time. Without a date each hour is the next one after the one
 * before it: a forecast is read forwards from `now`.
 */
export function typedForecast(text: string, now: Date): TypedForecast {
  const out: TypedForecast = { points: [], bad: [] };
  let before = new Date(now.getTime() - 3_600_000);
  for (const [i, line] of text.split(/\r?\n/).entries()) {
    if (line.trim() === '') continue;
    const m = LINE.exec(line);
    const [hour, minute] = [Number(m?.[4]), Number(m?.[5])];
    if (!m || hour > 23 || minute > 59) {
      out.bad.push(i + 1);
      continue;
    }
    const at = m[1]
      ? new Date(Number(m[1]), Number(m[2]) - 1, Number(m[3]), hour, minute)
      : new Date(before.getFullYear(), before.getMonth(), before.getDate(), hour, minute);
    if (!m[1] && at < before) at.setDate(at.getDate() + 1);
    before = at;
    out.points.push({ at: at.toISOString(), value: Number(m[6]!.replace('−', '-').replace(',', '.')) });
  }
  return out;
}
