import type { KeptLayoutView, LayoutRequest, OwnView } from '@just-balance/contract';
import { OWN_KINDS, type OwnKind } from '@just-balance/contract/service';
import type { Settings } from '@just-balance/core/diagnosis';
import { settingsInWords } from '@just-balance/core/job';

/** The archive of one job, by the name it goes under. */
export interface JobArchive {
  name: string;
  bytes: () => Promise<Blob>;
}

/** A whole shop as a file, read as far as it has to be to say what it would change. */
export interface ShopFile {
  name: string;
  /** The shop it comes from. */
  shop: string;
  settings: Readonly<Record<string, unknown>>;
  texts: readonly { kind: OwnKind; id: string; text: string }[];
  layouts: readonly (Pick<LayoutRequest, 'layout' | 'roles'> & { hash: string })[];
  jobs: readonly JobArchive[];
  /** Jobs that could not go into it. */
  leftOut: number;
}

/** What the shop it is read into has now. */
export interface ShopNow {
  settings: { rev: number; settings: Settings };
  /** With its text as the file gives it. */
  texts: readonly { kind: OwnKind; own: OwnView<{ id: string; title: string }>; text: string }[];
  layouts: readonly KeptLayoutView[];
}

/** One thing of the file, against what is here. */
export type Change = { key: string; label: string; is: 'new' | 'differs' | 'same'; detail: string } & (
  | { what: 'settings'; settings: Readonly<Record<string, unknown>>; rev: number }
  | { what: 'text'; kind: OwnKind; text: string; over: { id: string; rev: number } | null }
  | { what: 'layout'; layout: ShopFile['layouts'][number] }
  | { what: 'jobs' }
);

const KIND_WORDS: Readonly<Record<OwnKind, string>> = {
  service: 'Procedure',
  drive: 'Drive',
  rule: 'Inspection rule',
};

const OWN = /^own\/(\w+)\/([\w-]{1,60})\.yaml$/;

/** A JSON object out of a file from outside; an empty one where it is none. */
function group(text: string): Record<string, unknown> {
  const json: unknown = JSON.parse(text);
  return json !== null && typeof json === 'object' && !Array.isArray(json) ? (json as Record<string, unknown>) : {};
}

/** What is in the file of a shop, its jobs apart; throws where a part of it is not what its name says. */
export function shopFileOf(name: string, texts: ReadonlyMap<string, string>, jobs: readonly JobArchive[]): ShopFile {
  const part = <T>(file: string, read: (text: string) => T, none: T): T => {
    const text = texts.get(file);
    if (text === undefined) return none;
    try {
      return read(text);
    } catch {
      throw new Error(`${name}: ${file} is not JSON: take the file from the other shop once more`);
    }
  };
  const manifest = part('manifest.json', group, {});
  const layouts = part('layouts.json', (t) => JSON.parse(t) as unknown, []);
  return {
    name,
    shop: typeof manifest.shop === 'string' ? manifest.shop : 'another shop',
    settings: part('settings.json', group, {}),
    texts: ownTexts(texts),
    layouts: (Array.isArray(layouts) ? layouts : []).filter(
      (l): l is ShopFile['layouts'][number] =>
        l !== null && typeof l === 'object' && typeof (l as { hash?: unknown }).hash === 'string',
    ),
    jobs,
    leftOut: Array.isArray(manifest.leftOut) ? manifest.leftOut.length : 0,
  };
}

/** The shop's own texts in it, each once: which one it is says the text itself, whatever its file is called. */
function ownTexts(texts: ReadonlyMap<string, string>): ShopFile['texts'] {
  const out = new Map<string, ShopFile['texts'][number]>();
  for (const [file, text] of texts) {
    const [, folder, name] = OWN.exec(file) ?? [];
    const kind = OWN_KINDS.find((k) => k === folder);
    const id = /^id: *["']?([\w-]{1,60})/m.exec(text)?.[1] ?? name;
    if (kind && id) out.set(`${kind} ${id}`, { kind, id, text });
  }
  return [...out.values()];
}

/** The first line of a text that says its title. */
const titleOf = (text: string, id: string) => /^title: *["']?(.*?)["']?\s*$/m.exec(text)?.[1]?.slice(0, 120) || id;

/** Everything in the file against what is here, what is the same too. Pure. */
export function changesOf(file: ShopFile, now: ShopNow): Change[] {
  const ours = now.settings.settings as Readonly<Record<string, unknown>>;
  const differing = Object.keys(file.settings).filter(
    (k) => JSON.stringify(file.settings[k]) !== JSON.stringify(ours[k]),
  );
  const settings: Change[] =
    Object.keys(file.settings).length === 0
      ? []
      : [
          {
            ...{ what: 'settings', key: 'settings', label: 'Settings', rev: now.settings.rev },
            settings: { ...ours, ...file.settings },
            is: differing.length === 0 ? 'same' : 'differs',
            detail: settingsInWords(
              Object.fromEntries(differing.map((k) => [k, { before: ours[k] ?? null, after: file.settings[k] }])),
            ),
          },
        ];
  const texts = file.texts.map((t): Change => {
    const here = now.texts.find((x) => x.kind === t.kind && x.own.procedure.id === t.id);
    return {
      ...{ what: 'text', kind: t.kind, text: t.text, key: `${t.kind} ${t.id}` },
      label: `${KIND_WORDS[t.kind]}: ${titleOf(t.text, t.id)}`,
      over: here ? { id: here.own.id, rev: here.own.rev } : null,
      is: !here ? 'new' : here.text === t.text && !here.own.undone ? 'same' : 'differs',
      detail: !here
        ? ''
        : `becomes version ${here.own.rev + 1} of what this shop has under “${t.id}”; version ${here.own.rev} can be taken back`,
    };
  });
  const layouts = file.layouts.map((l, i): Change => {
    const here = now.layouts.find((x) => x.hash === l.hash);
    const same = here && JSON.stringify([here.layout, here.roles]) === JSON.stringify([l.layout, l.roles]);
    return {
      ...{ what: 'layout', layout: l, key: `layout ${l.hash}` },
      label: `How a table is read, ${i + 1}`,
      is: !here ? 'new' : same ? 'same' : 'differs',
      detail: here && !same ? `replaces how ${here.by} had it read` : '',
    };
  });
  const jobs: Change[] =
    file.jobs.length === 0
      ? []
      : [
          {
            ...{ what: 'jobs', key: 'jobs', is: 'new' },
            label: `${file.jobs.length} ${file.jobs.length === 1 ? 'job' : 'jobs'}`,
            detail: 'one that is here already stays as it is',
          },
        ];
  // A rule before the settings that name it.
  return [...texts, ...layouts, ...settings, ...jobs];
}
