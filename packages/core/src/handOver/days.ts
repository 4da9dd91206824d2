const MONTHS = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
];

/** 4 May 2026, of an ISO 8601 time; the day is that of UTC. */
export function dayOf(iso: string): string {
  const [y, m, d] = iso.slice(0, 10).split('-').map(Number);
  return `${d} ${MONTHS[(m ?? 1) - 1]} ${y}`;
}

/** 4 May 2026, 09:12 (UTC). */
export function momentOf(iso: string): string {
  return `${dayOf(iso)}, ${iso.slice(11, 16)}`;
}
