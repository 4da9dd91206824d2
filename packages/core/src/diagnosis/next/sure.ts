/** From this chance on a cause is sure enough to work on. [house] */
export const SURE = 0.85;
