import type { OperatingPoint, ReadFigure } from '../case/index.ts';
import { outcomesOf, TEST_BY_ID } from '../catalogue/index.ts';
import type { Role, Said } from '../units/index.ts';
import { dirtSource } from './dirt.ts';

/** A service procedure as data: CONTRACT's `just-balance/procedure`, version 1. Ours and a shop's are the same. */
export const PROCEDURE_KINDS = ['clean', 'replace', 'repair', 'inspect', 'check', 'relearn'] as const;
/** What a procedure is for. */
export type ProcedureKind = (typeof PROCEDURE_KINDS)[number];

/** What a step may ask of a hand. */
export const STEP_KINDS = [
  'do',
  'look',
  'measure',
  'photo',
  'timer',
  'take-off',
  'refit',
  'torque',
  'decide',
  'read',
] as const;
/** One of them. */
export type StepKind = (typeof STEP_KINDS)[number];

/** What a vehicle needs after the work. */
export const AFTERWARDS = ['reset-or-relearn', 'throttle-relearn', 'none'] as const;

/** A test of the catalogue with the outcome that a find is: evidence as any other test. */
export interface Finds {
  test: string;
  outcome: string;
}

/** What follows from a find: a stop rule by its `if`, evidence. */
export interface Leads {
  stopRule?: string;
  finds?: Finds;
  /** Of a measured value: it is such a find against the vehicle's own limits only; generic ones are too wide for it. */
  own?: boolean;
}

/** What a person may find, and where it leads: to a step, or into a stop rule. Neither: to the next step. */
export interface Answer extends Leads {
  text: string;
  goTo?: string;
  /** Steps that fall away by it, by their ids. */
  without?: string[];
  /** Where the dirt came from, by the id of its row. */
  source?: string;
  /** There is nothing to be done to the part: what the work is for is not said to have been done. */
  nothing?: boolean;
}

/** One thing to do, with what it asks, warns of, and leads to. Times in s, torque in N·m. */
export interface ProcedureStep {
  id: string;
  kind: StepKind;
  text: Said;
  why?: string;
  /** Of the table of cautions. */
  caution?: string;
  /** What is read out in place of `text`. */
  spoken?: string;
  /** look, decide. */
  answers?: Answer[];
  /** measure. */
  quantity?: string;
  unit?: string;
  /** What the quantity is of, where that decides the unit it is read in. */
  role?: Role;
  low?: number;
  high?: number;
  /** What follows from a value inside its limits, below and above them. */
  within?: Leads;
  below?: Leads;
  above?: Leads;
  /** timer, s. */
  seconds?: number;
  /** take-off, refit: the part; a refit names what was taken off. */
  item?: string;
  count?: number;
  detail?: string;
  /** torque. */
  torqueNm?: number;
  sequence?: string[];
  /** read: where, and for which figure; absent: the trims. */
  at?: OperatingPoint;
  figure?: ReadFigure;
}

/** Ends the work as it was planned. */
export interface StopRule {
  if: string;
  then: string;
  why: string;
  /** What it says as a test, however it was come by. */
  finds?: Finds;
}

/** What is to be ruled out before a work makes sense: any of these tests says whether it is. */
export interface FirstOfAll {
  what: string;
  tests: string[];
}

/** A service procedure, as it is shipped, kept by a shop, and passed on as a file. */
export interface Procedure {
  format: 'just-balance/procedure';
  version: 1;
  id: string;
  title: string;
  kind: ProcedureKind;
  source: string;
  for?: {
    faults?: string[];
    parts?: string[];
    fuel?: string | string[];
    metering?: string | string[];
    induction?: string | string[];
  };
  purpose: string;
  when: Said[];
  notWhen: Said[];
  first?: FirstOfAll[];
  /** Hands on. */
  minutes: number;
  tools: string[];
  materials: string[];
  parts: { name: string; oneTime?: boolean }[];
  cautions: string[];
  steps: ProcedureStep[];
  stopRules: StopRule[];
  afterwards: (typeof AFTERWARDS)[number];
  prove: OperatingPoint[];
}

