import type { Case } from '@just-balance/core/case';
import { beamShapes, type Diagnosis, diagnose, type GhostShape, type Settings } from '@just-balance/core/diagnosis';
import { expose } from 'comlink';

export interface Judgement {
  diagnosis: Diagnosis;
  shapes: GhostShape[];
}

/** The weighing off the interface's thread, with the same core as the server. */
const judge = {
  weigh(c: Case, settings: Settings): Judgement {
    return { diagnosis: diagnose(c, settings), shapes: beamShapes(c, settings, 5) };
  },
};

export type Judge = typeof judge;

expose(judge);
