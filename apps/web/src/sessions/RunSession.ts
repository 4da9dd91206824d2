import { type RunView, WRITES } from '@just-balance/contract';
import {
  goesBackOn,
  type Happened,
  type Procedure,
  type ProcedureStep,
  type RunState,
  runState,
  SHIPPED_PROCEDURES,
} from '@just-balance/core/procedures';
import { type NewWrite, waits } from '../data/Outbox.ts';
import type { Trouble } from '../ui/useAction.ts';

/** Kinds whose own piece says that the step is through. */
const SAYS_DONE: ReadonlySet<ProcedureStep['kind']> = new Set([
  'look',
  'decide',
  'measure',
  'photo',
  'take-off',
  'torque',
  'read',
]);

/** What is asked before something is written down. */
export type Asked = 'skip' | 'park' | 'give-up' | 'mishap';

/** A run as its screen shows it. */
export interface RunNow {
  run: RunView;
  state: RunState;
  /** A step that is through and is looked at again. */
  looked: ProcedureStep | null;
  asking: Asked | null;
  busy: boolean;
  trouble: Trouble | null;
}

interface Parts {
  jobId: string;
  /** All of them in order, kept on this device first, or none. Rejects where the server refuses. */
  queue(writes: readonly NewWrite[]): Promise<unknown>;
  newId(): string;
  nowMs(): number;
  troubleOf(e: unknown): Trouble;
}

/**
 * A run of a procedure under a hand: what it says happened, what is looked at, what is asked. The run itself is its
 * events; this only adds to them.
 */
export class RunSession {
  private held: RunNow;
  private readonly listeners = new Set<() => void>();

  constructor(
    run: RunView,
    private readonly parts: Parts,
  ) {
    const state = runState(run.procedure, run.events);
    this.held = { run, state, looked: null, asking: null, busy: false, trouble: null };
  }

  /** The same object until something changes. */
  now = (): RunNow => this.held;

  subscribe = (f: () => void): (() => void) => {
    this.listeners.add(f);
    return () => this.listeners.delete(f);
  };

  /**
   * The run with what happened meanwhile, here or on another tablet. At another step what was looked at or skipped was
   * the one before; what is half typed of parking stays.
   */
  take(run: RunView): void {
    if (run === this.held.run) return;
    const state = runState(run.procedure, run.events);
    const { asking } = this.held;
    const same = state.current?.id === this.held.state.current?.id;
    this.put({ run, state, ...(same ? {} : { looked: null, asking: asking === 'skip' ? null : asking }) });
  }

  look(step: string | null): void {
    const { procedure } = this.held.run;
    this.put({ looked: procedure.steps.find((s) => s.id === step) ?? null });
  }

  /** Asked again it is no longer asked. */
  ask(what: Asked | null): void {
    this.put({ asking: this.held.asking === what ? null : what });
  }

  /** Write down what happened; several things of one moment in their order. */
  say = (...what: Happened[]): Promise<void> => {
    const { run } = this.held;
    return this.write([waits(labelOf(what[0]!), WRITES.sayOfRun(this.parts.jobId, run.id), this.events(what))]);
  };

  /** The open step is through, with what it found. */
  done = (more: Partial<Extract<Happened, { kind: 'done' }>> = {}): Promise<void> => {
    const step = this.held.state.current;
    return step ? this.say({ kind: 'done', step: step.id, round: this.roundOf(step), ...more }) : Promise.resolve();
  };

  skip(reason: string): Promise<void> {
    const step = this.held.state.current;
    return step ? this.say({ kind: 'skipped', step: step.id, round: this.roundOf(step), reason }) : Promise.resolve();
  }

  /** The step before the open one is open again. */
  back(): Promise<void> {
    const before = this.held.state.way.at(-1);
    return before === undefined ? Promise.resolve() : this.say({ kind: 'reopened', step: before });
  }

