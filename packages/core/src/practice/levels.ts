/** How hard a practice car is, easiest first. */
export const PRACTICE_LEVELS = ['plain', 'harder', 'pair', 'misleading', 'drive'] as const;
/** One of them. */
export type PracticeLevel = (typeof PRACTICE_LEVELS)[number];

/** The levels in words. */
export const LEVEL_LABELS: Readonly<Record<PracticeLevel, string>> = {
  plain: 'Plain faults',
  harder: 'Harder to tell apart',
  pair: 'Two at once',
  misleading: 'Misleading histories',
  drive: 'Drives that came back open',
};
