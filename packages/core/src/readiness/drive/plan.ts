import { MONITORS, type MonitorId } from '../../obd/index.ts';
import { isoOf, unixOf } from '../../time/index.ts';
import { figure, isSaid, joined, type Said, said } from '../../units/index.ts';
import {
  beyond,
  boundsText,
  type CarState,
  carValue,
  codesAgainst,
  conditionsMet,
  NAMES,
  tenths,
} from './conditions.ts';
import { type BeforeCondition, type DriveProcedure, stretchesOf } from './format.ts';
import { inUnit } from './units.ts';
import { neededSteps, wantedConditions } from './wanted.ts';

/** Air at a moment (ISO 8601), °C. */
export interface ForecastPoint {
  at: string;
  airC: number;
}

/** What a drive is planned from. */
export interface PlanRequest {
  procedure: DriveProcedure;
  /** ISO 8601. */
  now: string;
  state: CarState;
  forecast?: readonly ForecastPoint[];
  /** Coolant read while it stood and cooled, oldest first: two or more give the car's own cooling. */
  cooling?: readonly CoolingPoint[];
}

/** Coolant at a moment (ISO 8601), °C. */
export interface CoolingPoint {
  at: string;
  coolantC: number;
}

/** A condition before the start: from when to when it holds, and why. */
export interface PlanCondition {
  id: BeforeCondition['id'];
  state: 'holds' | 'not-yet' | 'never' | 'unknown';
  holdsFrom: string | null;
  holdsUntil: string | null;
  why: Said;
  /** Fuel to add, or to burn where negative. */
  litres?: number;
  km?: number;
}

/** `just-balance/drive-plan`, version 1. */
export interface DrivePlan {
  format: 'just-balance/drive-plan';
  version: 1;
  procedure: string;
  conditions: PlanCondition[];
  earliestStart: string | null;
  couldFinish: MonitorId[];
  minutes: number | null;
  goStraightTo: string | null;
  warnings: string[];
}

const HOUR_MS = 3_600_000;
/** Time constant of a cooling engine, h, and how far cars differ. [house] */
export const COOLING_H = { typical: 2.5, fast: 1.6, slow: 3.8 } as const;

const iso = (ms: number) => isoOf(Math.round(ms / 1000)).replace('.000Z', 'Z');
const msOf = (text: string) => (unixOf(text) ?? Number.NaN) * 1000;

/** A stretch of time in which something holds; `to` null where nothing ends it as far as one sees. */
interface Window {
  from: number;
  to: number | null;
}

/** Hours until a hot engine is this far above the air: exact for an exponential. Newton's law of cooling. */
export function coolingHours(aboveNow: number, aboveThen: number, timeConstantH: number): number {
  if (aboveNow <= aboveThen) return 0;
  return aboveThen <= 0 ? Number.POSITIVE_INFINITY : timeConstantH * Math.log(aboveNow / aboveThen);
}

/** The time constant from two or more readings of a cooling engine, h; null where they do not tell. Least squares. */
export function coolingConstant(readings: readonly { h: number; aboveC: number }[]): number | null {
  const use = readings.filter((r) => r.aboveC > 1);
  if (use.length < 2) return null;
  const mean = (f: (r: (typeof use)[number]) => number) => use.reduce((n, r) => n + f(r), 0) / use.length;
  const [mh, ml] = [mean((r) => r.h), mean((r) => Math.log(r.aboveC))];
  const spread = use.reduce((n, r) => n + (r.h - mh) ** 2, 0);
  const slope = use.reduce((n, r) => n + (r.h - mh) * (Math.log(r.aboveC) - ml), 0) / spread;
  return spread > 0 && slope < 0 ? -1 / slope : null;
}