  /** The step that is looked at is open again. */
  again(): Promise<void> {
    const { looked } = this.held;
    if (!looked) return Promise.resolve();
    this.look(null);
    return this.say({ kind: 'reopened', step: looked.id });
  }

  /** Whether the open step is one that a button says is through. */
  get hasDone(): boolean {
    const step = this.held.state.current;
    return step !== null && !SAYS_DONE.has(step.kind);
  }

  /** The moment from which the open step may be said to be through, ms; null: not before something else is done. */
  get doneFromMs(): number | null {
    const { state, busy } = this.held;
    const step = state.current;
    if (!step || !this.hasDone || busy) return null;
    if (step.caution !== undefined && !state.cautions.has(step.caution)) return null;
    if (step.kind !== 'timer') return 0;
    // One that still runs, or was never started, is done with a reason only: its own buttons ask for it.
    return state.timers.find((t) => t.step === step.id)?.endsMs ?? null;
  }

  /** The button, or its key. */
  pressDone(): void {
    const from = this.doneFromMs;
    if (from !== null && this.parts.nowMs() >= from) void this.done();
  }

  /** The procedure by which the work goes on with a new part, where a rule has stopped it. */
  get withNewPart(): Procedure | undefined {
    const { procedure } = this.held.run;
    const parts = procedure.for?.parts ?? [];
    if (procedure.kind === 'replace') return undefined;
    return SHIPPED_PROCEDURES.find((p) => p.kind === 'replace' && p.for?.parts?.some((x) => parts.includes(x)));
  }

  /** End this run and begin that one; what is off already is off in the new run too, with what was written about it. */
  goOnWithNewPart(): Promise<void> {
    const next = this.withNewPart;
    if (!next) return Promise.resolve();
    const { run, state } = this.held;
    const left = goesBackOn(state);
    const reason = `goes on with “${next.title}”`;
    const id = this.parts.newId();
    const carried = next.steps
      .filter((s) => s.kind === 'take-off' && left.some((o) => o.item === s.item))
      .map((s): Happened => {
        const { count, detail, hidden, photo } = left.find((o) => o.item === s.item)!;
        const taken = { ...(count ? { count } : {}), ...(detail ? { detail } : {}), ...(hidden ? { hidden } : {}) };
        return { kind: 'done', step: s.id, round: 0, taken, note: 'off already', ...(photo ? { photo } : {}) };
      });
    const ended: Happened = { kind: 'ended', left: left.map((o) => ({ item: o.id, reason })), counted: false };
    const { jobId } = this.parts;
    return this.write([
      waits('Service ended', WRITES.sayOfRun(jobId, run.id), this.events([ended])),
      waits(next.title, WRITES.beginRun(jobId), { id, procedure: next }),
      ...(carried.length > 0 ? [waits('Off already', WRITES.sayOfRun(jobId, id), this.events(carried))] : []),
    ]);
  }

  private roundOf(step: ProcedureStep): number {
    return this.held.state.rounds.get(step.id) ?? 0;
  }

  private events(what: readonly Happened[]) {
    const atMs = this.parts.nowMs();
    return { events: what.map((w) => ({ id: this.parts.newId(), atMs, what: w })) };
  }

  private async write(writes: readonly NewWrite[]): Promise<void> {
    this.put({ busy: true, trouble: null });
    try {
      await this.parts.queue(writes);
      this.put({ busy: false });
    } catch (e) {
      this.put({ busy: false, trouble: this.parts.troubleOf(e) });
    }
  }

  private put(change: Partial<RunNow>): void {
    this.held = { ...this.held, ...change };
    for (const f of this.listeners) f();
  }
}

function labelOf(w: Happened): string {
  switch (w.kind) {
    case 'done':
      return `Step done: ${w.step}`;
    case 'skipped':
      return `Step skipped: ${w.step}`;
    case 'parked':
      return 'Service parked';
    case 'ended':
      return 'Service ended';
    default:
      return `Service: ${w.kind}`;
  }
}
