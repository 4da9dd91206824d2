import { pointLabel } from '../case/index.ts';
import { faultLabel, outcomeLabel, TEST_BY_ID } from '../catalogue/index.ts';
import { chanceText, counted, idInWords, joined, midSentence, type Said, said } from '../units/index.ts';
import { valuesInWords } from './testWords.ts';

type Data = Readonly<Record<string, unknown>>;
/** What a sentence reads of an event: a text, a number, yes or no, a group of values, or what a test showed. */
type Reads = 'text' | 'number' | 'flag' | 'group' | 'result';

const isGroup = (v: unknown): v is Data => typeof v === 'object' && v !== null && !Array.isArray(v);
const isResult = (v: unknown): boolean =>
  typeof v === 'string' ||
  (Array.isArray(v) && v.every((o) => typeof o === 'string')) ||
  (isGroup(v) && Object.values(v).every((o) => typeof o === 'string' || Number.isFinite(o)));
const FITS: Readonly<Record<Reads, { fits(v: unknown): boolean; what: string }>> = {
  text: { fits: (v) => typeof v === 'string', what: 'a text' },
  number: { fits: (v) => Number.isFinite(v), what: 'a number' },
  flag: { fits: (v) => typeof v === 'boolean', what: 'true or false' },
  group: { fits: isGroup, what: 'an object' },
  result: { fits: isResult, what: 'what a test showed: a text, a list of texts, or its figures' },
};

const ORDER_WORDS: Readonly<Record<string, string>> = {
  wanted: 'put on the list of parts to order',
  ordered: 'ordered',
  arrived: 'took in',
  struck: 'struck off the list of parts to order',
};
const text = (v: unknown) => (typeof v === 'string' ? v : '');
const point = (v: unknown) => {
  const at = text(v);
  return at === 'free' ? 'a free recording' : midSentence(pointLabel(at as Parameters<typeof pointLabel>[0]) ?? at);
};
const testName = (id: string) => midSentence(TEST_BY_ID.get(id)?.label ?? idInWords(id));

/** What a test showed: its outcomes, or its figures. */
function resultWords(test: string, result: unknown): Said[] {
  if (isGroup(result)) return valuesInWords(test, result as Record<string, number | string>);
  return [result ?? []].flat().map((o) => outcomeLabel(test, String(o)));
}

const CHANGED: ReadonlyMap<string, string> = new Map([
  ['complaint', 'the complaint'],
  ['ambient', 'the surroundings'],
  ['adapter', 'the adapter'],
  ['status', 'where it stands'],
]);

interface EventKind {
  reads?: Readonly<Record<string, Reads>>;
  /** A sentence without its subject, of data that fits `reads`: each field is there as it should be, or not at all. */
  said(d: Data): Said;
}

