import { format } from 'date-fns';
import { typed } from '../../ui/typed.ts';

/** A temperature at a moment, as it stands in its box: `at` local, yyyy-MM-dd HH:mm. */
export interface Line {
  at: string;
  value: string;
}

/** How a page keeps them together: a line each. */
const LINE = /^(\d{4}-\d{2}-\d{2} \d{2}:\d{2}) ?(.*)$/;

/** What is kept of a list, in order. */
export function linesOf(text: string): Line[] {
  return text.split('\n').flatMap((line) => {
    const m = LINE.exec(line);
    return m ? [{ at: m[1]!, value: m[2]! }] : [];
  });
}

/** The other way; in time order, unless they stand in rows of their own. */
export function textOf(lines: readonly Line[], asTheyStand = false): string {
  const list = asTheyStand ? lines : [...lines].sort((a, b) => a.at.localeCompare(b.at));
  return list.map((l) => `${l.at} ${l.value}`).join('\n');
}

/** Those of them that are numbers, with their moments in UTC. */
export function pointsOf(text: string): { at: string; value: number }[] {
  return linesOf(text).flatMap(({ at, value }) => {
    const v = Number(typed(value));
    const moment = new Date(at.replace(' ', 'T'));
    return value.trim() === '' || Number.isNaN(v) || Number.isNaN(moment.getTime())
      ? []
      : [{ at: moment.toISOString(), value: v }];
  });
}

/** Of what was copied elsewhere: a time, perhaps with its date, then a temperature. */
const PASTED =
  /^\s*(?:(\d{4})-(\d{2})-(\d{2})[T ])?(\d{1,2}):(\d{2})(?::\d{2})?\s*[,;\t ]\s*([+\-−]?\d+(?:[.,]\d+)?)\s*(?:°?\s*[CF])?\s*$/i;

/**
 * Lines that were pasted, where every one of them is read; none otherwise. Without a date each hour is the next one after
 * the one before it: a forecast is read forwards from `now`.
 */
export function pastedLines(text: string, now: Date): Line[] {
  const out: Line[] = [];
  let before = new Date(now.getTime() - 3_600_000);
  for (const line of text.split(/\r?\n/)) {
    if (line.trim() === '') continue;
    const m = PASTED.exec(line);
    const [hour, minute] = [Number(m?.[4]), Number(m?.[5])];
    if (!m || hour > 23 || minute > 59) return [];
    const at = m[1]
      ? new Date(Number(m[1]), Number(m[2]) - 1, Number(m[3]), hour, minute)
      : new Date(before.getFullYear(), before.getMonth(), before.getDate(), hour, minute);
    if (!m[1] && at < before) at.setDate(at.getDate() + 1);
    before = at;
    out.push({ at: format(at, 'yyyy-MM-dd HH:mm'), value: m[6]!.replace(',', '.') });
  }
  return out;
}