/** Windows from `now` on in which a forecast, linear between its points, stays inside the bounds (°C). */
export function forecastWindows(
  forecast: readonly ForecastPoint[],
  now: number,
  low: number,
  high: number,
): { windows: Window[]; fromMs: number; toMs: number } | null {
  const points = forecast
    .map((p) => ({ t: msOf(p.at), v: p.airC }))
    .filter((p) => Number.isFinite(p.t) && Number.isFinite(p.v))
    .sort((a, b) => a.t - b.t);
  if (points.length === 0) return null;
  const [first, last] = [points[0]!.t, points.at(-1)!.t];
  const windows: Window[] = [];
  const push = (from: number, to: number) => {
    const w = windows.at(-1);
    if (w && w.to !== null && from - w.to < 1) w.to = to;
    else windows.push({ from, to });
  };
  for (let i = 0; i + 1 < points.length; i++) {
    const [a, b] = [points[i]!, points[i + 1]!];
    if (b.t === a.t) continue;
    // Where the line lies between the bounds: an interval of its own parameter.
    const at = (v: number) =>
      b.v === a.v ? (a.v >= v ? Number.NEGATIVE_INFINITY : Number.POSITIVE_INFINITY) : (v - a.v) / (b.v - a.v);
    let [from, to] = [0, 1];
    if (b.v === a.v) {
      if (a.v < low || a.v > high) continue;
    } else {
      const [x, y] = [at(low), at(high)];
      from = Math.max(0, Math.min(x, y));
      to = Math.min(1, Math.max(x, y));
      if (to < from) continue;
    }
    push(a.t + from * (b.t - a.t), a.t + to * (b.t - a.t));
  }
  if (points.length === 1 && points[0]!.v >= low && points[0]!.v <= high) push(first, first);
  return { windows: windows.filter((w) => w.to! >= now), fromMs: first, toMs: last };
}

/** The time constant of this car's own cooling towards `air`, h; null without two readings that tell. */
function ownCooling(readings: readonly CoolingPoint[] | undefined, air: number): number | null {
  const first = readings?.[0];
  if (!readings || !first) return null;
  return coolingConstant(
    readings.map((x) => ({ h: (msOf(x.at) - msOf(first.at)) / HOUR_MS, aboveC: x.coolantC - air })),
  );
}

interface Planned {
  row: PlanCondition;
  /** When it holds; null: always, as far as it is known. Empty: never by waiting. */
  windows: readonly Window[] | null;
  /** Before and after this nothing is known, ms. */
  seen?: { fromMs: number; toMs: number };
}

/** The enabling conditions of a procedure against the car, now and by waiting, and the first moment at which all hold. */
export function planDrive(r: PlanRequest): DrivePlan {
  const { procedure: p, state } = r;
  const now = msOf(r.now);
  const needed = neededSteps(p, state.incomplete ?? null);
  const all = p.before.map((c) => planned_(c, r, now));
  const conditions = all.map((x) => x.row);
  // What only steps need that finish nothing open keeps nobody waiting.
  const wanted = new Set(wantedConditions(p, state.incomplete ?? null));
  const planned = all.filter((_, i) => wanted.has(p.before[i]!));
  const never = planned.some((x) => x.row.state === 'never');
  const start = never ? null : earliest(planned, now);
  const warnings: string[] = [];
  for (const x of planned) {
    if (x.row.state === 'unknown')
      warnings.push(`Not known: ${NAMES[x.row.id].toLowerCase()}. See to it before the start.`);
    else if (start !== null && x.seen && (start < x.seen.fromMs || start > x.seen.toMs))
      warnings.push(`The forecast does not reach the start: look at the outside air again then.`);
  }
  if (start === null && !never) warnings.push('No moment of the forecast has all of it: enter more hours.');
  const finishes = [...new Set(p.steps.flatMap((s) => s.finishes ?? []))];
  const open = state.incomplete;
  const couldFinish = open ? finishes.filter((m) => open.includes(m)) : finishes;
  if (open && couldFinish.length < open.length) {
    const others = open.filter((m) => !couldFinish.includes(m as MonitorId));
    warnings.push(
      `This drive does not finish ${others.map((m) => MONITORS[m as MonitorId] ?? m).join(', ')}: another procedure, or the vehicle’s own.`,
    );
  }
  const ends = p.steps.filter((s) => (s.finishes ?? []).some((m) => couldFinish.includes(m)));
  return {
    format: 'just-balance/drive-plan',
    version: 1,
    procedure: p.id,
    conditions,
    earliestStart: start === null ? null : iso(start),
    couldFinish,
    minutes: minutesOf(p, needed),
    goStraightTo: open && ends.length === 1 ? ends[0]!.id : null,
    warnings,
  };
}

/** Expected minutes: the procedure's own where all of it is driven or its steps follow on each other. */
function minutesOf(p: DriveProcedure, needed: ReadonlySet<string>): number | null {
  const chained = p.steps.some((s) => (s.after ?? []).length > 0) || !p.steps.some((s) => s.repeatable);
  if (p.minutes !== undefined && (chained || needed.size === p.steps.length)) return p.minutes;
  const seconds = p.steps
    .filter((s) => needed.has(s.id))
    .flatMap((s) => stretchesOf(s))
    .reduce((n, s) => n + (s.seconds ?? 60), 0);
  return seconds === 0 ? (p.minutes ?? null) : Math.ceil(seconds / 60) + 5;
}

