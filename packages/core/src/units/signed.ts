/** −3.2, +14.0: trims always carry their sign; the minus is a real one. */
export function signed(v: number, digits = 1): string {
  return `${v < 0 ? '−' : '+'}${Math.abs(v).toFixed(digits)}`;
}
