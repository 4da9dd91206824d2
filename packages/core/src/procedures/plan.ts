import type { VehicleSpec } from '../case/index.ts';
import { faultLabel, faultsSeen, NO_EVIDENCE } from '../catalogue/index.ts';
import { chanceText, figure, midSentence, type Said, said } from '../units/index.ts';
import { CLEANABLE, type CleanablePart } from './cleanOrReplace.ts';
import type { Procedure, ProcedureKind } from './format.ts';

/** Work that is worth doing, and why. */
export interface Proposal {
  procedure: Procedure;
  /** Faults of the judgement that it answers, likeliest first. */
  faults: string[];
  probability: number;
  why: Said;
  /** What is to be ruled out first and has not been. */
  open: string[];
}

/** What the work is proposed from. */
export interface PlanInput {
  vehicle: VehicleSpec;
  causes: readonly { fault: string; probability: number }[];
  /** Parts to replace whatever the mixture says, as fault ids. */
  condemned: readonly string[];
  /** Tests that were made and stand, with what they showed. */
  tests?: readonly { id: string; outcome?: string | string[] }[];
  procedures: readonly Procedure[];
  /** Procedures that have been done on this job, by id; a stop rule of theirs that applies, if one does. */
  done: readonly { procedure: string; stopped: string | null }[];
  /** What was decided for parts, oldest first: it wins over the chance of either way. */
  decided?: readonly { part: CleanablePart; chosen: 'clean' | 'replace' }[];
  /** Nothing is complained of: what is done by distance is proposed. */
  maintenance?: boolean;
}

/** Whether a procedure is for this vehicle. */
export function suits(p: Procedure, vehicle: VehicleSpec): boolean {
  const has = (allowed: string | string[] | undefined, own: string | undefined) =>
    allowed === undefined || own === undefined || [allowed].flat().includes(own);
  return (
    has(p.for?.fuel, vehicle.fuel) &&
    has(p.for?.metering, vehicle.metering) &&
    has(p.for?.induction, vehicle.induction ?? 'na')
  );
}

/** Below this a fault proposes no work, and none that is less likely than that all is in order. [house] */
const WORTH = 0.05;
const IN_ORDER = 'balanced';
/** From this chance on a cause is worked on without looking for it first. [house] */
const SURE = 0.75;
/** Of one fault: look before you open, clean before you replace. */
const ORDER: readonly ProcedureKind[] = ['check', 'inspect', 'repair', 'clean', 'replace', 'relearn'];

/** Rank of what is seen, of what must go, of what was decided, before any chance. */
const SEEN_RANK = 20;
const MUST_RANK = 10;
const DECIDED_RANK = 5;

interface Ranked {
  rank: number;
  /** What it replaces is condemned. */
  mustGo: boolean;
}