function earliest(planned: readonly Planned[], now: number): number | null {
  const bound = planned.filter((x) => x.windows !== null);
  const candidates = [now, ...bound.flatMap((x) => x.windows!.map((w) => w.from))]
    .filter((t) => t >= now)
    .sort((a, b) => a - b);
  const holds = (x: Planned, t: number) =>
    x.windows!.some((w) => w.from <= t + 500 && (w.to === null || t <= w.to + 500)) ||
    // Beyond a forecast nobody knows: it is not held against the start, and said.
    (x.seen !== undefined && (t < x.seen.fromMs || t > x.seen.toMs));
  return candidates.find((t) => bound.every((x) => holds(x, t))) ?? null;
}

function planned_(c: BeforeCondition, r: PlanRequest, now: number): Planned {
  const { state } = r;
  const row = (
    s: PlanCondition['state'],
    why: Said,
    from: number | null = null,
    to: number | null = null,
    more: Partial<PlanCondition> = {},
  ): PlanCondition => ({
    id: c.id,
    state: s,
    holdsFrom: from === null ? null : iso(from),
    holdsUntil: to === null ? null : iso(to),
    why,
    ...more,
  });
  const unknown = (why: Said): Planned => ({ row: row('unknown', why), windows: null });
  const waits = (from: number, holdsWhy: Said, waitsWhy: Said): Planned =>
    from <= now
      ? { row: row('holds', holdsWhy, from), windows: [{ from, to: null }] }
      : { row: row('not-yet', waitsWhy, from), windows: [{ from, to: null }] };
  const bounds = boundsText(c);
  switch (c.id) {
    case 'soak': {
      if (!state.engineOffSince) return unknown('Not known since when the engine is off.');
      const need = inUnit(c.low ?? 0, c.unit!, 'h');
      const from = msOf(state.engineOffSince) + need * HOUR_MS;
      const off = tenths((now - msOf(state.engineOffSince)) / HOUR_MS, { unit: 'h' });
      return waits(from, said`Off for ${off}; ${bounds}.`, said`Off for ${off}; ${bounds}, by the clock.`);
    }
    case 'ambient':
      return ambient(c, r, now, row);
    case 'coolant-start':
    case 'coolant-to-air': {
      const v = carValue(c, state);
      if (v === undefined) return unknown(said`${NAMES[c.id]} is not known; ${bounds}.`);
      if (beyond(v, c) === 0)
        return { row: row('holds', said`${NAMES[c.id]} ${tenths(v, c)}: ${bounds}.`), windows: null };
      const air = state.intakeC ?? state.ambientC;
      if (c.high === undefined || v < c.high || air === undefined || state.coolantC === undefined)
        return { row: row('never', said`${NAMES[c.id]} ${tenths(v, c)} is not ${bounds}.`), windows: [] };
      const then =
        c.id === 'coolant-to-air' ? inUnit(c.high, c.unit!, '°C', true) : inUnit(c.high, c.unit!, '°C') - air;
      const hours = (tau: number) => coolingHours(state.coolantC! - air, then, tau);
      const own = ownCooling(r.cooling, air);
      const typical = hours(own ?? COOLING_H.typical);
      if (!Number.isFinite(typical))
        return {
          row: row('never', said`${NAMES[c.id]} cannot fall to ${bounds} in air of ${tenths(air, { unit: '°C' })}.`),
          windows: [],
        };
      return waits(
        now + typical * HOUR_MS,
        '',
        said`${NAMES[c.id]} ${tenths(v, c)}; ${bounds} after about ${tenths(typical, { unit: 'h' })}${
          own === null
            ? said` (${tenths([hours(COOLING_H.fast), hours(COOLING_H.slow)], { unit: 'h' })}), cooling as engines usually do`
            : ', by its own readings'
        }.`,
      );
    }
    case 'fuel-level':
      return fuel(c, state, row);
    case 'lamp': {
      if (state.lamp === undefined) return unknown('Whether the lamp is on is not known.');
      return state.lamp === 'off'
        ? { row: row('holds', 'The lamp is off.'), windows: null }
        : { row: row('never', 'The lamp is on: find and repair what set it first.'), windows: [] };
    }
    case 'codes': {
      if (!state.codes) return unknown('Codes have not been read.');
      const against = codesAgainst(c, state.codes);
      return against.length === 0
        ? { row: row('holds', 'No code that stands against it.'), windows: null }
        : { row: row('never', `${against.join(', ')}: repair what set it first.`), windows: [] };
    }
    default: {
      const [met] = conditionsMet({ ...r.procedure, before: [c] }, state);
      if (met!.state === 'unknown') return unknown(met!.why);
      return met!.state === 'met'
        ? { row: row('holds', met!.why), windows: null }
        : { row: row('never', joined([met!.why, REMEDY[c.id] ?? ''].filter(isSaid), ' ')), windows: [] };
    }
  }
}

