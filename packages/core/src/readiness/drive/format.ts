import { MONITORS, type MonitorId } from '../../obd/index.ts';
import { type Said } from '../../units/index.ts';
import { canConvert } from './units.ts';

/** What is asked before a drive begins. */
export const BEFORE_CONDITIONS = [
  'soak',
  'coolant-start',
  'coolant-to-air',
  'ambient',
  'intake',
  'altitude',
  'fuel-level',
  'lamp',
  'codes',
  'battery',
] as const;
/** What may be asked of a vehicle before a drive. */
export type BeforeId = (typeof BEFORE_CONDITIONS)[number];

/** A condition before the start: bounds in `unit`; of lamp and codes: that there are none. */
export interface BeforeCondition {
  id: BeforeId;
  low?: number;
  high?: number;
  unit?: string;
  /** Codes that matter here, by how they begin; all where absent. */
  codes?: string[];
  /** Ids of the steps that cannot succeed without it; all where absent. */
  steps?: string[];
}

/** A figure to be held between two limits, in its unit. */
export interface Band {
  channel: string;
  low?: number;
  high?: number;
  unit: string;
  /** Left out of account where the vehicle does not report it. */
  ifKnown?: boolean;
}

/** A stretch: bands that hold together, for seconds and until a channel gets somewhere. */
export interface Stretch {
  hold?: Band[];
  seconds?: number;
  until?: Band;
  /** Speed 0. */
  standing?: boolean;
  /** Ignition off; only with `standing`. */
  engineOff?: boolean;
  /** Said and not waited for: with the ignition off a log may say nothing. */
  unseen?: boolean;
}

/** A stretch of a drive: what is held, for how many s, and which monitors it finishes. */
export interface DriveStep extends Stretch {
  id: string;
  says: Said;
  finishes?: MonitorId[];
  /** Outside up to this long pauses the count, longer breaks it, s; 0 where absent. */
  graceSeconds?: number;
  /** Throttle change at most, %/s. */
  smooth?: number;
  repeatable?: boolean;
  /** Steps that must be done before it counts. */
  after?: string[];
  /** Seconds are counted over the whole drive: outside never breaks. */
  inAll?: boolean;
  /** Stretches one after the other, in place of its own. */
  phases?: Stretch[];
}

/** `just-balance/drive-procedure`, version 1. */
export interface DriveProcedure {
  format: 'just-balance/drive-procedure';
  version: 1;
  id: string;
  title: string;
  source: string;
  before: BeforeCondition[];
  steps: DriveStep[];
  totalMinutes?: number;
  /** How often in a row. */
  drives?: number;
  /** Expected, with the way to the road. */
  minutes?: number;
}

/** The phases of a step, or the step itself where it has none. */
export const stretchesOf = (s: DriveStep): readonly Stretch[] => s.phases ?? [s];

/** What means none, whatever else stands there. */
const UNBOUNDED: ReadonlySet<string> = new Set(['lamp', 'codes']);
/** What a condition is kept in. */
export const CONDITION_UNIT: Readonly<Partial<Record<BeforeId, string>>> = {
  soak: 'h',
  'coolant-start': '°C',
  'coolant-to-air': '°C',
  ambient: '°C',
  intake: '°C',
  altitude: 'm',
  'fuel-level': '%',
  battery: 'V',
};
/** What a channel is kept in; any other is compared as it stands. */
export const CHANNEL_UNIT: Readonly<Record<string, string>> = {
  vss: 'km/h',
  ect: '°C',
  iat: '°C',
  ambient: '°C',
  map: 'kPa',
  baro: 'kPa',
  maf: 'g/s',
};

/** What the shapes alone cannot say: each with its field. Empty for a procedure that can be driven. */
export function driveProblems(p: DriveProcedure): { field: string; message: string }[] {
  const out: { field: string; message: string }[] = [];
  const ids = p.steps.map((s) => s.id);
  for (const [i, c] of p.before.entries()) {
    const at = `before[${i}]`;
    const bounds = c.low !== undefined || c.high !== undefined;
    if (UNBOUNDED.has(c.id)) continue;
    if (!bounds) out.push({ field: at, message: 'low, high or both' });
    else if (!c.unit)
      out.push({ field: `${at}.unit`, message: `the unit of the bounds, such as ${CONDITION_UNIT[c.id]}` });
    else if (!canConvert(c.unit, CONDITION_UNIT[c.id]!))
      out.push({ field: `${at}.unit`, message: `"${c.unit}" is no unit of ${c.id}` });
    if (c.low !== undefined && c.high !== undefined && c.low > c.high)
      out.push({ field: `${at}.low`, message: 'more than high' });
    for (const s of c.steps ?? [])
      if (!ids.includes(s)) out.push({ field: `${at}.steps`, message: `"${s}" is no step of it` });
  }
  for (const [i, s] of p.steps.entries()) {
    const at = `steps[${i}]`;
    if (ids.indexOf(s.id) !== i) out.push({ field: `${at}.id`, message: `"${s.id}" stands twice` });
    for (const a of s.after ?? [])
      if (!ids.slice(0, i).includes(a)) out.push({ field: `${at}.after`, message: `"${a}" is no step before it` });
    for (const m of s.finishes ?? [])
      if (!(m in MONITORS)) out.push({ field: `${at}.finishes`, message: `"${m}" is no monitor` });
    for (const [k, stretch] of stretchesOf(s).entries()) {
      const where = s.phases ? `${at}.phases[${k}]` : at;
      if (stretch.engineOff && !stretch.standing)
        out.push({ field: `${where}.engineOff`, message: 'only at a standstill: standing is missing' });
      if (stretch.seconds === undefined && !stretch.until)
        out.push({ field: where, message: 'seconds, until or both: without them it never ends' });
      const bands: [string, Band][] = (stretch.hold ?? []).map((b, n) => [`${where}.hold[${n}]`, b]);
      if (stretch.until) bands.push([`${where}.until`, stretch.until]);
      for (const [field, b] of bands) {
        if (b.low === undefined && b.high === undefined) out.push({ field, message: 'low, high or both' });
        if (b.low !== undefined && b.high !== undefined && b.low > b.high)
          out.push({ field: `${field}.low`, message: 'more than high' });
        const unit = CHANNEL_UNIT[b.channel];
        if (unit && !canConvert(b.unit, unit))
          out.push({ field: `${field}.unit`, message: `"${b.unit}" is no unit of ${b.channel}` });
      }
    }
  }
  return out;
}
