import { cut, type FinishImportRequest, type NewImportRequest, type Phase, WRITES } from '@just-balance/contract';
import type { RecordedEngine } from '@just-balance/core/capture';
import type { BackStep, Mapping, NumberStyle } from '@just-balance/core/recordingFiles';
import { type NewWrite, waits } from '../data/Outbox.ts';
import type { Importer, ImportPart, LayoutSaid, Look, Progress, ReadFile } from './importProtocol.ts';

export const LOOKING = 'Looking at the first lines';

interface Looked {
  at: 'looked';
  file: File;
  look: Look;
  mapping: Mapping | null;
  /** What was said of the layout, and of numbers that can be read two ways. */
  said: LayoutSaid;
  answers: Readonly<Record<number, NumberStyle>>;
  remembered: boolean;
}

/** Where an import stands. */
export type ImportState = (
  | { at: 'choose' }
  | Looked
  | { at: 'busy'; file: File; what: string; share: number }
  | {
      at: 'read';
      file: File;
      read: ReadFile;
      /** Points whose readings are kept with it. */
      chosen: ReadonlySet<string>;
      /** Doubtful channels that were said to be right. */
      right: readonly string[];
      /** What was said of a clock that steps back; null while it is to be said. */
      back: BackStep | null;
      looked: Looked;
    }
  | { at: 'kept'; name: string; captureId: string; sent: boolean }
) & { problem: string | null };

type At<A extends ImportState['at']> = Extract<ImportState, { at: A }>;

interface Parts {
  jobId: string;
  phase: Phase;
  /** Of the vehicle, what finding operating points needs; as it is now. */
  engine(): RecordedEngine;
  /** The reader, off the interface's thread; asked for anew after `end`. */
  importer(): Pick<Importer, 'look' | 'read' | 'findAgain' | 'parts'>;
  /** Stops whatever the reader does. */
  end(): void;
  /** How a table with these headers was read last time; null when it never was. */
  remembered(proposed: Mapping): Promise<Mapping | null>;
  remember(mapping: Mapping): Promise<void>;
  /** All of them, in order, or none. */
  queue(writes: readonly NewWrite[]): Promise<{ sent: boolean; refused: string | null }>;
  newId(): string;
  /** An error as a person reads it. */
  said(e: unknown): string;
}

/**
 * A log from elsewhere: chosen, understood, corrected, read, kept whole or not at all. What is asked later overtakes what
 * is still under way: an answer to an older question changes nothing.
 */
export class ImportSession {
  private held: ImportState = { at: 'choose', problem: null };
  private readonly listeners = new Set<() => void>();
  private turn = 0;

  constructor(private readonly parts: Parts) {}

  /** The same object until something changes. */
  state = (): ImportState => this.held;

  subscribe = (f: () => void): (() => void) => {
    this.listeners.add(f);
    return () => this.listeners.delete(f);
  };

  /** Look at a file, with what was said of its layout. `before`: what its columns were taken for until then. */
  async open(file: File, layout: LayoutSaid = {}, before: Mapping | null = null): Promise<void> {
    const current = this.begin();
    try {
      if (Object.keys(layout).length === 0) this.put({ at: 'busy', file, what: LOOKING, share: 0, problem: null });
      const look = await this.parts.importer().look(file, layout);
      if (!current()) return;
      const known = look.kind === 'csv' ? await this.parts.remembered(look.mapping).catch(() => null) : null;
      if (!current()) return;
      const proposed = known ?? (look.kind === 'csv' ? look.mapping : null);
      const mapping = proposed && before && sameColumns(before, proposed) ? withRolesOf(before, proposed) : proposed;
      this.put({
        at: 'looked',
        file,
        look,
        mapping,
        said: layout,
        answers: {},
        remembered: known !== null,
        problem: null,
      });
    } catch (e) {
      if (current()) this.put({ at: 'choose', problem: `${file.name}: ${this.parts.said(e)}` });
    }
  }

  /** Back to the beginning, whatever is under way. */
  cancel(): void {
    this.begin();
    this.parts.end();
    this.put({ at: 'choose', problem: null });
  }

  /** What a column's numbers mean. */
  answer(column: number, style: NumberStyle): void {
    const s = this.held;
    if (s.at === 'looked') this.put({ ...s, answers: { ...s.answers, [column]: style } });
  }

  /** What the columns are taken for. */
  take(mapping: Mapping): void {
    if (this.held.at === 'looked') this.put({ ...this.held, mapping });
  }

  /** The table is laid out otherwise than was proposed. */
  async layOut(layout: LayoutSaid): Promise<void> {
    if (this.held.at === 'looked') await this.open(this.held.file, layout, this.held.mapping);
  }

  /** Points whose readings are kept. */
  choose(chosen: ReadonlySet<string>): void {
    if (this.held.at === 'read') this.put({ ...this.held, chosen });
  }

  /** The whole file, with what was said of it. */
  async read(): Promise<void> {
    if (this.held.at === 'looked') await this.readAs(this.held, this.held, null);
  }

  /** What a clock that steps back means: the file is read again. */
  async clock(back: BackStep): Promise<void> {
    if (this.held.at === 'read') await this.readAs(this.held, this.held.looked, back);
  }

