import { PIDS } from '../../obd/index.ts';
import type { Unit } from '../../units/index.ts';

/** What a column seems to be: a channel in some unit, the clock, or for the long layout its name and value. */
export type Role =
  | { kind: 'time' }
  | { kind: 'channel'; id: string; unit: string; from: string }
  | { kind: 'loop'; id: 'fuelSys1' | 'fuelSys2' }
  | { kind: 'name' }
  | { kind: 'value' }
  | { kind: 'unit' }
  | { kind: 'ignore' };

/** Units as logs write them → ours. */
const UNIT_WORDS: Readonly<Record<string, string>> = {
  '%': '%',
  percent: '%',
  pct: '%',
  rpm: 'rpm',
  '1/min': 'rpm',
  'u/min': 'rpm',
  'g/s': 'g/s',
  'g/sec': 'g/s',
  'grams/sec': 'g/s',
  'lb/min': 'lb/min',
  'lbs/min': 'lb/min',
  'kg/h': 'kg/h',
  'kg/hr': 'kg/h',
  kpa: 'kPa',
  psi: 'psi',
  inhg: 'inHg',
  'in.hg': 'inHg',
  bar: 'bar',
  '°c': '°C',
  c: '°C',
  degc: '°C',
  celsius: '°C',
  '°f': '°F',
  f: '°F',
  degf: '°F',
  fahrenheit: '°F',
  'km/h': 'km/h',
  kmh: 'km/h',
  kph: 'km/h',
  mph: 'mph',
  v: 'V',
  volt: 'V',
  volts: 'V',
  λ: 'λ',
  lambda: 'λ',
  s: 's',
  sec: 's',
  seconds: 's',
  ms: 'ms',
  '°': '°',
  deg: '°',
  ma: 'mA',
  km: 'km',
  mi: 'mi',
  miles: 'mi',
  l: 'L',
};

export function unitWord(text: string): string | null {
  return (
    UNIT_WORDS[
      text
        .trim()
        .toLowerCase()
        .replace(/[[\]()]/g, '')
    ] ?? null
  );
}

/** How people and logs name the channels that matter here; first match wins. `b` 1 or 2, `s` sensor. */
const NAMES: readonly [RegExp, (m: RegExpExecArray) => string][] = [
  [/\b(?:short[- ]?term|st)\b.*(?:trim|ft)\b.*?(?:bank|b)\W*([12])/, (m) => `stft${m[1]}`],
  [/\b(?:long[- ]?term|lt)\b.*(?:trim|ft)\b.*?(?:bank|b)\W*([12])/, (m) => `ltft${m[1]}`],
  [/\bstft\W*(?:bank|b)?\W*([12])?\b/, (m) => `stft${m[1] ?? 1}`],
  [/\bltft\W*(?:bank|b)?\W*([12])?\b/, (m) => `ltft${m[1] ?? 1}`],
  [/\bshort[- ]?term (?:fuel )?trim\b/, () => 'stft1'],
  [/\blong[- ]?term (?:fuel )?trim\b/, () => 'ltft1'],
  [/\b(?:o2|oxygen|ho2s?)\b.*?(?:bank|b)\W*([12])\W*(?:sensor|s)\W*([12])/, (m) => `o2s${m[1]}${m[2]}`],
  [
    /\b(?:lambda|equivalence ratio|eq ratio)\b.*?(?:bank|b)\W*([12])\W*(?:sensor|s)\W*([12])/,
    (m) => `lambda${m[1]}${m[2]}`,
  ],
  [/\blambda\b(?!.*command)/, () => 'lambda11'],
  [/\b(?:engine )?(?:rpm|engine speed)\b/, () => 'rpm'],
  [/\b(?:maf|mass air ?flow|air flow rate)\b/, () => 'maf'],
  [/\b(?:map|manifold (?:absolute )?pressure|intake manifold)\b/, () => 'map'],
  [/\b(?:ect|coolant)\b/, () => 'ect'],
  [/\b(?:iat|intake (?:air )?temp\w*|intake air)\b/, () => 'iat'],
  [/\b(?:vss|vehicle speed|speed)\b/, () => 'vss'],
  [/\b(?:relative throttle)\b/, () => 'tpRel'],
  [/\b(?:tps?|throttle)\b/, () => 'tp'],
  [/\b(?:absolute load|abs load)\b/, () => 'loadAbs'],
  [/\b(?:calculated load|engine load|load)\b/, () => 'load'],
  [/\b(?:baro\w*)\b/, () => 'baro'],
  [/\b(?:fuel level|fuel tank level)\b/, () => 'fuelLevel'],
  [/\b(?:battery|control module voltage|vbat|ecu voltage)\b/, () => 'vbat'],
  [/\b(?:ambient|outside air)\b/, () => 'ambient'],
  [/\b(?:spark|timing) ?(?:advance)?\b/, () => 'sparkAdv'],
  [/\bfuel (?:rail )?pressure\b/, () => 'fuelPressure'],
];