const REMEDY: Readonly<Partial<Record<BeforeCondition['id'], string>>> = {
  altitude: 'Drive it lower down.',
  battery: 'Charge or test the battery first.',
  intake: 'Let the engine bay cool, in the shade.',
};

type Row = (
  s: PlanCondition['state'],
  why: Said,
  from?: number | null,
  to?: number | null,
  more?: Partial<PlanCondition>,
) => PlanCondition;

/** The bounds of a condition of the air, °C; open ones are infinite. A figure at a bound holds, however it was rounded. */
function airBounds(c: BeforeCondition): [low: number, high: number] {
  return [
    c.low === undefined ? Number.NEGATIVE_INFINITY : inUnit(c.low, c.unit!, '°C') - 1e-9,
    c.high === undefined ? Number.POSITIVE_INFINITY : inUnit(c.high, c.unit!, '°C') + 1e-9,
  ];
}

/** Windows from `now` (ms) on in which a forecast stays inside the bounds of a condition, whatever their unit. */
export function airWindows(c: BeforeCondition, forecast: readonly ForecastPoint[], now: number) {
  return forecastWindows(forecast, now, ...airBounds(c));
}

function ambient(c: BeforeCondition, r: PlanRequest, now: number, row: Row): Planned {
  const bounds = boundsText(c);
  const seen = airWindows(c, r.forecast ?? [], now);
  if (!seen || seen.toMs < now) {
    const air = r.state.ambientC;
    if (air === undefined)
      return { row: row('unknown', said`No forecast reaches from now on; ${bounds}.`), windows: null };
    const [low, high] = airBounds(c);
    const inside = air >= low && air <= high;
    const v = tenths(inUnit(air, '°C', c.unit!), c);
    return inside
      ? { row: row('holds', said`Outside air ${v} now: ${bounds}. No forecast.`), windows: null }
      : { row: row('unknown', said`Outside air ${v} now, not ${bounds}; no forecast says when.`), windows: null };
  }
  const { windows } = seen;
  const current = windows.find((w) => w.from <= now && w.to! >= now);
  const ends = (w: Window) => (w.to! >= seen.toMs - 1 ? null : w.to);
  const open = windows.map((w) => ({ from: w.from, to: w.to }));
  if (current) {
    const to = ends(current);
    return {
      row: row('holds', said`Outside air is ${bounds} now.`, current.from, to),
      windows: open,
      seen,
    };
  }
  if (now < seen.fromMs && r.state.ambientC !== undefined && windows.length === 0)
    return { row: row('never', said`In the whole forecast outside air is never ${bounds}.`), windows: [], seen };
  const next = windows.find((w) => w.from > now);
  return next
    ? {
        row: row('not-yet', said`Outside air is not ${bounds} yet.`, next.from, ends(next)),
        windows: open,
        seen,
      }
    : {
        row: row('never', said`In the whole forecast outside air is never ${bounds}: wait for other weather.`),
        windows: [],
        seen,
      };
}

function fuel(c: BeforeCondition, s: CarState, row: Row): Planned {
  if (s.fuelPct === undefined) return { row: row('unknown', 'The fuel level is not known.'), windows: null };
  const off = beyond(s.fuelPct, c);
  const bounds = boundsText(c);
  if (off === 0)
    return { row: row('holds', said`Fuel ${tenths(s.fuelPct, { unit: '%' })}: ${bounds}.`), windows: null };
  const more: Partial<PlanCondition> = {};
  let how: Said = off < 0 ? 'Add fuel.' : 'Burn some first.';
  if (s.tankL !== undefined) {
    more.litres = Math.round((-off / 100) * s.tankL * 10) / 10;
    const litres = figure(Math.abs(more.litres), 'L', undefined, { role: 'tank' });
    how = off < 0 ? said`Add ${litres}.` : said`Burn ${litres} first.`;
    if (off > 0 && s.consumptionLPer100Km) {
      more.km = Math.round((-more.litres / s.consumptionLPer100Km) * 100);
      how = said`Burn ${litres} first, about ${figure(more.km, 'km')}.`;
    }
  }
  return {
    row: row(
      'never',
      said`Fuel ${tenths(s.fuelPct, { unit: '%' })} is ${off < 0 ? 'under' : 'over'} ${tenths(off < 0 ? c.low! : c.high!, { unit: '%' })}. ${how}`,
      null,
      null,
      more,
    ),
    windows: [],
  };
}