/** What a person did, by kind of event. What is not here is said by its own name. */
const ROWS: Readonly<Record<string, EventKind>> = {
  opened: { said: () => 'opened the job' },
  changed: {
    reads: { status: 'text' },
    said: (d) =>
      d.status === 'closed'
        ? 'handed the job over'
        : d.status === 'open'
          ? 'opened the job again'
          : `changed ${
              Object.keys(d)
                .map((k) => CHANGED.get(k) ?? k)
                .join(' and ') || 'the job'
            }`,
  },
  vehicle: {
    reads: { after: 'group' },
    said: (d) =>
      `changed the vehicle’s card: ${Object.keys((d.after ?? {}) as object)
        .map(idInWords)
        .join(', ')}`,
  },
  record: {
    reads: { phase: 'text' },
    said: (d) => `kept codes and monitors${d.phase === 'after' ? ' after the repair' : ''}`,
  },
  'record-corrected': { said: () => 'put a record right' },
  reading: {
    reads: { at: 'text', phase: 'text', source: 'text' },
    said: (d) =>
      `took ${point(d.at)} ${d.phase === 'after' ? 'after the repair' : 'as it came in'}${d.source === 'hand' ? ', by hand' : d.source === 'recording' ? ', from a recording' : ''}`,
  },
  'reading-corrected': {
    reads: { at: 'text' },
    said: (d) => `put the reading right${d.at ? ` at ${point(d.at)}` : ''}`,
  },
  test: {
    reads: { test: 'text', id: 'text', outcome: 'result' },
    said: (d) => {
      const id = text(d.test ?? d.id);
      return joined([`tested: ${testName(id)}`, ...resultWords(id, d.outcome)], ', ');
    },
  },
  repair: { reads: { text: 'text' }, said: (d) => `repaired: ${text(d.text)}` },
  'known-figure': { said: () => 'entered a better figure than physics' },
  part: { reads: { name: 'text' }, said: (d) => `wrote down a part: ${text(d.name)}` },
  decision: {
    reads: { chosen: 'text', part: 'text' },
    said: (d) => `decided to ${text(d.chosen)} the ${midSentence(idInWords(text(d.part)))}`,
  },
  outcome: {
    reads: { held: 'flag' },
    said: (d) => `said that the cleaning ${d.held === true ? 'has held' : 'did not hold'}`,
  },
  value: { reads: { quantity: 'text' }, said: (d) => `entered a figure of the vehicle: ${text(d.quantity)}` },
  pins: { reads: { connector: 'text' }, said: (d) => `measured the connector ${text(d.connector)}` },
  plan: { said: () => 'planned a drive' },
  drive: { reads: { result: 'text' }, said: (d) => `kept a drive, ${text(d.result)}` },
  inspection: { said: () => 'went through the inspection sheet' },
  wording: {
    reads: { section: 'text', document: 'text' },
    said: (d) => `put ${text(d.section)} of the ${text(d.document)}’s hand-over in other words`,
  },
  recheck: { reads: { dueAt: 'text' }, said: (d) => `set a day to look again: ${text(d.dueAt).slice(0, 10)}` },
  cameBack: { said: () => 'noted that the car came back' },
  diagnosis: {
    reads: { fault: 'text', probability: 'number' },
    said: (d) =>
      d.fault
        ? `weighing: ${midSentence(faultLabel(text(d.fault)))}, ${chanceText(Number(d.probability ?? 0))}`
        : 'weighed the job',
  },
  caution: { reads: { caution: 'text', step: 'text' }, said: (d) => `read the caution: ${idInWords(text(d.caution))}` },
  cleared: { said: () => 'cleared codes and monitors' },
  'clear-refused': { said: () => 'tried to clear; the vehicle refused' },
  'capture-started': { reads: { at: 'text' }, said: (d) => `began to capture ${point(d.at)}` },
  'capture-stopped': { said: () => 'ended a capture' },
  'capture-resumed': { said: () => 'went on with a capture' },
  'capture-paused': { said: () => 'paused a capture' },
  import: { reads: { name: 'text' }, said: (d) => `brought in a recording: ${text(d.name)}` },
  mark: { reads: { at: 'text' }, said: (d) => `marked ${point(d.at)} in a recording` },
  photo: { said: () => 'added a picture' },
  'photo-changed': { said: () => 'changed a picture' },
  mended: { reads: { noun: 'text' }, said: (d) => `mended a ${text(d.noun)} that could not be read` },
  'run-begun': { reads: { procedure: 'text' }, said: (d) => `began ${idInWords(text(d.procedure))}` },
  'run-took-off': {
    reads: { taken: 'group' },
    said: (d) => `took off: ${text((d.taken as Data | undefined)?.item)}`,
  },
  'run-refitted': { said: () => 'refitted a part' },
  'run-mishap': {
    reads: { what: 'text', where: 'text' },
    said: (d) => `wrote down that something broke or fell: ${text(d.what)}, ${text(d.where)}`,
  },
  'run-stop': { reads: { rule: 'text' }, said: (d) => `stopped: ${text(d.rule)}` },
  'run-settled': {
    reads: { reason: 'text' },
    said: (d) => `said which of two answers to a step is right: ${text(d.reason)}`,
  },
  'run-parked': { reads: { reason: 'text' }, said: (d) => `parked the work: ${text(d.reason)}` },
  'run-order': {
    reads: { part: 'text', is: 'text' },
    said: (d) => `${ORDER_WORDS[text(d.is)] ?? 'said of a part'}: ${text(d.part)}`,
  },
  'run-took-over': { said: () => 'took the work over' },
  'run-resumed': { said: () => 'went on with the work' },
  'run-source': {
    reads: { source: 'text' },
    said: (d) => `found where the dirt came from: ${idInWords(text(d.source))}`,
  },
  'run-ended': { said: () => 'ended the work' },
  'run-given-up': { reads: { reason: 'text' }, said: (d) => `gave the work up: ${text(d.reason)}` },
  procedure: {
    reads: { what: 'text', of: 'text', title: 'text', version: 'number' },
    said: (d) => `${text(d.what)} the shop’s ${text(d.of)} “${text(d.title)}”: version ${Number(d.version ?? 1)} now`,
  },
  settings: { said: (d) => `changed the shop’s settings: ${settingsInWords(d)}` },
  'left-out': {
    reads: { reason: 'text' },
    said: (d) => `left a job out of what is learned${d.reason ? `: ${text(d.reason)}` : ''}`,
  },
  'taken-in': { said: () => 'took a job into what is learned again' },
  person: { reads: { what: 'text', name: 'text' }, said: (d) => `${text(d.what)} ${text(d.name)}` },
  erased: { said: () => 'erased what is known of a customer' },
  'signed-in': { said: () => 'signed in' },
  'signed-out': { said: () => 'signed out' },
  'sign-in-failed': {
    reads: { count: 'number' },
    said: (d) => `failed: wrong password, ${counted(Number(d.count ?? 1), 'try', 'tries')}`,
  },
  'session-ended': { reads: { name: 'text' }, said: (d) => `ended sessions of ${text(d.name) || 'a person'}` },
  password: { said: () => 'set a new password' },
};
/** By a map: a kind from outside may be any word, also one of the language. */
const EVENTS: ReadonlyMap<string, EventKind> = new Map(Object.entries(ROWS));

