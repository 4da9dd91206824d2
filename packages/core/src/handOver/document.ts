import { type InWords, inWords, type Said, type UnitSystem } from '../units/index.ts';

/** A page for people, whatever it is printed on, in the units of its reader. */
export interface HandOverDocument {
  id: DocumentId;
  title: string;
  /** The shop as its customers know it: its name, what it does, where it is found; the name alone where no more is set. */
  letterhead: string[];
  /** Number plate; null where none is known. */
  plate: string | null;
  /** Lines under the title: shop, car, date. */
  about: string[];
  sections: DocumentSection[];
}

/** The documents of a job. */
export const DOCUMENT_IDS = ['customer', 'technician'] as const;
/** One of them. */
export type DocumentId = (typeof DOCUMENT_IDS)[number];

/** A part of a document under its heading; `own` are our words where a person has put theirs. */
export interface DocumentSection {
  id: string;
  heading: string;
  blocks: Block[];
  /** The product's own words for it, metric. */
  own: string;
  /** Its words were changed by a person. `stale`: what the product would say has changed since. */
  edited?: { by: string; at: string; stale: boolean };
  /** Wordings that nobody has put others in place of, by their id, the one that stands first; none: never worded. */
  heads: readonly string[];
  /** Of those all but the one that stands: written at the same time, neither in sight of the other. */
  others: readonly OtherWords[];
}

/** Words that do not stand, and were not seen by whoever wrote those that do. */
export interface OtherWords {
  by: string;
  at: string;
  text: string;
}

/** Sections of words can be put in other words; tables, pictures and trim charts stay as they were measured. */
export type Block = InWords<DraftBlock>;

/** A block before it is known in which units it will be read. */
export type DraftBlock =
  | { kind: 'text'; text: Said }
  | { kind: 'list'; items: Said[] }
  | { kind: 'table'; caption: string; head: Said[]; rows: Said[][]; right: number[] }
  | { kind: 'trimChart'; caption: string; banks: 1 | 2; watchPct: number; actPct: number; rows: TrimChartRow[] }
  | { kind: 'photos'; photos: { id: string; label: Said }[] };

/** One operating point of a small trim chart: totals by bank, percent. */
export interface TrimChartRow {
  label: string;
  before: { bank: 1 | 2; totalPct: number }[];
  after: { bank: 1 | 2; totalPct: number }[];
}

/**
 * Other words for one section of one document; the newest counts. `was`: what they were written in place of. `over`: the
 * wordings that whoever wrote them had before them, by id; absent: all that there were.
 */
export interface Wording {
  id: string;
  over?: readonly string[];
  document: DocumentId;
  section: string;
  text: string;
  was: string;
  by: string;
  at: string;
}

/** A document before it is known in which units it will be read. */
export interface Draft extends Omit<HandOverDocument, 'sections'> {
  sections: { id: string; heading: string; blocks: DraftBlock[] }[];
}

/** The document for a reader of these units. What a section says is held against in metric, whoever reads it. */
export function inUnits(draft: Draft, units: UnitSystem): HandOverDocument {
  return {
    ...draft,
    sections: draft.sections.map((s) => ({
      ...s,
      blocks: inWords(s.blocks, units),
      own: sectionWords({ blocks: inWords(s.blocks, 'metric') }),
      heads: [],
      others: [],
    })),
  };
}

/** The words of a section as one text, a line a paragraph; what a person edits. */
export function sectionWords(section: Pick<DocumentSection, 'blocks'>): string {
  return section.blocks
    .flatMap((b) => (b.kind === 'text' ? [b.text] : b.kind === 'list' ? b.items.map((i) => `• ${i}`) : []))
    .join('\n');
}

/** The document in a person's own words where there are any. Empty words bring the product's own back. */
export function inOwnWords(document: HandOverDocument, wordings: readonly Wording[]): HandOverDocument {
  return {
    ...document,
    sections: document.sections.map((s) => {
      const all = wordings.filter((w) => w.document === document.id && w.section === s.id);
      const w = all.at(-1);
      if (!w) return s;
      const others = unseen(all).filter((o) => o.text.trim() !== w.text.trim());
      const section = {
        ...s,
        heads: [w.id, ...others.map((o) => o.id)],
        others: others.map(({ by, at, text }) => ({ by, at, text })),
      };
      if (w.text.trim() === '') return section;
      const kept = s.blocks.filter((b) => b.kind !== 'text' && b.kind !== 'list');
      return {
        ...section,
        blocks: [...blocksOf(w.text), ...kept],
        edited: { by: w.by, at: w.at, stale: w.was !== s.own },
      };
    }),
  };
}

/** Wordings before the newest that neither it nor any before it was written over. */
function unseen(all: readonly Wording[]): Wording[] {
  const seen = new Set<string>();
  const walk = (id: string) => {
    if (seen.has(id)) return;
    seen.add(id);
    const at = all.findIndex((w) => w.id === id);
    if (at < 0) return;
    for (const before of all[at]!.over ?? all.slice(0, at).map((w) => w.id)) walk(before);
  };
  walk(all.at(-1)!.id);
  return all.filter((w) => !seen.has(w.id));
}

/** Lines that begin with a bullet become one list, every other line a paragraph. */
function blocksOf(text: string): Block[] {
  const out: Block[] = [];
  for (const line of text.split(/\r?\n/).map((l) => l.trim())) {
    if (line === '') continue;
    const item = /^[•*-]\s+(.*)$/.exec(line)?.[1];
    const last = out.at(-1);
    if (item === undefined) out.push({ kind: 'text', text: line });
    else if (last?.kind === 'list') last.items.push(item);
    else out.push({ kind: 'list', items: [item] });
  }
  return out;
}
