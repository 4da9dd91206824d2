const DAY_MS = 86_400_000;

/** The end of what is asked up to: of a whole day its last moment (UTC), of a moment that moment. */
export function endOf(to: string): Date {
  const at = new Date(to);
  return /^\d{4}-\d{2}-\d{2}$/.test(to) ? new Date(at.getTime() + DAY_MS) : at;
}
