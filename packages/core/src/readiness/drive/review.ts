import type { Sample } from '../../link/index.ts';
import { channelName, MONITORS, type MonitorId } from '../../obd/index.ts';
import { type Series } from '../../series/index.ts';
import { isSaid, joined, type Said, said } from '../../units/index.ts';
import {
  type CoachSample,
  type CoachState,
  coachSample,
  coachStart,
  type Lapse,
  stepProgress,
  timeLeft,
} from './coach.ts';
import { boundsText, type CarState, type ConditionMet, conditionsMet, tenths } from './conditions.ts';
import { CHANNEL_UNIT, type DriveProcedure, stretchesOf } from './format.ts';
import { incompleteOf } from './monitors.ts';
import { carAtKeyOn, type KeyOn } from './start.ts';
import { inUnit } from './units.ts';
import { carFromValues, impossibleSteps, neededSteps, stepWords } from './wanted.ts';

/** How a step of a drive went: what counted in s, and what broke it. */
export interface StepReview {
  id: string;
  state: 'done' | 'broken' | 'running' | 'not-reached' | 'not-possible';
  fromS: number | null;
  toS: number | null;
  heldS: number;
  neededS: number | null;
  broken: Lapse[];
  finishes: MonitorId[];
}

/** `just-balance/drive-review`, version 1. */
export interface DriveReview {
  format: 'just-balance/drive-review';
  version: 1;
  procedure: string;
  result: 'complete' | 'incomplete' | 'failed';
  conditions: ConditionMet[];
  steps: StepReview[];
  monitors: { before: MonitorId[] | null; after: MonitorId[] | null };
  remains: Said[];
  nextAttempt: Said;
  warnings: Said[];
}

const round = (v: number) => Math.round(v * 10) / 10;
const FIRST_S = 30;

/** Ids of the channels a procedure looks at. */
export function channelsOf(p: DriveProcedure): Set<string> {
  const out = new Set<string>();
  for (const s of p.steps) {
    if (s.smooth !== undefined) for (const c of ['tp', 'tpRel', 'app']) out.add(c);
    for (const x of stretchesOf(s)) {
      for (const b of [...(x.hold ?? []), ...(x.until ? [x.until] : [])]) out.add(b.channel);
      if (x.standing) out.add('vss');
      if (x.engineOff) out.add('rpm');
    }
  }
  return out;
}

/** Samples of a recorded drive in the order of their time, from second 0 on: what the coach hears when it is live. */
export function* driveSamples(p: DriveProcedure, series: Series): Generator<CoachSample> {
  const wanted = channelsOf(p);
  const first = firstSecond(series);
  const channels = series.channels
    .filter((c) => wanted.has(c.id))
    .map((c) => ({ ...c, i: 0, to: CHANNEL_UNIT[c.id] ?? c.unit }));
  const texts = (series.texts ?? []).filter((t) => t.id === 'monitorStatus').map((t) => ({ ...t, i: 0 }));
  for (;;) {
    let t = Number.POSITIVE_INFINITY;
    for (const c of channels) if (c.i < c.time.length) t = Math.min(t, c.time[c.i]!);
    for (const c of texts) if (c.i < c.time.length) t = Math.min(t, c.time[c.i]!);
    if (t === Number.POSITIVE_INFINITY) return;
    const values: Record<string, number> = {};
    for (const c of channels)
      while (c.i < c.time.length && c.time[c.i] === t) values[c.id] = inUnit(c.value[c.i++]!, c.unit, c.to);
    let incomplete: MonitorId[] | undefined;
    for (const c of texts)
      while (c.i < c.time.length && c.time[c.i] === t) incomplete = incompleteOf(c.value[c.i++]!) ?? incomplete;
    yield { t: t - first, values, ...(incomplete ? { incomplete } : {}) };
  }
}

function firstSecond(series: Series): number {
  const all = [...series.channels, ...(series.texts ?? [])];
  return all.reduce((n, c) => Math.min(n, c.time[0] ?? n), Number.POSITIVE_INFINITY);
}

