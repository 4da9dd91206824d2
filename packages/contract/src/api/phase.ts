export const PHASES = ['before', 'after'] as const;
export type Phase = (typeof PHASES)[number];
