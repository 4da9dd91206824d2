import { chanceText, figure, type Said, said } from '../units/index.ts';
import { betaQuantile } from './beta.ts';
import { dirtSource } from './dirt.ts';
import { type Procedure } from './format.ts';

/** Parts of which cleaning and replacing are weighed against each other. */
export const CLEANABLE = [
  {
    id: 'airflow-sensor',
    label: 'Airflow sensor',
    clean: 'airflow-sensor-clean',
    replace: 'airflow-sensor-replace',
    /** Cleanings that held and that did not, to start from: a mean and how much it counts. [house] */
    start: { held: 3, failed: 2 },
    solvent: 8,
    price: 140,
  },
  {
    id: 'pressure-sensor',
    label: 'Manifold pressure sensor',
    clean: 'manifold-pressure-sensor-clean',
    replace: 'manifold-pressure-sensor-replace',
    start: { held: 3, failed: 2 },
    solvent: 5,
    price: 60,
  },
  {
    id: 'oxygen-sensor',
    label: 'Oxygen sensor',
    clean: 'oxygen-sensor-remove-clean',
    replace: 'oxygen-sensor-replace',
    start: { held: 1, failed: 3 },
    solvent: 6,
    price: 95,
  },
  {
    id: 'throttle-body',
    label: 'Throttle body',
    clean: 'throttle-body-clean',
    replace: null,
    start: { held: 4, failed: 1 },
    solvent: 10,
    price: 320,
  },
] as const;

/** A part that can be cleaned instead of replaced. */
export type CleanablePart = (typeof CLEANABLE)[number]['id'];

/** Its row. */
export function cleanablePart(id: CleanablePart): (typeof CLEANABLE)[number] {
  return CLEANABLE.find((c) => c.id === id)!;
}

/** What an hour is taken to cost where a shop has not said it. [house] */
const RATE_PER_HOUR = 90;
/** Of a shop without a rate, what a comeback costs beside the replacement. [house] */
const COMEBACK_COST = 60;

/** What both ways are taken to need, from the procedures and from the shop's own rate and prices; all but the chance. */
export function startingTerms(
  id: CleanablePart,
  procedures: readonly Procedure[],
  labour?: { perHour: number; parts?: Readonly<Record<string, number>> },
): Omit<CleanOrReplaceTerms, 'chance'> {
  const row = cleanablePart(id);
  const of = (procedure: string | null) => procedures.find((p) => p.id === procedure);
  const [clean, replace] = [of(row.clean), of(row.replace)];
  // Under its name here, or as the work that replaces it lists it.
  const names = [row.label, ...(replace?.parts.map((p) => p.name) ?? [])].map((n) => n.toLowerCase());
  const priced = names.map((n) => labour?.parts?.[n]).find((x) => x !== undefined);
  const waiting = (clean?.steps ?? []).filter((s) => s.kind === 'timer').reduce((sum, s) => sum + (s.seconds ?? 0), 0);
  return {
    ratePerHour: labour?.perHour ?? RATE_PER_HOUR,
    partPrice: priced ?? row.price,
    solvent: row.solvent,
    cleanMinutes: clean?.minutes ?? 30,
    waitingMinutes: Math.round(waiting / 60),
    waitingPaid: 0.2,
    replaceMinutes: replace?.minutes ?? 60,
    comebackCost: COMEBACK_COST,
  };
}

/** What the chance of a cleaning depends on beside the counts. */
export interface CleaningState {
  /** Earlier cleanings of this part. */
  cleanings: number;
  distanceKm: number | null;
  /** One of `DIRT_SOURCES`, and whether it is repaired. */
  source: string | null;
  sourceRepaired: boolean;
}

/** The shop's own outcomes of this kind of part. */
export interface CleaningCounts {
  held: number;
  failed: number;
}

/** A chance (0–1) with its range, and what moved it. */
export interface Chance {
  value: number;
  /** The middle nine tenths. */
  low: number;
  high: number;
  because: Said[];
}

/** Beyond this distance replacing gains. Common practice, no source. */
const OLD_KM = 160_000;
/** What is left of the chance: per earlier cleaning, and of an old part. [house] */
const PER_CLEANING = 0.5;
const OLD = 0.7;

