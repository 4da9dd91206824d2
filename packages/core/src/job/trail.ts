import { pointLabel } from '../case/index.ts';
import { faultLabel, outcomeLabel, TEST_BY_ID } from '../catalogue/index.ts';
import { chanceText, idInWords, midSentence } from '../units/index.ts';

type Data = Readonly<Record<string, unknown>>;
const text = (v: unknown) => (typeof v === 'string' ? v : '');
const point = (v: unknown) => {
  const at = text(v);
  return at === 'free' ? 'a free recording' : midSentence(pointLabel(at as Parameters<typeof pointLabel>[0]) ?? at);
};
const testName = (id: string) => midSentence(TEST_BY_ID.get(id)?.label ?? idInWords(id));

/** What a person did, by kind of event: a sentence without its subject. What is not here is said by its own name. */
const SAID: Readonly<Record<string, (d: Data) => string>> = {
  opened: () => 'opened the job',
  changed: (d) =>
    d.status === 'closed'
      ? 'handed the job over'
      : d.status === 'open'
        ? 'opened the job again'
        : `changed ${Object.keys(d)
            .map(
              (k) =>
                ({
                  complaint: 'the complaint',
                  ambient: 'the surroundings',
                  adapter: 'the adapter',
                  status: 'where it stands',
                })[k] ?? k,
            )
            .join(' and ')}`,
  vehicle: (d) =>
    `changed the vehicle’s card: ${Object.keys((d.after ?? {}) as object)
      .map(idInWords)
      .join(', ')}`,
  record: (d) => `kept codes and monitors${d.phase === 'after' ? ' after the repair' : ''}`,
  'record-corrected': () => 'put a record right',
  reading: (d) =>
    `took ${point(d.at)} ${d.phase === 'after' ? 'after the repair' : 'as it came in'}${d.source === 'hand' ? ', by hand' : d.source === 'recording' ? ', from a recording' : ''}`,
  'reading-corrected': (d) => `put the reading right${d.at ? ` at ${point(d.at)}` : ''}`,
  test: (d) => {
    const id = text(d.test ?? d.id);
    const outcomes = [d.outcome ?? []].flat().map((o) => outcomeLabel(id, String(o)));
    return `tested: ${testName(id)}${outcomes.length > 0 ? `, ${outcomes.join(', ')}` : ''}`;
  },
  repair: (d) => `repaired: ${text(d.text)}`,
  'known-figure': () => 'entered a better figure than physics',
  part: (d) => `wrote down a part: ${text(d.name)}`,
  decision: (d) => `decided to ${text(d.chosen)} the ${midSentence(idInWords(text(d.part)))}`,
  outcome: (d) => `said that the cleaning ${d.held === true ? 'has held' : 'did not hold'}`,
  value: (d) => `entered a figure of the vehicle: ${text(d.quantity)}`,
  pins: (d) => `measured the connector ${text(d.connector)}`,
  plan: () => 'planned a drive',
  drive: (d) => `kept a drive, ${text(d.result)}`,
  inspection: () => 'went through the inspection sheet',
  wording: (d) => `put ${text(d.section)} of the ${text(d.document)}’s hand-over in other words`,
  recheck: (d) => `set a day to look again: ${text(d.dueAt).slice(0, 10)}`,
  cameBack: () => 'noted that the car came back',
  diagnosis: (d) =>
    d.fault
      ? `weighing: ${midSentence(faultLabel(text(d.fault)))}, ${chanceText(Number(d.probability))}`
      : 'weighed the job',
  caution: (d) => `read the caution: ${idInWords(text(d.caution))}`,
  cleared: () => 'cleared codes and monitors',
  'clear-refused': () => 'tried to clear; the vehicle refused',
  'capture-started': (d) => `began to capture ${point(d.at)}`,
  'capture-stopped': () => 'ended a capture',
  'capture-resumed': () => 'went on with a capture',
  mark: (d) => `marked ${point(d.at)} in a recording`,
  photo: () => 'added a picture',
  'photo-changed': () => 'changed a picture',
  mended: (d) => `mended a ${text(d.noun)} that could not be read`,
  'run-begun': (d) => `began ${idInWords(text(d.procedure))}`,
  'run-took-off': (d) => `took off: ${text((d.taken as Data | undefined)?.item)}`,
  'run-refitted': () => 'refitted a part',
  'run-stop': (d) => `stopped: ${text(d.rule)}`,
  'run-parked': (d) => `parked the work: ${text(d.reason)}`,
  'run-resumed': () => 'went on with the work',
  'run-source': (d) => `found where the dirt came from: ${idInWords(text(d.source))}`,
  'run-ended': () => 'ended the work',
  'run-given-up': (d) => `gave the work up: ${text(d.reason)}`,
  settings: (d) => `changed the shop’s settings: ${settingsInWords(d)}`,
  'left-out': (d) => `left a job out of what is learned${d.reason ? `: ${text(d.reason)}` : ''}`,
  'taken-in': () => 'took a job into what is learned again',
  person: (d) => `${text(d.what)} ${text(d.name)}`,
  erased: () => 'erased what is known of a customer',
};

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

/** What changed in the settings, each from what to what; lists by what came and went. */
function settingsInWords(changes: Data): string {
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
    const isGroup = (x: unknown): x is Data => typeof x === 'object' && x !== null && !Array.isArray(x);
    if (isGroup(before) || isGroup(after)) {
      const [b, a] = [isGroup(before) ? before : {}, isGroup(after) ? after : {}];
      for (const k of new Set([...Object.keys(b), ...Object.keys(a)])) look(`${name}, ${settingName(k)}`, b[k], a[k]);
      return;
    }
    const said = (x: unknown) =>
      x === null || x === undefined
        ? 'not set'
        : Array.isArray(x)
          ? x.map((v) => idInWords(String(v))).join(', ') || 'none'
          : typeof x === 'boolean'
            ? x
              ? 'on'
              : 'off'
            : String(x);
    told.push(`${name} from ${said(before)} to ${said(after)}`);
  };
  for (const [key, change] of Object.entries(changes)) {
    const { before, after } = (change ?? {}) as { before?: unknown; after?: unknown };
    look(settingName(key), before, after);
  }
  const more = told.length - MOST_TOLD;
  return [...told.slice(0, MOST_TOLD), ...(more > 0 ? [`and ${more} more`] : [])].join('; ');
}

/** One line of the history as a sentence, with who did it. */
export function trailSentence(by: string, kind: string, data: Data): string {
  const undone = /^(.*)-(undone|redone)$/.exec(kind);
  if (undone && !SAID[kind])
    return `${by} ${undone[2] === 'undone' ? 'took back' : 'put back'} a ${midSentence(idInWords(undone[1]!))}.`;
  const said = SAID[kind]?.(data) ?? `wrote: ${idInWords(kind)}`;
  return kind === 'diagnosis' ? `After ${by}’s entry, the ${said}.` : `${by} ${said}.`;
}

/** Kinds that can be filtered by, with what each is called. */
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
      'run-resumed',
      'run-given-up',
      'run-stop',
      'cleared',
    ],
  },
  { id: 'cautions', label: 'Cautions', kinds: ['caution'] },
  {
    id: 'taken-back',
    label: 'Taken back',
    kinds: ['reading-undone', 'test-undone', 'repair-undone', 'known-figure-undone', 'part-undone', 'entry-undone'],
  },
  { id: 'shop', label: 'Settings and people', kinds: ['settings', 'left-out', 'taken-in', 'person', 'erased'] },
];
