import type { Case, OperatingPoint } from '../case/index.ts';
import { TESTS, type TestRow } from '../catalogue/index.ts';
import { type Diagnosed, diagnosed } from './diagnose.ts';
import { gatherEvidence } from './evidence/evidence.ts';
import type { Evidence } from './evidence/types.ts';
import { asLearned } from './model/resultProbability.ts';
import { weigh } from './model/weigh.ts';
import { whatDecides } from './next/decides.ts';
import { candidates, confirmingTest, furtherTests } from './next/rankTests.ts';
import { standingOf } from './next/standing.ts';
import type { Diagnosis, Settings } from './types.ts';
import { playedFault, type WhatIf } from './whatIf.ts';

/** A cause's predicted totals at every closed-loop point; points ordered by airflow. */
export interface PredictedLine {
  fault: string;
  bank: 1 | 2 | null;
  probability: number;
  points: { at: OperatingPoint; airflowGps: number; trimPct: [number, number] }[];
}

/** Of a shop that has all. */
const EVERY_TOOL = TESTS.flatMap((t) => t.tool ?? []);

/** Everything that is to be said of one case: worked out from the same evidence, with the same settings. */
export interface Judgement {
  diagnosis: Diagnosis;
  evidence: Evidence;
  /** Predicted lines of the leading causes, likeliest first. */
  lines(count: number): PredictedLine[];
  /** Tests that could be done on this car in this shop and were not, whatever they would tell. */
  furtherTests(): TestRow[];
  /** One fault to play with on this vehicle. */
  whatIf(fault: string): WhatIf;
}

/**
 * The judgement of one valid case (see `problemsOf` in contract) with what a shop set, learned and knows. Deterministic:
 * same case, same settings, same bytes. The evidence is gathered once.
 */
export function judgement(c: Case, settings: Settings = {}): Judgement {
  const gathered = gatherEvidence(c, settings.known);
  const evidence = settings.reliability
    ? { ...gathered, tests: gathered.tests.map((t) => ({ ...t, row: asLearned(t.row, settings.reliability) })) }
    : gathered;
  const { ranked, diagnosis: found }: Diagnosed = diagnosed(c, evidence, settings);
  const further = () => furtherTests(c, evidence, settings);
  const { standing, test } = standingOf(c, evidence, found, {
    another: (cause) => confirmingTest(further(), cause, evidence.banks, settings),
    again: (cause, row) => confirmingTest([row], cause, evidence.banks, settings),
    without: ({ fault }, one) =>
      weigh({ ...evidence, tests: evidence.tests.filter((t) => t !== one) }, settings).find((w) => w.row.id === fault)
        ?.probability ?? 0,
    decides: (tools) =>
      whatDecides(
        candidates(
          c,
          evidence,
          ranked,
          tools === 'any' ? { ...settings, tools: EVERY_TOOL, hazards: undefined } : settings,
        ),
      ),
  });
  // The test that it names stands first, also where it tells no causes apart.
  const nextTests = test ? [test, ...found.nextTests.filter((t) => t.test !== test.test)] : found.nextTests;
  return {
    diagnosis: { ...found, nextTests, standing },
    evidence,
    lines: (count) =>
      ranked.slice(0, count).map((w) => ({
        fault: w.row.id,
        bank: w.bank,
        probability: w.probability,
        points: evidence.points.map((p, i) => ({
          at: p.at,
          airflowGps: p.airflowGps,
          trimPct: w.expected[i]!.trimPct,
        })),
      })),
    furtherTests: further,
    whatIf: (fault) => playedFault(fault, ranked, evidence),
  };
}

/** The judgement as `just-balance/diagnosis`. */
export const diagnose = (c: Case, settings: Settings = {}): Diagnosis => judgement(c, settings).diagnosis;
