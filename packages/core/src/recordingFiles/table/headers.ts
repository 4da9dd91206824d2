import { PIDS } from '../../obd/index.ts';
import { UNITS, type Unit } from '../../units/index.ts';
import { isClockWord, stemmed } from './stems.ts';

/** The channels of words. */
export const WORDS_IDS = ['fuelSys1', 'fuelSys2', 'monitorStatus'] as const;
export type WordsId = (typeof WORDS_IDS)[number];

/** Whether a channel is one of words. */
export const isWords = (id: unknown): id is WordsId => WORDS_IDS.some((w) => w === id);

/** What a column seems to be: a channel in some unit, the clock, or for the long layout its name and value. */
export type Role =
  | { kind: 'time' }
  | { kind: 'channel'; id: string; unit: string; from: string }
  /** Words over time: the loop state, or in a file of our own the bytes of the monitor status. */
  | { kind: 'loop'; id: WordsId }
  | { kind: 'name' }
  | { kind: 'value' }
  | { kind: 'unit' }
  /** `why`: where it is known; otherwise it is not known here, or was left out by a person. */
  | { kind: 'ignore'; why?: string };

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
  'kpa abs': 'kPa',
  'kpa(a)': 'kPa',
  hpa: 'hPa',
  mbar: 'mbar',
  mb: 'mbar',
  millibar: 'mbar',
  mpa: 'MPa',
  pa: 'Pa',
  mmhg: 'mmHg',
  inh2o: 'inH2O',
  'kg/cm2': 'kgf/cm²',
  'kgf/cm2': 'kgf/cm²',
  psi: 'psi',
  psia: 'psi',
  inhg: 'inHg',
  'in.hg': 'inHg',
  'in hg': 'inHg',
  '"hg': 'inHg',
  bar: 'bar',
  '°c': '°C',
  c: '°C',
  degc: '°C',
  celsius: '°C',
  '°f': '°F',
  f: '°F',
  degf: '°F',
  fahrenheit: '°F',
  '°k': 'K',
  k: 'K',
  kelvin: 'K',
  'km/h': 'km/h',
  'm/s': 'm/s',
  kmh: 'km/h',
  kph: 'km/h',
  mph: 'mph',
  'mi/h': 'mph',
  'g/sec.': 'g/s',
  'gm/s': 'g/s',
  'kg/hour': 'kg/h',
  'lb/m': 'lb/min',
  v: 'V',
  mv: 'mV',
  volt: 'V',
  volts: 'V',
  λ: 'λ',
  lambda: 'λ',
  s: 's',
  sec: 's',
  seconds: 's',
  'sec.': 's',
  ms: 'ms',
  msec: 'ms',
  milliseconds: 'ms',
  us: 'µs',
  µs: 'µs',
  microseconds: 'µs',
  '°': '°',
  deg: '°',
  ma: 'mA',
  km: 'km',
  mi: 'mi',
  miles: 'mi',
  l: 'L',
};

