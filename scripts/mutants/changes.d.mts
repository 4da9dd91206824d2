/** Single-line changes of a TypeScript text: the line (from 0), and what it would be. */
export function changesOf(text: string): { at: number; to: string }[];
