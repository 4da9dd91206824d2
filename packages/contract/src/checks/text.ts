const HALF = /\p{Surrogate}/gu;

/** At most `most` UTF-16 units of a text, whole characters only: half a character cannot be stored. */
export function cut(text: string, most: number): string {
  return text.slice(0, most).replace(HALF, (_, at: number) => (at === most - 1 ? '' : '\uFFFD'));
}
