/** ISO 8601 of Unix seconds, to the millisecond, in UTC. Howard Hinnant's civil-from-days (public domain). */
export function isoOf(unixSeconds: number): string {
  const ms = Math.round(unixSeconds * 1000);
  const days = Math.floor(ms / 86_400_000);
  const rest = ms - days * 86_400_000;
  const z = days + 719_468;
  const era = Math.floor(z / 146_097);
  const doe = z - era * 146_097;
  const yoe = Math.floor((doe - Math.floor(doe / 1460) + Math.floor(doe / 36_524) - Math.floor(doe / 146_096)) / 365);
  const doy = doe - (365 * yoe + Math.floor(yoe / 4) - Math.floor(yoe / 100));
  const mp = Math.floor((5 * doy + 2) / 153);
  const d = doy - Math.floor((153 * mp + 2) / 5) + 1;
  const m = mp < 10 ? mp + 3 : mp - 9;
  const y = yoe + era * 400 + (m <= 2 ? 1 : 0);
  const two = (n: number, w = 2) => String(Math.floor(n)).padStart(w, '0');
  return `${two(y, 4)}-${two(m)}-${two(d)}T${two(rest / 3_600_000)}:${two((rest / 60_000) % 60)}:${two((rest / 1000) % 60)}.${two(rest % 1000, 3)}Z`;
}

/** Unix seconds of an ISO 8601 time with its zone (`Z` or an offset); seconds may be absent; null of anything else. */
export function unixOf(iso: string): number | null {
  const m = /^(\d{4})-(\d\d)-(\d\d)T(\d\d):(\d\d)(?::(\d\d)(?:\.(\d{1,9}))?)?(?:Z|([+-])(\d\d):?(\d\d))$/.exec(iso);
  if (!m) return null;
  const [y0, mo, d, h, mi] = m.slice(1, 6).map(Number) as [number, number, number, number, number];
  const s = Number(m[6] ?? 0);
  if (mo < 1 || mo > 12 || d < 1 || d > 31 || h > 24 || mi > 59 || s > 60) return null;
  const offset = m[8] === undefined ? 0 : (m[8] === '-' ? -1 : 1) * (Number(m[9]) * 3600 + Number(m[10]) * 60);
  return daysOf(y0, mo, d) * 86_400 + h * 3600 + mi * 60 + s + Number(`0.${m[7] ?? 0}`) - offset;
}

/** Days since 1970 of a date. Howard Hinnant's days-from-civil (public domain). */
export function daysOf(year: number, month: number, day: number): number {
  const y = month <= 2 ? year - 1 : year;
  const era = Math.floor(y / 400);
  const yoe = y - era * 400;
  const doy = Math.floor((153 * (month + (month > 2 ? -3 : 9)) + 2) / 5) + day - 1;
  return era * 146_097 + yoe * 365 + Math.floor(yoe / 4) - Math.floor(yoe / 100) + doy - 719_468;
}

/** The same in ms since 1970; 0 of anything that is no such time. */
export const msOf = (iso: string): number => Math.round(1000 * (unixOf(iso) ?? 0));
