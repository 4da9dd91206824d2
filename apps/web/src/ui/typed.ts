/** What a person typed as JavaScript reads it: a minus is a minus, a decimal comma a point. */
export function typed(text: string): string {
  return text.trim().replace('−', '-').replace(',', '.');
}