/** What the first seconds of a drive say of the car before it. */
export function carFromSeries(series: Series): CarState {
  return carFromValues(firstValues(series));
}

/** The car before a recorded drive: what the log saw first, what was planned, when it had run before. */
export function carBeforeDrive(
  p: DriveProcedure,
  series: Series,
  car: Pick<KeyOn, 'at' | 'planned' | 'ranAt'>,
): CarState {
  return carAtKeyOn(p, { ...car, values: firstValues(series), rpm: [] });
}

/** First figures of every channel, in the units of the link. */
function firstValues(series: Series): Record<string, number | string> {
  const first = firstSecond(series);
  const values: Record<string, number | string> = {};
  for (const c of series.channels)
    if (c.time.length > 0 && c.time[0]! - first <= FIRST_S)
      values[c.id] = inUnit(c.value[0]!, c.unit, CHANNEL_UNIT[c.id] ?? c.unit);
  const status = series.texts?.find((t) => t.id === 'monitorStatus')?.value.find((v) => incompleteOf(v) !== null);
  return status === undefined ? values : { ...values, monitorStatus: status };
}

/** A recorded drive against a procedure. `car`: what is known of it before the start. */
export function reviewDrive(p: DriveProcedure, series: Series, car: CarState | null): DriveReview {
  const known = new Set(series.channels.map((c) => c.id));
  let state = coachStart(p, known);
  for (const s of driveSamples(p, series)) state = coachSample(state, s);
  // What the log saw itself fills what was not said.
  return reviewOf(state, { ...carFromSeries(series), ...car });
}

/** What the coach has seen so far, live or at the end, as a review. */
export function reviewOf(s: CoachState, car: CarState): DriveReview {
  const p = s.procedure;
  const conditions = conditionsMet(p, car);
  const impossible = impossibleSteps(
    p,
    p.before.filter((_, i) => conditions[i]!.state === 'not-met'),
  );
  const before = (car.incomplete as MonitorId[] | undefined) ?? s.before?.slice() ?? null;
  const after = s.after?.slice() ?? null;
  const steps = p.steps.map((step, i): StepReview => {
    const x = s.steps[i]!;
    const { heldS, neededS } = stepProgress(step, x);
    const cannot = impossible.has(step.id) && !x.byMonitor;
    const over = s.overAtS !== null;
    const state: StepReview['state'] =
      x.done && !cannot
        ? 'done'
        : x.broke && !x.begun
          ? 'broken'
          : cannot || over
            ? 'not-possible'
            : x.begun
              ? 'running'
              : 'not-reached';
    const open = x.outside ? [{ ...x.outside, paused: true as const }] : [];
    const toS = x.toS ?? (x.begun ? (s.overAtS ?? s.nowS) : null);
    return {
      id: step.id,
      state,
      fromS: x.fromS === null ? null : round(x.fromS),
      toS: toS === null ? null : round(toS),
      heldS,
      neededS,
      broken: [...x.lapses, ...open].map((l) => ({ ...l, atS: round(l.atS) })),
      finishes: [...(step.finishes ?? [])],
    };
  });
  const needed = neededSteps(p, before);
  const left = steps.filter((r) => needed.has(r.id) && r.state !== 'done');
  const complete = left.length === 0 || (after !== null && after.length === 0);
  const failed = !complete && (s.overAtS !== null || left.some((r) => impossible.has(r.id)));
  // What only steps need that are not left is no hindrance.
  const inTheWay = conditions.filter((c, i) => {
    const { steps: of } = p.before[i]!;
    return c.state === 'not-met' && (!of || left.some((r) => of.includes(r.id)));
  });
  const result = complete ? 'complete' : failed ? 'failed' : 'incomplete';
  return {
    format: 'just-balance/drive-review',
    version: 1,
    procedure: p.id,
    result,
    conditions,
    steps,
    monitors: { before, after },
    remains: complete ? [] : remains(p, left, inTheWay),
    nextAttempt: nextAttempt(p, result, left, inTheWay, s),
    warnings: warnings(conditions, steps, s),
  };
}

