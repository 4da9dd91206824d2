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

/** On whose clock moments are told: `local` is the ISO 8601 time of a moment as it reads there. */
export interface Clock {
  zone: string;
  local(iso: string): string;
}

/** The clock of moments as they are kept. */
export const UTC: Clock = { zone: 'UTC', local: (iso) => iso };

/** 4 May 2026, of an ISO 8601 time, on a clock. */
export function dayOf(iso: string, clock: Clock = UTC): string {
  const [y, m, d] = clock.local(iso).slice(0, 10).split('-').map(Number);
  return `${d} ${MONTHS[(m ?? 1) - 1]} ${y}`;
}

/** 4 May 2026, 09:12, on a clock. */
export function momentOf(iso: string, clock: Clock = UTC): string {
  return `${dayOf(iso, clock)}, ${clock.local(iso).slice(11, 16)}`;
}
