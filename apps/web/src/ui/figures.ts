/** Lean or rich as word, sign and class: never colour alone. */
export function leaning(
  totalPct: number,
  limit: number,
): { word: string; tag: string; text: string; fill: string } | null {
  if (totalPct > limit) return { word: '▶ lean', tag: 'badge-lean', text: 'text-lean', fill: 'bg-lean-wash text-lean' };
  if (totalPct < -limit)
    return { word: '◀ rich', tag: 'badge-rich', text: 'text-rich', fill: 'bg-rich-wash text-rich' };
  return null;
}

/** 1:02:07, 2:07, 0:07. */
export function clock(s: number): string {
  const whole = Math.max(0, Math.floor(s));
  const two = (n: number) => String(n).padStart(2, '0');
  const h = Math.floor(whole / 3600);
  const m = Math.floor(whole / 60) % 60;
  return h > 0 ? `${h}:${two(m)}:${two(whole % 60)}` : `${m}:${two(whole % 60)}`;
}
