/** −3.2, +14.0: trims always carry their sign; the minus is a real one. */
export function signed(v: number, digits = 1): string {
  const text = Math.abs(v).toFixed(digits);
  // What rounds to nothing leans to neither side.
  if (Number(text) === 0) return text;
  return `${v < 0 ? '−' : '+'}${text}`;
}