const named = (list: readonly MonitorId[]) => list.map((m) => MONITORS[m]).join(', ');

function remains(p: DriveProcedure, left: readonly StepReview[], conditions: readonly ConditionMet[]): Said[] {
  return [
    ...left.map((r) => {
      const what = r.finishes.length > 0 ? `${named(r.finishes)} (${r.id})` : r.id;
      const step = p.steps.find((s) => s.id === r.id)!;
      const broke = r.broken.filter((b) => !b.paused).at(-1);
      const of = r.neededS === null ? '' : `${round(r.heldS)} of ${r.neededS} s held`;
      const until = stretchesOf(step).at(-1)?.until;
      const ends = r.neededS === null && until ? said`until ${channelName(until.channel)} is ${boundsText(until)}` : '';
      const broken = broke
        ? said`broken at second ${broke.atS}: ${broke.why}${broke.value === null ? '' : said`, ${tenths(broke.value, broke.unit === null ? {} : { unit: broke.unit })}`}`
        : '';
      return said`${what}: ${joined([r.state.replace('-', ' '), of, ends, broken].filter(isSaid), '; ')}.`;
    }),
    ...conditions.map((c) => c.why),
  ];
}

function nextAttempt(
  p: DriveProcedure,
  result: DriveReview['result'],
  left: readonly StepReview[],
  conditions: readonly ConditionMet[],
  s: CoachState,
): Said {
  if (result === 'complete') return 'Nothing is left to drive: read the monitors and keep them.';
  if (conditions.length > 0)
    return said`Before the next start: ${joined(
      conditions.map((c) => c.why),
      ' ',
    )}`;
  const again = `start again${p.before.some((c) => c.id === 'soak') ? ' after a new soak' : ''}.`;
  if (s.overAtS !== null) return `The ${p.totalMinutes} minutes are over: ${again}`;
  if (!timeLeft(s, new Set(left.map((r) => r.id))))
    return `What is left of its time is too short for any step that is open: ${again}`;
  const [step] = left.map((r) => p.steps.find((s) => s.id === r.id)!);
  return said`Go straight to ${stepWords(p, step!.id)} (${step!.id})${(step!.finishes ?? []).length > 0 ? said`: ${step!.says}` : '.'}`;
}

function warnings(conditions: readonly ConditionMet[], steps: readonly StepReview[], s: CoachState): Said[] {
  const out = conditions.filter((c) => c.state === 'unknown').map((c) => c.why);
  for (const c of channelsOf(s.procedure))
    if (!s.known.has(c) && !['tp', 'tpRel', 'app'].includes(c)) out.push(`The drive does not carry ${c}.`);
  if (s.after === null) out.push('The drive does not say which monitors are complete: read them.');
  else
    for (const r of steps)
      if (r.state === 'done' && r.finishes.some((m) => s.after!.includes(m)))
        out.push(
          `${r.id} was driven as asked, and ${named(r.finishes.filter((m) => s.after!.includes(m)))} is still open: some vehicles need another drive.`,
        );
  return out;
}

/** What a link heard, as the coach hears it: a moment a sample, in time order; `fromUs` is second 0 of the drive. */
export function heardSamples(p: DriveProcedure, samples: readonly Sample[], fromUs: number): CoachSample[] {
  const wanted = channelsOf(p);
  const moments = new Map<number, { values: Record<string, number>; incomplete?: readonly MonitorId[] }>();
  for (const s of samples) {
    const monitors = s.channel === 'monitorStatus' && typeof s.value === 'string' ? incompleteOf(s.value) : null;
    const wants = wanted.has(s.channel) && typeof s.value === 'number';
    if (s.atUs < fromUs || !(wants || monitors)) continue;
    const m = moments.get(s.atUs) ?? { values: {} };
    if (wants) m.values[s.channel] = s.value as number;
    if (monitors) m.incomplete = monitors;
    moments.set(s.atUs, m);
  }
  return [...moments].sort(([a], [b]) => a - b).map(([us, m]) => ({ t: (us - fromUs) / 1e6, ...m }));
}
