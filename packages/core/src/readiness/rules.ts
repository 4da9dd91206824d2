import { MONITORS, type MonitorId, type MonitorStatus } from '../obd/index.ts';
import { figure, type Said, said } from '../units/index.ts';

/** What an inspection looks at beside monitors. */
export const EXTRA_TESTS = ['gas', 'cap', 'visual', 'dynamometer', 'smoke'] as const;
/** One of them. */
export type ExtraTest = (typeof EXTRA_TESTS)[number];

/** Vehicles a part of a rule speaks of. Years inclusive. */
export interface RuleVehicles {
  fuel: 'petrol' | 'diesel';
  fromYear: number;
  toYear?: number;
}

/** How many monitors may be open, and which. */
export interface RuleBand extends RuleVehicles {
  allowed: number;
  /** Only these may be open; any where it is absent. */
  only?: readonly MonitorId[];
}

/** Something an inspection looks at beside the monitors, of which vehicles, and what it asks of it. */
export interface RuleExtra extends RuleVehicles {
  test: ExtraTest;
  says: Said;
}

/** `just-balance/inspection-rule`, version 1: dated data with its source; local programmes decide. */
export interface InspectionRule {
  format: 'just-balance/inspection-rule';
  version: 1;
  id: string;
  title: string;
  place: string;
  /** When it was so, such as 2020-12. */
  asOf: string;
  source: string;
  bands: readonly RuleBand[];
  /** What a lit lamp does; `fails` unless said. */
  lamp?: 'fails' | 'noted';
  storedCodes?: 'fail' | 'noted';
  permanentCodes?: 'fail' | 'may-fail' | 'noted';
  extras?: readonly RuleExtra[];
  /** What fails by eye. */
  visual?: readonly string[];
}

const ANY_YEAR = 9999;

/** Visual failures, wherever somebody looks. Common practice, no source. */
const VISUAL = [
  'altered intake',
  'spacer under the throttle',
  'cracked vacuum hose',
  'missing catalyst',
  'visible smoke',
];

/** What inspections take, by place, with date and source; local law wins. */
export const INSPECTION_RULES: readonly InspectionRule[] = [
  {
    format: 'just-balance/inspection-rule',
    version: 1,
    id: 'us-federal',
    title: 'US federal guidance',
    place: 'United States',
    asOf: '2001-04',
    source: '40 CFR 85.2222 and US EPA guidance on OBD inspection (from memory)',
    bands: [
      { fuel: 'petrol', fromYear: 1996, toYear: 2000, allowed: 2 },
      { fuel: 'petrol', fromYear: 2001, allowed: 1 },
    ],
    lamp: 'fails',
    storedCodes: 'noted',
    permanentCodes: 'noted',
  },
  {
    format: 'just-balance/inspection-rule',
    version: 1,
    id: 'strict-state',
    title: 'A strict state',
    place: 'one US state',
    asOf: '2020-12',
    source: 'common practice, no source',
    bands: [
      { fuel: 'petrol', fromYear: 1996, toYear: 1999, allowed: 1 },
      { fuel: 'petrol', fromYear: 2000, allowed: 1, only: ['evap'] },
      { fuel: 'diesel', fromYear: 1998, toYear: 2006, allowed: 0 },
      { fuel: 'diesel', fromYear: 2007, allowed: 2 },
    ],
    lamp: 'fails',
    storedCodes: 'noted',
    permanentCodes: 'may-fail',
    extras: [
      {
        fuel: 'petrol',
        fromYear: 1996,
        toYear: 1999,
        test: 'dynamometer',
        says: said`exhaust gas on rollers at ${figure([15, 25], 'mph', 0, { between: ' and ' })}`,
      },
      { fuel: 'petrol', fromYear: 1996, toYear: 1999, test: 'cap', says: 'fuel cap holds pressure' },
    ],
    visual: VISUAL,
  },
];

/** Problems that the form of a rule does not show, each with its field. */
export function ruleProblems(rule: InspectionRule): { field: string; message: string }[] {
  const out: { field: string; message: string }[] = [];
  const years = (v: RuleVehicles, field: string) => {
    if (v.toYear !== undefined && v.toYear < v.fromYear)
      out.push({ field: `${field}.toYear`, message: `${v.toYear} is before ${v.fromYear}` });
  };
  for (const [i, b] of rule.bands.entries()) {
    years(b, `bands[${i}]`);
    const twin = rule.bands.findIndex(
      (o, j) =>
        j < i && o.fuel === b.fuel && o.fromYear <= (b.toYear ?? ANY_YEAR) && b.fromYear <= (o.toYear ?? ANY_YEAR),
    );
    if (twin >= 0)
      out.push({
        field: `bands[${i}].fromYear`,
        message: `the same years and fuel as bands[${twin}]: only one can hold`,
      });
    for (const [j, id] of (b.only ?? []).entries())
      if (!Object.hasOwn(MONITORS, id))
        out.push({
          field: `bands[${i}].only[${j}]`,
          message: `"${id}" is no monitor: ${Object.keys(MONITORS).join(', ')}`,
        });
  }
  for (const [i, e] of (rule.extras ?? []).entries()) years(e, `extras[${i}]`);
  return out;
}

