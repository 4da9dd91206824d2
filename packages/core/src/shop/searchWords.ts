/** Words that stand in every other sentence find nothing. */
const EVERYWHERE = new Set([
  'the',
  'and',
  'for',
  'was',
  'were',
  'with',
  'that',
  'this',
  'from',
  'has',
  'had',
  'not',
  'but',
  'are',
  'its',
  'of',
  'to',
  'in',
  'on',
  'at',
  'is',
  'it',
  'an',
  'or',
  'by',
  'as',
]);
const LONGEST = 40;

/** A text as the words it can be found by: small letters without accents, figures kept, each once, in order. */
export function searchWords(text: string): string[] {
  const plain = text.normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase();
  const words = plain.match(/[\p{L}\p{N}]+/gu) ?? [];
  return [...new Set(words.filter((w) => w.length > 1 && !EVERYWHERE.has(w)).map((w) => w.slice(0, LONGEST)))];
}