  private async readAs(before: At<'looked'> | At<'read'>, looked: Looked, back: BackStep | null): Promise<void> {
    const current = this.begin();
    const { file, look } = looked;
    try {
      this.put({ at: 'busy', file, what: 'reading', share: 0, problem: null });
      const mapping = looked.mapping && {
        ...looked.mapping,
        numbers: { ...looked.mapping.numbers, ...looked.answers },
        ...(back ? { back } : {}),
      };
      const read = await this.parts
        .importer()
        .read(file, look, mapping, this.parts.engine(), this.progress(file, current));
      if (!current()) return;
      if (looked.mapping) await this.parts.remember(looked.mapping).catch(() => {});
      if (current())
        this.put({ at: 'read', file, read, chosen: pointsOf(read), right: [], back, looked, problem: null });
    } catch (e) {
      this.back(before, current, e);
    }
  }

  /** Doubtful channels that are right after all: the points are looked for again. */
  async judge(right: readonly string[]): Promise<void> {
    const s = this.held;
    if (s.at !== 'read') return;
    const current = this.begin();
    try {
      const found = await this.parts.importer().findAgain(this.parts.engine(), [...right], () => {});
      if (!current()) return;
      const read = { ...s.read, found };
      this.put({ ...s, right, read, chosen: pointsOf(read), problem: null });
    } catch (e) {
      this.back(s, current, e);
    }
  }

  /** Up with all of it; what cannot go now waits on this device. */
  async keep(): Promise<void> {
    const s = this.held;
    if (s.at !== 'read' || asksOfClock(s)) return;
    const current = this.begin();
    const { file } = s;
    try {
      const packed = await this.parts.importer().parts(this.progress(file, current));
      if (!current()) return;
      this.put({ at: 'busy', file, what: 'keeping', share: 1, problem: null });
      const captureId = this.parts.newId();
      const { sent, refused } = await this.parts.queue(this.writes(s, packed, captureId));
      if (refused) throw new Error(refused);
      this.parts.end();
      if (current()) this.put({ at: 'kept', name: file.name, captureId, sent, problem: null });
    } catch (e) {
      this.back(s, current, e);
    }
  }

  private writes({ file, read: r, chosen }: At<'read'>, packed: readonly ImportPart[], captureId: string): NewWrite[] {
    const { jobId, phase, newId } = this.parts;
    const begin: NewImportRequest = {
      id: captureId,
      phase,
      name: cut(file.name, 200),
      ...(r.startedAt ? { startedAt: r.startedAt } : {}),
      summary: {
        rows: r.rows,
        problemCount: r.problemCount,
        problems: r.problems.map((p) => cut(p, 300)),
        leftOut: r.leftOut.slice(0, 500).map((l) => cut(`${l.name}: ${l.why}`, 300)),
      },
    };
    const counts: Record<string, number> = {};
    for (const p of packed) counts[p.channel] = (counts[p.channel] ?? 0) + 1;
    const finish: FinishImportRequest = {
      parts: counts,
      marks: r.found.map((f) => ({ at: f.at, from: f.fromS, to: f.toS })),
      readings: r.found
        .filter((f) => chosen.has(f.at))
        .map((f) => ({
          id: newId(),
          ...(f.flags.length > 0 ? { doubtful: cut(f.flags.join('; '), 200) } : {}),
          reading: f.reading,
        })),
    };
    const label = `Import of ${file.name}`;
    return [
      waits(label, WRITES.beginImport(jobId), begin),
      ...packed.map((p) => waits(label, WRITES.importColumn(jobId, captureId, p), p.bytes)),
      waits(label, WRITES.finishImport(jobId, captureId), finish),
    ];
  }

  /** Whatever was under way is overtaken; says whether this is still what is wanted. */
  private begin(): () => boolean {
    const mine = ++this.turn;
    return () => mine === this.turn;
  }

  private progress(file: File, current: () => boolean): Progress {
    return (what, share) => {
      if (current()) this.put({ at: 'busy', file, what, share, problem: null });
    };
  }

  /** As it stood before, with what went wrong. */
  private back(before: At<'looked'> | At<'read'>, current: () => boolean, e: unknown): void {
    if (current()) this.put({ ...before, problem: `${before.file.name}: ${this.parts.said(e)}` });
  }

  private put(state: ImportState): void {
    this.held = state;
    for (const f of this.listeners) f();
  }
}

/** Whether it is still to be said what a clock that steps back means. */
export const asksOfClock = ({ read, back }: Pick<At<'read'>, 'read' | 'back'>): boolean =>
  read.stepsBackCount > 0 && back === null;

const pointsOf = (read: ReadFile): ReadonlySet<string> => new Set(read.found.map((f) => f.at));

/** What was said of the columns stands while they are the same ones. */
const sameColumns = (a: Mapping, b: Mapping): boolean =>
  a.units === b.units && a.headers.join('\u001f') === b.headers.join('\u001f');

const withRolesOf = (before: Mapping, proposed: Mapping): Mapping => ({
  ...proposed,
  roles: before.roles,
  ...(before.names ? { names: before.names } : {}),
});