/** The part that a torque step tightens: its own, or the one put back last before it. */
export function tightened(p: Procedure, step: ProcedureStep): string | null {
  const before = p.steps.slice(
    0,
    p.steps.findIndex((s) => s.id === step.id),
  );
  return step.item ?? before.findLast((s) => s.kind === 'refit')?.item ?? null;
}

/** What a step of a kind must say beside its text. */
const NEEDS: Readonly<Partial<Record<StepKind, readonly (keyof ProcedureStep)[]>>> = {
  look: ['answers'],
  decide: ['answers'],
  measure: ['quantity', 'unit'],
  timer: ['seconds'],
  'take-off': ['item'],
  refit: ['item'],
  torque: ['torqueNm'],
  read: ['at'],
};

/** Why a find is none that the catalogue of tests has; null where it is. */
function findsProblem({ test, outcome }: Finds): string | null {
  const row = TEST_BY_ID.get(test);
  if (!row) return `no test of the catalogue is called "${test}"`;
  return outcomesOf(row).includes(outcome) ? null : `"${outcome}" is no outcome of ${test}`;
}

/** What the shapes alone cannot say: each with its field. Empty for a procedure that can be run. */
export function procedureProblems(p: Procedure): { field: string; message: string }[] {
  const out: { field: string; message: string }[] = [];
  const ids = new Map<string, number>();
  const taken = new Set<string>();
  const rules = new Set(p.stopRules.map((r) => r.if));
  for (const [i, s] of p.steps.entries()) {
    const at = `steps[${i}]`;
    const bad = (field: string, message: string) => out.push({ field: `${at}.${field}`, message });
    if (ids.has(s.id)) bad('id', `"${s.id}" is the id of step ${ids.get(s.id)! + 1} already`);
    else ids.set(s.id, i);
    for (const key of NEEDS[s.kind] ?? []) if (s[key] === undefined) bad(key, `a step of kind ${s.kind} needs it`);
    if (s.kind === 'measure' && s.low === undefined && s.high === undefined)
      bad('low', 'a measured value needs a limit: low, high or both');
    if (s.low !== undefined && s.high !== undefined && s.low > s.high) bad('high', 'below low');
    if (s.kind === 'take-off' && s.item !== undefined) taken.add(s.item).add(s.id);
    if (s.kind === 'refit' && s.item !== undefined && !taken.has(s.item))
      bad('item', `"${s.item}" was not taken off before: name the item or the id of a take-off step`);
    const leads: [string, Leads | undefined][] = [
      ...(s.answers ?? []).map((a, k): [string, Leads] => [`answers[${k}]`, a]),
      ['within', s.within],
      ['below', s.below],
      ['above', s.above],
    ];
    for (const [field, l] of leads) {
      if (l?.stopRule !== undefined && !rules.has(l.stopRule))
        bad(`${field}.stopRule`, `no stop rule says if "${l.stopRule}"`);
      const finds = l?.finds && findsProblem(l.finds);
      if (finds) bad(`${field}.finds`, finds);
    }
    for (const [k, a] of (s.answers ?? []).entries()) {
      if (a.goTo !== undefined && !p.steps.some((x) => x.id === a.goTo))
        bad(`answers[${k}].goTo`, `no step has the id "${a.goTo}"`);
      for (const id of a.without ?? [])
        if (!p.steps.slice(i + 1).some((x) => x.id === id))
          bad(`answers[${k}].without`, `no later step has the id "${id}"`);
      if (a.source !== undefined && !dirtSource(a.source))
        bad(`answers[${k}].source`, `"${a.source}" is no source of dirt that is known`);
      if (a.goTo !== undefined && a.stopRule !== undefined)
        bad(`answers[${k}].stopRule`, 'an answer leads to a step or into a stop rule, not both');
    }
  }
  for (const [i, f] of (p.first ?? []).entries())
    for (const [k, t] of f.tests.entries())
      if (!TEST_BY_ID.has(t))
        out.push({ field: `first[${i}].tests[${k}]`, message: `no test of the catalogue is called "${t}"` });
  for (const [i, r] of p.stopRules.entries()) {
    const finds = r.finds && findsProblem(r.finds);
    if (finds) out.push({ field: `stopRules[${i}].finds`, message: finds });
  }
  return out;
}
