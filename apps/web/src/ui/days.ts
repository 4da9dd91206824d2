/** The first moment of a day here, and of the day after it. */
const starts = (day: string) => new Date(`${day}T00:00:00`);
function ends(day: string): Date {
  const at = starts(day);
  at.setDate(at.getDate() + 1);
  return at;
}

/** A query with its days, which are days of this place, as moments: midnight is the shop's and not Greenwich's. */
export function withMoments(asked: URLSearchParams): string {
  const out = new URLSearchParams(asked);
  for (const [key, moment] of [
    ['from', starts],
    ['to', ends],
  ] as const) {
    const day = out.get(key);
    if (day && /^\d{4}-\d{2}-\d{2}$/.test(day)) out.set(key, moment(day).toISOString());
  }
  return out.toString();
}
