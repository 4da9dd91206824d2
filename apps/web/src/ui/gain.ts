/** Bits a test is expected to bring, as a person would say it. [house] */
const GAINS = [
  { from: 0.4, words: 'tells much' },
  { from: 0.15, words: 'tells something' },
  { from: 0, words: 'tells a little' },
] as const;

export const gainInWords = (bits: number): string => GAINS.find((g) => bits >= g.from)!.words;
