import type { Answer, Finds, Procedure, StopRule } from '../format.ts';

/** Of every procedure here, unless its row says otherwise. */
const COMMON = 'common practice, no source';

/** A row of our own procedures: in the format of CONTRACT, its fixed parts filled in. */
export function shipped(
  p: Omit<Procedure, 'format' | 'version' | 'source' | 'notWhen' | 'parts' | 'stopRules'> &
    Partial<Pick<Procedure, 'source' | 'notWhen' | 'parts' | 'stopRules'>>,
): Procedure {
  return {
    format: 'just-balance/procedure',
    version: 1,
    source: COMMON,
    notWhen: [],
    parts: [],
    stopRules: [],
    ...p,
  };
}

export function rule(condition: string, action: string, why: string, found?: Finds): StopRule {
  // biome-ignore lint/suspicious/noThenProperty: the format's own key; no promise is made of it
  return { if: condition, then: action, why, ...(found ? { finds: found } : {}) };
}

/** A find as a test of the catalogue. */
export const finds = (test: string, outcome: string): Finds => ({ test, outcome });

/** An answer that is such a find. */
export const seen = (text: string, test: string, outcome: string, more: Partial<Answer> = {}): Answer => ({
  text,
  ...more,
  finds: finds(test, outcome),
});

/** Ends every procedure that opens something: nothing stays behind in the engine bay. */
export const COUNT_OUT = {
  id: 'count',
  kind: 'do',
  text: 'Count tools, rags, caps and loose wires out of the engine bay before the engine is started.',
  why: 'What is left in there ends in a belt, a fan or an intake.',
} as const;

/** Generic tightening: said so at the step; the vehicle's own figure wins. */
export const GENERIC = 'A generic figure: the vehicle’s service information wins.';