/** Kinds of the shop itself: no job has them in its history. */
const OF_THE_SHOP = new Set([
  ...['settings', 'procedure', 'left-out', 'taken-in', 'person', 'erased'],
  ...['signed-in', 'signed-out', 'sign-in-failed', 'session-ended', 'password'],
]);
const TAKEN_BACK = /^([a-zA-Z-]{1,24})-(undone|redone|corrected)$/;

/** What is wrong with an event of a job from outside: its kind, or a field that its sentence reads. Null where nothing is. */
export function eventProblem(kind: string, data: unknown): { field: string; message: string } | null {
  const known = EVENTS.get(kind);
  if (OF_THE_SHOP.has(kind) || (!known && !TAKEN_BACK.test(kind)))
    return { field: 'kind', message: 'no kind of event of a job' };
  if (!isGroup(data)) return { field: 'data', message: 'an object' };
  for (const [field, reads] of Object.entries(known?.reads ?? {})) {
    const v = data[field];
    if (v !== undefined && v !== null && !FITS[reads].fits(v))
      return { field: `data.${field}`, message: FITS[reads].what };
  }
  return null;
}

/** Settings whose key does not read as words. */
const SETTING_NAMES: Readonly<Record<string, string>> = {
  watchPct: 'watch past, %',
  actPct: 'act past, %',
  toolHz: 'fastest tool, samples a second',
  altitudeM: 'altitude, m',
  perHour: 'rate, an hour',
  knownGood: 'known-good figures',
  priors: 'weights of causes',
};
const settingName = (key: string) => SETTING_NAMES[key] ?? idInWords(key);

/** Changes of one save that are told; the others are counted. [house] */
const MOST_TOLD = 6;

/**
 * What changed in the settings, each from what to what; lists by what came and went.
 *
 * @param changes By the setting's key, `{ before, after }`; null or absent: not set.
 */
