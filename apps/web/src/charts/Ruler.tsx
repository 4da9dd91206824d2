/** A figure on its band, for the eye; the numbers stand beside it. */
export function Ruler({ low, high, value }: { low: number; high: number; value: number }) {
  const span = high - low;
  const from = Math.min(low - span, value - span * 0.2);
  const to = Math.max(high + span, value + span * 0.2);
  const at = (v: number) => (150 * (v - from)) / (to - from);
  return (
    <svg viewBox="0 0 150 20" width="100%" height="20" preserveAspectRatio="none" aria-hidden role="presentation">
      <rect x="0" y="8" width="150" height="4" rx="2" fill="var(--rule)" />
      <rect
        x={at(low)}
        y="4"
        width={at(high) - at(low)}
        height="12"
        rx="3"
        fill="var(--band)"
        stroke="var(--band-edge)"
        strokeWidth="1.5"
        vectorEffect="non-scaling-stroke"
      />
      <rect x={at(value) - 1.2} y="2" width="2.4" height="16" fill="var(--ink)" />
    </svg>
  );
}