/** The chance that a cleaning holds: Beta on the counts, then what is known of this one. */
export function chanceOfHolding(part: CleanablePart, own: CleaningCounts, state: CleaningState): Chance {
  const { start } = cleanablePart(part);
  const a = start.held + own.held;
  const b = start.failed + own.failed;
  const n = own.held + own.failed;
  const because: Said[] = [
    n === 0
      ? `Starts from ${chanceText(a / (a + b))}, our own figure: this shop has no outcomes of it yet.`
      : `${own.held} of ${n} of this shop’s cleanings held; with our starting figure that is ${chanceText(a / (a + b))}.`,
  ];
  let left = 1;
  const less = (factor: number, why: Said) => {
    left *= factor;
    because.push(said`${why}: ${Math.round(100 * factor)} % of that is left.`);
  };
  for (let i = 0; i < Math.min(3, state.cleanings); i++) less(PER_CLEANING, i === 0 ? 'Cleaned before' : 'And again');
  if (state.distanceKm !== null && state.distanceKm > OLD_KM) less(OLD, said`More than ${figure(OLD_KM, 'km')}`);
  const dirt = state.source === null ? undefined : dirtSource(state.source);
  if (dirt && !state.sourceRepaired && dirt.left < 1) less(dirt.left, `${dirt.label}, not repaired`);
  return {
    value: (left * a) / (a + b),
    low: left * betaQuantile(0.05, a, b),
    high: left * betaQuantile(0.95, a, b),
    because,
  };
}

/** Every term of the sum, open to change. Money in the shop's currency. */
export interface CleanOrReplaceTerms {
  ratePerHour: number;
  solvent: number;
  cleanMinutes: number;
  waitingMinutes: number;
  /** Share of the waiting that is paid: the rest is spent on other work. */
  waitingPaid: number;
  partPrice: number;
  replaceMinutes: number;
  /** What a comeback costs beside the replacement that it then needs: time, tow, good will. */
  comebackCost: number;
  chance: number;
}

/** What one way costs, in the shop's money, and how many minutes it takes. */
export interface Way {
  cost: number;
  minutes: number;
  /** In order, as drawn: what the cost is made of. */
  parts: { name: string; cost: number }[];
}

/** Both ways as a sum, and where they meet. */
export interface CleanOrReplace {
  clean: Way;
  replace: Way;
  /** The chance of holding at which both cost the same; null where one wins whatever the chance. */
  breakEven: number | null;
  cheaper: 'clean' | 'replace' | 'equal';
  reasons: string[];
  /** A stop rule that overrules the sum. */
  overruled: string | null;
}

/** Within this share of the cheaper way the two cost the same, as far as such figures go. [house] */
const EQUAL = 0.03;

/** Expected cost and minutes of both ways. */
export function cleanOrReplace(t: CleanOrReplaceTerms, stopRule: string | null = null): CleanOrReplace {
  const work = (minutes: number) => (t.ratePerHour * minutes) / 60;
  const fails = 1 - t.chance;
  const replaceWork = work(t.replaceMinutes);
  const replacing = t.partPrice + replaceWork;
  const now = work(t.cleanMinutes + t.waitingPaid * t.waitingMinutes) + t.solvent;
  const again = t.comebackCost + replacing;
  const clean: Way = {
    cost: now + fails * again,
    minutes: t.cleanMinutes + t.waitingMinutes + fails * t.replaceMinutes,
    parts: [
      { name: 'hands on', cost: work(t.cleanMinutes) },
      { name: 'waiting', cost: work(t.waitingPaid * t.waitingMinutes) },
      { name: 'solvent', cost: t.solvent },
      { name: 'if it does not hold', cost: fails * again },
    ],
  };
  const replace: Way = {
    cost: replacing,
    minutes: t.replaceMinutes,
    parts: [
      { name: 'hands on', cost: replaceWork },
      { name: 'part', cost: t.partPrice },
    ],
  };
  // now + (1 − p)·again = replacing
  const p = again === 0 ? null : 1 - (replacing - now) / again;
  const breakEven = p !== null && p >= 0 && p <= 1 ? p : null;
  const gap = clean.cost - replace.cost;
  const cheaper = Math.abs(gap) <= EQUAL * Math.min(clean.cost, replace.cost) ? 'equal' : gap < 0 ? 'clean' : 'replace';
  const reasons: string[] = [];
  if (breakEven === null)
    reasons.push(
      now >= replacing
        ? 'Cleaning alone already costs as much as a new part: replacing wins whatever the chance.'
        : 'Cleaning wins whatever the chance.',
    );
  else
    reasons.push(`Cleaning pays from a chance of ${chanceText(breakEven)} on; it stands at ${chanceText(t.chance)}.`);
  if (cheaper === 'equal') reasons.push('The two ways cost the same as far as these figures go: time in hand decides.');
  if (stopRule !== null) reasons.unshift(`A stop rule overrules the sum: ${stopRule}.`);
  return { clean, replace, breakEven, cheaper, reasons, overruled: stopRule };
}
