/** Fields under names: what JSON calls an object; no list, no null. */
export function isGroup(v: unknown): v is Record<string, unknown> {
  return v !== null && typeof v === 'object' && !Array.isArray(v);
}