const KNOWN = new Map(PIDS.flatMap((p) => p.elements.filter((e) => !e.kind).map((e) => [e.id, e.unit] as const)));
const BY_LOWER = new Map([...KNOWN.keys()].map((id) => [id.toLowerCase(), id]));

/** The unit a channel is kept in; empty for one we do not know. */
export function unitOfChannel(id: string): string {
  return KNOWN.get(id) ?? '';
}

/** Which of our conversions leads from a written unit to the channel's; null where there is none to make. */
export function convertible(from: string, to: string): from is Unit {
  return from !== to && PAIRS.has(`${from}>${to}`);
}
const PAIRS = new Set(
  ['psi>kPa', 'inHg>kPa', 'bar>kPa', '°F>°C', 'mph>km/h', 'lb/min>g/s', 'kg/h>g/s', 'mi>km'].values(),
);

/** What a header cell says, with the unit given in it or in a unit row below. */
export function roleOf(header: string, unitCell?: string): Role {
  const raw = header.trim().replace(/^\uFEFF/, '');
  const inBrackets = /[([]([^)\]]*)[)\]]\s*$/.exec(raw)?.[1];
  const written = unitWord(unitCell ?? '') ?? (inBrackets === undefined ? null : unitWord(inBrackets));
  const name = (
    inBrackets !== undefined && (written !== null || inBrackets.trim() === '')
      ? raw.slice(0, raw.lastIndexOf(inBrackets) - 1)
      : raw
  ).trim();
  const low = name.toLowerCase().replaceAll('_', ' ');
  const loop = /\b(?:fuel ?sys(?:tem)?|loop) ?(?:status|state)\b|^fuelsys[12]?$/.test(low);
  if (loop) return { kind: 'loop', id: /2\W*$/.test(low) ? 'fuelSys2' : 'fuelSys1' };
  if (/^(time|zeit|timestamp|date ?time|elapsed|time since .*|t)$/.test(low) || /\btime stamp\b/.test(low))
    return { kind: 'time' };
  const bare = inBrackets === undefined ? name : raw.slice(0, raw.lastIndexOf(inBrackets) - 1).trim();
  const exact = BY_LOWER.get(bare.toLowerCase());
  const id = exact ?? NAMES.find(([r]) => r.test(low))?.[1](NAMES.find(([r]) => r.test(low))![0].exec(low)!);
  if (id) return { kind: 'channel', id, unit: unitOfChannel(id), from: written ?? unitOfChannel(id) };
  if (/^(channel|parameter|name|pid|sensor|signal)$/.test(low)) return { kind: 'name' };
  if (/^(value|reading|wert)$/.test(low)) return { kind: 'value' };
  if (/^(unit|units|einheit)$/.test(low)) return { kind: 'unit' };
  return { kind: 'ignore' };
}