export function settingsInWords(changes: Data): string {
  const told: string[] = [];
  const look = (name: string, before: unknown, after: unknown) => {
    if (JSON.stringify(before ?? null) === JSON.stringify(after ?? null)) return;
    if (Array.isArray(before) && Array.isArray(after)) {
      const [went, came] = [before.filter((x) => !after.includes(x)), after.filter((x) => !before.includes(x))];
      const words = (list: unknown[]) => list.map((x) => idInWords(String(x))).join(', ');
      told.push(
        [name, went.length > 0 && `without ${words(went)}`, came.length > 0 && `with ${words(came)}`]
          .filter(Boolean)
          .join(' '),
      );
      return;
    }
    if (isGroup(before) || isGroup(after)) {
      const [b, a] = [isGroup(before) ? before : {}, isGroup(after) ? after : {}];
      for (const k of new Set([...Object.keys(b), ...Object.keys(a)])) look(`${name}, ${settingName(k)}`, b[k], a[k]);
      return;
    }
    const word = (x: unknown) =>
      x === null || x === undefined
        ? 'not set'
        : Array.isArray(x)
          ? x.map((v) => idInWords(String(v))).join(', ') || 'none'
          : typeof x === 'boolean'
            ? x
              ? 'on'
              : 'off'
            : String(x);
    told.push(`${name} from ${word(before)} to ${word(after)}`);
  };
  for (const [key, change] of Object.entries(changes)) {
    const { before, after } = (change ?? {}) as { before?: unknown; after?: unknown };
    look(settingName(key), before, after);
  }
  const more = told.length - MOST_TOLD;
  return [...told.slice(0, MOST_TOLD), ...(more > 0 ? [`and ${more} more`] : [])].join('; ');
}

/** One line of the history as a sentence, with who did it. Total: what does not fit is left unsaid, whatever it is. */
export function trailSentence(by: string, kind: string, data: unknown): Said {
  const known = EVENTS.get(kind);
  const undone = TAKEN_BACK.exec(kind);
  if (undone && !known) {
    const how = { undone: 'took back', redone: 'put back', corrected: 'put right' }[undone[2]!];
    return `${by} ${how} a ${midSentence(idInWords(undone[1]!))}.`;
  }
  if (!known) return `${by} wrote: ${idInWords(kind)}.`;
  const fitting = Object.entries(isGroup(data) ? data : {}).filter(([field, v]) => {
    const reads = known.reads && Object.hasOwn(known.reads, field) ? known.reads[field] : undefined;
    return v !== null && v !== undefined && (!reads || FITS[reads].fits(v));
  });
  const did = known.said(Object.fromEntries(fitting));
  if (kind === 'diagnosis') return said`After ${by}’s entry, the ${did}.`;
  return kind === 'sign-in-failed' ? said`A sign-in as ${by} ${did}.` : said`${by} ${did}.`;
}

/** Kinds that can be filtered by, with what each is called. */
/** What the lead alone reads is the kind `sign-ins`. */
export const TRAIL_KINDS: readonly { id: string; label: string; kinds: readonly string[] }[] = [
  { id: 'jobs', label: 'Opened and handed over', kinds: ['opened', 'changed', 'cameBack'] },
  {
    id: 'measured',
    label: 'Measured',
    kinds: ['record', 'reading', 'capture-started', 'capture-stopped', 'record-corrected', 'reading-corrected'],
  },
  { id: 'tested', label: 'Tested', kinds: ['test', 'diagnosis'] },
  {
    id: 'worked',
    label: 'Worked',
    kinds: [
      'repair',
      'part',
      'run-begun',
      'run-ended',
      'run-parked',
      'run-order',
      'run-took-over',
      'run-resumed',
      'run-given-up',
      'run-stop',
      'run-settled',
      'run-mishap',
      'cleared',
    ],
  },
  { id: 'cautions', label: 'Cautions', kinds: ['caution'] },
  {
    id: 'taken-back',
    label: 'Taken back',
    kinds: ['reading-undone', 'test-undone', 'repair-undone', 'known-figure-undone', 'part-undone', 'entry-undone'],
  },
  {
    id: 'sign-ins',
    label: 'Sign-ins',
    kinds: ['signed-in', 'signed-out', 'sign-in-failed', 'session-ended', 'password'],
  },
  {
    id: 'shop',
    label: 'Settings and people',
    kinds: ['settings', 'procedure', 'left-out', 'taken-in', 'person', 'erased'],
  },
];