/** A unit as a header writes it, as ours; null where it is none we know. */
export function unitWord(text: string): string | null {
  const word = text
    .trim()
    .toLowerCase()
    .replace(/^[[({]|[\])}]$/g, '')
    .replace('º', '°')
    .replace('μ', 'µ')
    .trim();
  return Object.hasOwn(UNIT_WORDS, word) ? UNIT_WORDS[word]! : null;
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

const quantityOf = (unit: string): string | null => (unit in UNITS ? UNITS[unit as Unit].quantity : null);

/** Whether a written unit can be turned into the channel's: another one of the same quantity. */
export function convertible(from: string, to: string): from is Unit {
  return from !== to && quantityOf(from) !== null && quantityOf(from) === quantityOf(to);
}

/** Whether these are the headers of a file of our own: `time`, then `id` or `id (unit)` in the unit a channel is kept in. */
export function isOwnHeader(headers: readonly string[]): boolean {
  const [time, ...rest] = headers;
  return (
    time === 'time' &&
    rest.length > 0 &&
    rest.every((h) => {
      const [, id, unit] = /^(\S+?)(?: \((.+)\))?$/.exec(h) ?? [];
      return id !== undefined && (isWords(id) ? unit === undefined : KNOWN.get(id) === (unit ?? ''));
    })
  );
}

/** Every unit a channel kept in `unit` may be written in, its own first. */
export function writtenUnits(unit: string): readonly string[] {
  const quantity = quantityOf(unit);
  return quantity === null ? [unit] : [unit, ...Object.keys(UNITS).filter((u) => convertible(u, unit))];
}

/** A header cut into its name and the unit it names: in brackets, behind a comma, or as its last word. */
function cutHeader(raw: string): { name: string; unit: string | null } {
  const brackets = /^(.*?)\s*[([{]([^)\]}]*)[)\]}]\s*$/.exec(raw);
  if (brackets) {
    const unit = unitWord(brackets[2]!);
    return unit !== null || brackets[2]!.trim() === ''
      ? { name: brackets[1]!.trim(), unit }
      : { name: raw, unit: null };
  }
  const behind = /^(.+?)(?:,\s*|\s+|_)([^\s,_]+)$/.exec(raw);
  const unit = behind ? unitWord(behind[2]!) : null;
  // A bank's letter, a lone s or v at the end of a name is no unit.
  return unit !== null && behind![2]!.length > 1 ? { name: behind![1]!.trim(), unit } : { name: raw, unit: null };
}

/** What a header cell says, with the unit given in it or in a unit row below. */
export function roleOf(header: string, unitCell?: string): Role {
  const raw = header.trim().replace(/^\uFEFF/, '');
  const { name, unit } = cutHeader(raw);
  const written = unitWord(unitCell ?? '') ?? unit;
  const low = name.toLowerCase().replaceAll('_', ' ');
  const loop = /\b(?:fuel ?sys(?:tem)?|loop) ?(?:status|state)\b|^fuelsys[12]?$/.test(low);
  if (loop) return { kind: 'loop', id: /2\W*$/.test(low) ? 'fuelSys2' : 'fuelSys1' };
  if (
    /^(time|zeit|timestamp|date ?time|date (?:and|&) time|elapsed(?: time)?|time since .*|(?:relative|local|system|device|log|sample|gps|clock) time|time of day|clock|uhrzeit|t|ts)$/.test(
      low,
    ) ||
    /\btime ?stamp\b/.test(low) ||
    isClockWord(name)
  )
    return { kind: 'time' };
  const bare = raw.replace(/\s*[([{][^)\]}]*[)\]}]\s*$/, '').toLowerCase();
  const exact = BY_LOWER.get(name.toLowerCase()) ?? BY_LOWER.get(bare);
  const fits = (own: string) => written === null || own === '' || written === own || convertible(written, own);
  // A last word that is a unit may be the name itself: engine rpm. Of several names the one counts that can be so written.
  const ids = [exact, named(low), named(raw.toLowerCase().replaceAll('_', ' ')), stemmed(raw, fits)];
  const id = ids.find((x) => x !== undefined && fits(unitOfChannel(x)));
  if (id) return { kind: 'channel', id, unit: unitOfChannel(id), from: written ?? unitOfChannel(id) };
  const other = ids.find((x) => x !== undefined);
  if (other && written !== null) {
    // Volts of an airflow sensor are no airflow: without its curve they stay volts, under their own name.
    if (written === 'V' || convertible(written, 'V'))
      return { kind: 'channel', id: raw.slice(0, 60), unit: 'V', from: written };
    return { kind: 'ignore', why: `written in ${written}, which is no ${unitOfChannel(other)}` };
  }
  if (isWords(name)) return { kind: 'loop', id: name };
  if (/^(channel|parameter|name|pid|sensor|signal)$/.test(low)) return { kind: 'name' };
  if (/^(value|reading|wert)$/.test(low)) return { kind: 'value' };
  if (/^(unit|units|einheit)$/.test(low)) return { kind: 'unit' };
  if (/^(date|datum|day)$/.test(low)) return { kind: 'ignore', why: 'a date beside a clock' };
  return { kind: 'ignore' };
}

function named(low: string): string | undefined {
  for (const [pattern, of] of NAMES) {
    const m = pattern.exec(low);
    if (m) return of(m);
  }
  return undefined;
}