/** What an inspection is asked about. */
export interface RuleQuestion {
  monitors: MonitorStatus;
  stored: number;
  permanent: number;
  year: number | undefined;
  fuel: 'petrol' | 'diesel';
}

/** Whether the rule takes it, and why. */
export interface RuleAnswer {
  rule: InspectionRule;
  /** Would the rule take it? Null where it does not speak of this vehicle. */
  accepts: boolean | null;
  /** What decides, then what is only noted. */
  reasons: string[];
  extras: readonly RuleExtra[];
}

const speaksOf = (v: RuleVehicles, year: number, fuel: string) =>
  v.fuel === fuel && year >= v.fromYear && year <= (v.toYear ?? ANY_YEAR);

/** What a rule says of a vehicle as it stands. Whether everything is complete is another question: `allComplete`. */
export function askRule(rule: InspectionRule, q: RuleQuestion): RuleAnswer {
  const nothing = (why: string): RuleAnswer => ({ rule, accepts: null, reasons: [why], extras: [] });
  if (q.year === undefined) return nothing('model year not known');
  const { year, fuel } = q;
  const band = rule.bands.find((b) => speaksOf(b, year, fuel));
  if (!band) return nothing(`says nothing of ${fuel} of ${year}`);
  const fails: string[] = [];
  const notes: string[] = [];
  const open = q.monitors.monitors.filter((m) => m.state === 'incomplete').map((m) => m.id);
  if (q.monitors.lampOn) (rule.lamp === 'noted' ? notes : fails).push('the lamp is on');
  if (q.stored > 0)
    (rule.storedCodes === 'fail' ? fails : notes).push(`${q.stored} stored code${q.stored === 1 ? '' : 's'}`);
  if (q.permanent > 0) {
    const text = `${q.permanent} permanent code${q.permanent === 1 ? '' : 's'}`;
    if (rule.permanentCodes === 'fail') fails.push(text);
    else notes.push(rule.permanentCodes === 'may-fail' ? `${text}: may fail` : text);
  }
  const wrong = band.only ? open.filter((id) => !band.only!.includes(id)) : [];
  if (wrong.length > 0) fails.push(`${names(wrong)} open; only ${names(band.only!)} may be`);
  else if (open.length > band.allowed)
    fails.push(`${open.length} monitors open; ${band.allowed === 0 ? 'none' : `${band.allowed} at most`} may be`);
  else if (open.length > 0) notes.push(`${names(open)} open, as allowed`);
  return {
    rule,
    accepts: fails.length === 0,
    reasons: [...fails, ...notes],
    extras: (rule.extras ?? []).filter((e) => speaksOf(e, year, fuel)),
  };
}

const names = (ids: readonly MonitorId[]) => ids.map((id) => MONITORS[id]).join(', ');

/** Whether everything that the vehicle has is complete, lamp and codes apart. */
export function allComplete(monitors: MonitorStatus): boolean {
  return monitors.monitors.every((m) => m.state !== 'incomplete');
}

/** What is looked at before driving to an inspection. Common practice, no source. */
export const BEFORE_INSPECTION: readonly { id: string; says: string; why: string }[] = [
  { id: 'lamp-lights', says: 'The lamp lights at key-on.', why: 'A lamp that never lights fails by itself.' },
  { id: 'lamp-out', says: 'The lamp goes out once the engine runs.', why: 'A lit lamp fails.' },
  { id: 'complete', says: 'All monitors complete, read today.', why: 'A station may refuse what the rule allows.' },
  { id: 'warm', says: 'Engine warm: driven for twenty minutes just before.', why: 'A cold catalyst fails a gas test.' },
  { id: 'tyres', says: 'Tyres dry, at their pressure, fit for rollers.', why: 'An unsafe car is sent away.' },
  { id: 'oil', says: 'Oil fresh and at its level.', why: 'Fuel in old oil goes through the engine as a rich mixture.' },
  { id: 'battery', says: 'Battery not disconnected since the last drive.', why: 'It empties the monitors.' },
  { id: 'visual', says: `None of these: ${VISUAL.join(', ')}.`, why: 'They fail by eye, whatever the computer says.' },
];