/** The work that the judgement proposes, in the order it is best done. Pure. */
export function servicePlan(input: PlanInput): Proposal[] {
  const suited = input.procedures.filter((p) => suits(p, input.vehicle));
  const chance = new Map(input.causes.map((c) => [c.fault, c.probability]));
  const condemned = new Set(input.condemned);
  const done = new Map(input.done.map((d) => [d.procedure, d]));
  const stopped = new Set(input.done.filter((d) => d.stopped !== null).map((d) => d.procedure));
  const seen = new Set(faultsSeen(input.tests ?? []));
  const inOrder = chance.get(IN_ORDER) ?? 0;
  const made = (input.tests ?? []).filter(
    (t) => ![t.outcome ?? []].flat().some((o) => NO_EVIDENCE.some((n) => n === o)),
  );
  const tested = new Set(made.map((t) => t.id));
  const openOf = (p: Procedure) =>
    (p.first ?? []).filter((f) => !f.tests.some((t) => tested.has(t))).map((f) => f.what);
  const decided = new Map((input.decided ?? []).map((d) => [d.part, d.chosen]));
  const choiceOf = (p: Procedure) => {
    const row = CLEANABLE.find((c) => c.clean === p.id || c.replace === p.id);
    const chosen = row && decided.get(row.id);
    // A cleaning that was decided and has been done, or was stopped, decides nothing any more.
    if (!chosen || (chosen === 'clean' && done.has(row.clean))) return undefined;
    return { chosen, mine: row[chosen] === p.id };
  };
  const out: (Proposal & Ranked)[] = [];
  for (const procedure of suited) {
    if (done.has(procedure.id) || procedure.kind === 'relearn') continue;
    // What it would find out is known already.
    if (procedure.kind === 'check' && answeredBy(procedure, tested)) continue;
    const choice = choiceOf(procedure);
    // What is condemned goes whatever its sum said.
    const goes = procedure.kind === 'replace' && (procedure.for?.faults ?? []).some((f) => condemned.has(f));
    if (choice && !choice.mine && !goes) continue;
    const faults = (procedure.for?.faults ?? [])
      .filter(
        (f) => choice?.mine || (chance.get(f) ?? 0) >= Math.max(WORTH, inOrder) || condemned.has(f) || seen.has(f),
      )
      .sort((a, b) => (chance.get(b) ?? 0) - (chance.get(a) ?? 0));
    if (faults.length === 0) continue;
    const probability = Math.min(
      1,
      faults.reduce((sum, f) => sum + (chance.get(f) ?? 0), 0),
    );
    const mustGo = procedure.kind === 'replace' && faults.some((f) => condemned.has(f));
    // A part whose cleaning was stopped is replaced next.
    const turned = procedure.kind === 'replace' && suited.some((p) => stopped.has(p.id) && sameParts(p, procedure));
    const best = Math.max(...faults.map((f) => chance.get(f) ?? 0));
    // Somebody who is sure need not look for it first, where there is something else to do about it.
    const acts = suited.some(
      (p) => p.kind !== 'check' && !done.has(p.id) && p.for?.faults?.some((f) => (chance.get(f) ?? 0) === best),
    );
    if (procedure.kind === 'check' && best >= SURE && acts) continue;
    const visible = procedure.kind === 'check' ? [] : faults.filter((f) => seen.has(f));
    const words = `${faults.map((f) => midSentence(faultLabel(f))).join(', ')}: ${chanceText(probability)} of what fits`;
    out.push({
      procedure,
      faults,
      probability,
      open: openOf(procedure),
      why:
        visible.length > 0
          ? `Seen with the eyes: ${visible.map((f) => midSentence(faultLabel(f))).join(', ')}.`
          : mustGo
            ? `Condemned: ${faults
                .filter((f) => condemned.has(f))
                .map((f) => midSentence(faultLabel(f)))
                .join(', ')}.`
            : turned
              ? 'A stop rule ended the cleaning: the part is replaced.'
              : choice?.mine
                ? `Decided by its sum: ${choice.chosen}.`
                : `For ${words}.`,
      rank: (visible.length > 0 ? SEEN_RANK : mustGo || turned ? MUST_RANK : choice?.mine ? DECIDED_RANK : 0) + best,
      mustGo,
    });
  }
  out.sort(
    (a, b) =>
      b.rank - a.rank ||
      ORDER.indexOf(a.procedure.kind) - ORDER.indexOf(b.procedure.kind) ||
      b.probability - a.probability,
  );
  const proposed = cheapCertaintyFirst(out).map(({ rank: _, mustGo: __, ...p }) => p);
  return input.maintenance ? [...proposed, ...byDistance(suited, done, proposed)] : proposed;
}

/** Whether these tests answer every question that a check asks: one that is open is reason enough to make it. */
function answeredBy(p: Procedure, tested: ReadonlySet<string>): boolean {
  const asked = p.steps.flatMap((s) => s.answers ?? []);
  return asked.length > 0 && asked.every((a) => a.finds && tested.has(a.finds.test));
}

/** What is done without a fault, and how often. Common practice, no source. */
const BY_DISTANCE: readonly { procedure: string; why: Said }[] = [
  {
    procedure: 'oxygen-sensor-in-tank',
    why: said`As maintenance every ${figure([16_000, 24_000], 'km', 0, { between: ' to ' })}, sooner with dust or poor fuel.`,
  },
  { procedure: 'airflow-sensor-clean', why: 'As maintenance, once the filter has been looked at.' },
  { procedure: 'ducts-and-filter', why: 'As maintenance: filter, ducts and airbox.' },
];

