import type { Case } from '@just-balance/core/case';
import {
  type Diagnosis,
  type Evidence,
  type Judgement,
  judgement,
  type PredictedLine,
  type Settings,
  type WhatIf,
  type WouldRead,
} from '@just-balance/core/diagnosis';
import { expose } from 'comlink';

/** What a page draws of a judgement. */
export interface Judged {
  diagnosis: Diagnosis;
  lines: PredictedLine[];
  evidence: Pick<Evidence, 'banks' | 'points'>;
}

/** Predicted lines that the trim chart may draw. */
const LINES = 5;

let last: { key: string; judgement: Judgement } | null = null;

/** The same case is weighed once, whoever asks. */
function of(c: Case, settings: Settings): Judgement {
  const key = JSON.stringify([c, settings]);
  if (last?.key !== key) last = { key, judgement: judgement(c, settings) };
  return last.judgement;
}

/** The weighing off the interface's thread, with the same core as the server. */
export const judge = {
  weigh(c: Case, settings: Settings): Judged {
    const j = of(c, settings);
    const { banks, points } = j.evidence;
    return { diagnosis: j.diagnosis, lines: j.lines(LINES), evidence: { banks, points } };
  },
  sizes(c: Case, settings: Settings, fault: string): WhatIf['sizes'] {
    return of(c, settings).whatIf(fault).sizes;
  },
  wouldRead(c: Case, settings: Settings, fault: string, size: number, bank: 1 | 2): WouldRead[] {
    return of(c, settings).whatIf(fault).read(size, bank);
  },
};

export type Judge = typeof judge;

expose(judge);