function byDistance(
  suited: readonly Procedure[],
  done: ReadonlyMap<string, unknown>,
  proposed: readonly Proposal[],
): Proposal[] {
  return BY_DISTANCE.flatMap(({ procedure: id, why }) => {
    const procedure = suited.find((p) => p.id === id);
    if (!procedure || done.has(id) || proposed.some((p) => p.procedure.id === id)) return [];
    const promise = 'The same readings before and after; nothing is promised.';
    return [{ procedure, faults: [], probability: 0, open: [], why: said`${why} ${promise}` }];
  });
}

function sameParts(a: Procedure, b: Procedure): boolean {
  return (a.for?.parts ?? []).some((x) => b.for?.parts?.includes(x));
}

/** A crankcase valve costs less than the doubt about it: before an airflow sensor is blamed. Common practice, no source. */
function cheapCertaintyFirst<T extends Proposal & Ranked>(list: T[]): T[] {
  const valve = list.findIndex((p) => p.procedure.id === 'crankcase-valve-and-hose');
  const sensor = list.findIndex((p) => p.procedure.id.startsWith('airflow-sensor') && !p.mustGo);
  if (valve === -1 || sensor === -1 || valve < sensor) return list;
  const out = [...list];
  const [moved] = out.splice(valve, 1);
  out.splice(sensor, 0, {
    ...moved!,
    why: said`${moved!.why} Cheap enough to be done before the airflow sensor is blamed.`,
  });
  return out;
}

/** The shop's tools, as the settings know them, by the words a procedure has for them. */
const TOOL_WORDS: readonly (readonly [tool: string, words: RegExp])[] = [
  ['smoke-machine', /smoke machine/i],
  ['borescope', /borescope/i],
  ['fuel-pressure-gauge', /fuel pressure gauge/i],
  ['multimeter', /voltmeter/i],
  ['hand-pump', /hand vacuum pump/i],
];

/** Tools a procedure asks for that the shop says it does not own. `owned`: undefined where it owns all. */
export function missingTools(p: Procedure, owned: readonly string[] | undefined): string[] {
  if (owned === undefined) return [];
  return p.tools.filter((t) => TOOL_WORDS.some(([tool, words]) => words.test(t) && !owned.includes(tool)));
}

/** What some do and this product does not, with the reason. Common practice of some, no source. */
export const NOT_DONE: readonly { what: string; why: string; procedures: readonly string[] }[] = [
  {
    what: 'Joining the battery leads to reset the memory',
    why: 'It can harm control units and the airbag system; clearing by the tool or a relearn does the same.',
    procedures: ['throttle-body-clean', 'throttle-relearn'],
  },
  {
    what: 'Soaking an oxygen sensor in petrol for hours',
    why: 'Open fuel and vapour for hours, and little proof that it helps.',
    procedures: ['oxygen-sensor-remove-clean', 'oxygen-sensor-in-tank'],
  },
  {
    what: 'Thinner in the tank',
    why: 'Vapour, harmed seals, an overheated catalyst.',
    procedures: ['oxygen-sensor-in-tank'],
  },
  {
    what: 'Wiping the element of an airflow sensor with a swab',
    why: 'It is thinner than a hair. A last try for a sensor that is condemned anyway, not a step.',
    procedures: ['airflow-sensor-clean'],
  },
  {
    what: 'Spraying the airflow sensor where it sits',
    why: 'The dirt is carried into it, and the cleaner stays in the duct.',
    procedures: ['airflow-sensor-clean'],
  },
  {
    what: 'Contact cleaner, brake cleaner or thinner overnight for an airflow sensor',
    why: 'Residue and attacked plastic. Dedicated cleaner, or one that is residue-free and safe for plastic.',
    procedures: ['airflow-sensor-clean'],
  },
  {
    what: 'Cleaning the throttle where it sits',
    why: 'The dirt is on the engine side and stays there; the plate moves by itself.',
    procedures: ['throttle-body-clean'],
  },
  {
    what: 'Spraying the outside of an oxygen sensor',
    why: 'It does nothing.',
    procedures: ['oxygen-sensor-remove-clean', 'oxygen-sensor-vacuum-hose'],
  },
  {
    what: 'Shutting the EGR off for good',
    why: 'It is tampering and fails inspection.',
    procedures: ['egr-valve-and-joint'],
  },
];
