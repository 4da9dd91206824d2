import { type StepEvent, sameWord, wordOf, wordOfResult } from './disputes.ts';
import type { Procedure, ProcedureStep, StopRule } from './format.ts';
import { against, leadsOf, limitsOf } from './limits.ts';
import { openAtEnd } from './openAtEnd.ts';
import { ordersWith, type PartOrder } from './orders.ts';
import type { Happened, RunEvent } from './runEvents.ts';
import type { DirtFound, Dispute, Mishap, Noted, OffItem, RunState, Settled, StepResult, Timer } from './runState.ts';
import { wayOf } from './way.ts';

/** Events in the one order that all devices agree on, however they came in. */
export function inOrder(events: readonly RunEvent[]): RunEvent[] {
  const seen = new Map<string, RunEvent>();
  for (const e of events) if (!seen.has(e.id)) seen.set(e.id, e);
  const place = (e: RunEvent) => e.orderMs ?? e.atMs;
  return [...seen.values()].sort((a, b) => place(a) - place(b) || (a.id < b.id ? -1 : a.id > b.id ? 1 : 0));
}

/**
 * Where a run stands: a pure function of the procedure and the events, whatever order they came in and however often.
 * Two who answer one step differently are both kept, and a stop among them holds until somebody says otherwise. What makes
 * no sense at all (a step that does not exist, a question without one of its answers) changes nothing.
 */
export function runState(procedure: Procedure, events: readonly RunEvent[]): RunState {
  const run = new Fold(procedure);
  for (const e of inOrder(events)) run.take(e);
  return run.state();
}

class Fold {
  private readonly steps: readonly ProcedureStep[];
  private readonly index: ReadonlyMap<string, number>;
  private readonly results = new Map<string, StepResult>();
  private readonly rounds = new Map<string, number>();
  private readonly timers = new Map<string, Timer>();
  private readonly off = new Map<string, OffItem>();
  private readonly mishaps = new Map<string, Mishap>();
  private readonly cautions = new Set<string>();
  /** The event of each result, and what was said of a step in rounds before this one. */
  private readonly through = new Map<string, RunEvent>();
  private readonly before = new Map<string, RunEvent[]>();
  /** Answers that contradict what stands, by their event. */
  private readonly against = new Map<string, RunEvent>();
  private readonly settled: Settled[] = [];
  private readonly noted: Noted[] = [];
  private stopped: StopRule | null = null;
  private stoppedBy: RunState['stoppedBy'] = null;
  private parked: RunState['parked'] = null;
  private orders: ReadonlyMap<string, PartOrder> = new Map();
  private hands: RunState['hands'] = null;
  private source: DirtFound | null = null;
  private ended: RunState['ended'] = null;
  private givenUp: RunState['givenUp'] = null;
  private startedMs: number | null = null;
  private lastMs: number | null = null;

  constructor(private readonly procedure: Procedure) {
    this.steps = procedure.steps;
    this.index = new Map(procedure.steps.map((s, i) => [s.id, i]));
  }

  take(e: RunEvent): void {
    this.startedMs ??= e.atMs;
    this.lastMs = e.atMs;
    const over = this.ended !== null || this.givenUp !== null;
    this.orders = ordersWith(this.orders, e);
    const w = e.what;
    switch (w.kind) {
      case 'order':
        return;
      case 'took-over':
        this.hands = { by: e.by, atMs: e.atMs };
        return;
      case 'caution':
        this.cautions.add(w.caution);
        return;
      case 'source':
        // It may be found, and mended, after the work itself is over.
        this.source = {
          source: w.source,
          repaired: w.repaired,
          note: w.note ?? null,
          by: e.by,
          atMs: e.atMs,
          step: null,
        };
        return;
      case 'refitted': {
        const item = this.off.get(w.item);
        if (item) this.off.set(w.item, putBack(item, w.back));
        return;
      }
      case 'mishap-out': {
        const mishap = this.mishaps.get(w.mishap);
        if (mishap) this.mishaps.set(w.mishap, { ...mishap, out: true });
        return;
      }
    }
    if (over) this.afterTheEnd(e);
    else this.happened(e);
  }

  private happened(e: RunEvent): void {
    const w = e.what;
    switch (w.kind) {
      case 'done':
      case 'skipped':
        this.stepThrough(e, w);
        break;
      case 'settled':
        this.settle(e, w);
        break;
      case 'reopened':
        // While a stop is disputed, it is said which of both is right; opened again it would be gone.
        if (this.results.has(w.step) && !this.disputedStop(w.step)) this.open(w.step);
        break;
      case 'timer':
        this.startTimer(e, w);
        break;
      case 'mishap': {
        const { kind: _, next = null, ...what } = w;
        this.mishaps.set(e.id, { ...what, next, id: e.id, atMs: e.atMs, by: e.by });
        break;
      }
      case 'took-off':
        this.off.set(e.id, { ...w.taken, id: e.id, atMs: e.atMs, by: e.by, back: false, fastenersBack: null });
        break;
      case 'stop':
        this.stop(w.rule, e, null);
        break;
      case 'parked':
        this.parked = { reason: w.reason, toOrder: w.toOrder, atMs: e.atMs, by: e.by };
        break;
      case 'resumed':
        this.parked = null;
        break;
      case 'ended':
        this.end(e, w);
        break;
      case 'given-up':
        this.givenUp = { reason: w.reason, atMs: e.atMs, by: e.by };
        break;
    }
  }

  /** Hands went on after somebody had ended or given up the work: what they did to the car stands, and is said. */
  private afterTheEnd(e: RunEvent): void {
    const { kind } = e.what;
    if (kind === 'resumed') {
      if (this.ended === null) this.givenUp = null;
      return;
    }
    if (kind === 'settled') return this.happened(e);
    if (kind === 'done' || kind === 'skipped' || kind === 'took-off' || kind === 'mishap' || kind === 'stop')
      this.happened(e);
    this.note(e, 'after the end');
  }

  private note(e: RunEvent, why: Noted['why']): void {
    this.noted.push({ id: e.id, by: e.by, atMs: e.atMs, what: e.what, why });
  }

  private round(step: string): number {
    return this.rounds.get(step) ?? 0;
  }

  private stepThrough(e: RunEvent, w: StepEvent): void {
    const i = this.index.get(w.step);
    if (i === undefined) return;
    const step = this.steps[i]!;
    const done = w.kind === 'done' ? w : null;
    const answer = step.answers?.find((a) => a.text === done?.answer);
    // A question is through with one of its answers only, a measurement with a value.
    if (done && step.answers && !answer) return;
    if (done && step.kind === 'measure' && done.value === undefined) return;
    // Cut short only with a reason, which stays on record.
    const timer = this.timers.get(step.id);
    if (done && step.kind === 'timer' && !done.reason?.trim() && !(timer && e.atMs >= timer.endsMs)) return;
    if (w.round !== this.round(w.step) || this.results.has(w.step)) return this.contradict(e, w);
    this.through.set(step.id, e);
    const limits = done?.value === undefined ? null : (done.limits ?? limitsOf(step, undefined, []));
    this.results.set(step.id, {
      kind: w.kind,
      atMs: e.atMs,
      by: e.by,
      answer: done?.answer ?? null,
      from: done?.from ?? null,
      value: done?.value ?? null,
      limits,
      inside: limits && against(done!.value!, limits) === 'within',
      note: done?.note ?? null,
      photo: done?.photo ?? null,
      reason: w.reason ?? null,
    });
    if (done && step.kind === 'take-off') this.takeOff(e, step, done);
    if (done && step.kind === 'refit') this.refit(step, done.back);
    const rule = this.ruleOf(step, w);
    if (answer?.source !== undefined) {
      this.source = { source: answer.source, repaired: false, note: null, by: e.by, atMs: e.atMs, step: step.id };
    }
    if (rule !== undefined) this.stop(rule, e, step.id);
    // Where a stop holds nothing is done again: whoever answered so did not know of it.
    else if (answer?.goTo !== undefined && this.stopped === null) {
      // Back along the way: what lies between is to be done again. Ahead: the way jumps there.
      const to = this.index.get(answer.goTo)!;
      if (to <= i) for (let k = to; k <= i; k++) this.open(this.steps[k]!.id);
    }
  }

  /** The stop rule that an answer or a figure leads into. */
  private ruleOf(step: ProcedureStep, w: StepEvent): string | undefined {
    if (w.kind === 'skipped') return undefined;
    const rule = step.answers?.find((a) => a.text === w.answer)?.stopRule;
    if (rule !== undefined || w.value === undefined) return rule;
    return leadsOf(step, w.value, w.limits ?? limitsOf(step, undefined, []))?.stopRule;
  }

  /** Somebody else has answered the step meanwhile, or has opened it again. Saying the same is no contradiction. */
  private contradict(e: RunEvent, w: StepEvent): void {
    const step = this.steps[this.index.get(w.step)!]!;
    const standing = this.results.get(w.step);
    const mine = wordOf(e, w);
    if (standing && sameWord(wordOfResult(standing), mine)) return;
    if (!standing && (this.before.get(w.step) ?? []).some((x) => sameWord(wordOf(x, x.what as StepEvent), mine)))
      return;
    const other = this.through.get(w.step);
    const stops = this.ruleOf(step, w) !== undefined;
    const stopped = other !== undefined && this.ruleOf(step, other.what as StepEvent) !== undefined;
    if (!stops || (standing && stopped)) {
      this.against.set(e.id, e);
      return;
    }
    // A stop outweighs: it stands, and what it contradicts is kept beside it.
    this.open(w.step);
    this.stepThrough(e, { ...w, round: this.round(w.step) });
    if (standing && other) this.against.set(other.id, other);
  }

  private disputedStop(step: string): boolean {
    return this.stoppedBy?.step === step && this.disputes().some((d) => d.step === step);
  }

  private settle(e: RunEvent, w: Extract<Happened, { kind: 'settled' }>): void {
    const other = this.against.get(w.dispute);
    if (!other || w.reason.trim() === '') return;
    const said = other.what as StepEvent;
    const stands = this.through.get(said.step);
    if (w.keep === 'other' || stands === undefined) {
      this.open(said.step);
      this.against.delete(other.id);
      if (w.keep === 'other') this.stepThrough(other, { ...said, round: this.round(said.step) });
    } else this.against.delete(other.id);
    const dropped = w.keep === 'other' ? stands : other;
    if (dropped)
      this.settled.push({
        step: said.step,
        dropped: wordOf(dropped, dropped.what as StepEvent),
        reason: w.reason,
        by: e.by,
        atMs: e.atMs,
      });
  }

  private disputes(): Dispute[] {
    return [...this.against.values()].flatMap((e) => {
      const w = e.what as StepEvent;
      const other = wordOf(e, w);
      const r = this.results.get(w.step);
      if (r && sameWord(wordOfResult(r), other)) return [];
      const stands = this.through.get(w.step);
      const step = this.steps[this.index.get(w.step)!]!;
      return [
        {
          id: e.id,
          step: w.step,
          other,
          stands: r ? wordOfResult(r) : null,
          stops: r !== undefined && stands !== undefined && this.ruleOf(step, stands.what as StepEvent) !== undefined,
        },
      ];
    });
  }

  /** Open again, with what it had done to the parts taken back. */
  private open(id: string): void {
    if (!this.results.delete(id)) return;
    const was = this.through.get(id);
    if (was) this.before.set(id, [...(this.before.get(id) ?? []), was]);
    this.through.delete(id);
    this.rounds.set(id, this.round(id) + 1);
    this.timers.delete(id);
    const step = this.steps[this.index.get(id)!]!;
    if (this.source?.step === id) this.source = null;
    if (this.stoppedBy?.step === id) [this.stopped, this.stoppedBy] = [null, null];
    if (step.kind === 'take-off') this.off.delete(id);
    if (step.kind === 'refit')
      for (const o of this.offOf(step.item!)) this.off.set(o.id, { ...o, back: false, fastenersBack: null });
  }

  private takeOff(e: RunEvent, step: ProcedureStep, done: Extract<Happened, { kind: 'done' }>): void {
    const said = Object.fromEntries(Object.entries(done.taken ?? {}).filter(([, v]) => v !== undefined));
    this.off.set(step.id, {
      item: step.item!,
      ...(step.count === undefined ? {} : { count: step.count }),
      ...(step.detail === undefined ? {} : { detail: step.detail }),
      ...(done.photo === undefined ? {} : { photo: done.photo }),
      ...said,
      id: step.id,
      atMs: e.atMs,
      by: e.by,
      back: false,
      fastenersBack: null,
    });
  }

  private offOf(item: string): OffItem[] {
    return [...this.off.values()].filter((o) => o.id === item || o.item === item);
  }

  /** `back`: how many fasteners went back on, of all that it puts back together. */
  private refit(step: ProcedureStep, back?: number): void {
    let left = back;
    for (const o of this.offOf(step.item!)) {
      const mine = left === undefined ? undefined : Math.min(left, o.count ?? 0);
      if (left !== undefined) left -= mine!;
      this.off.set(o.id, putBack(o, mine));
    }
  }

  private startTimer(e: RunEvent, w: Extract<Happened, { kind: 'timer' }>): void {
    const i = this.index.get(w.step);
    const seconds = i === undefined ? undefined : this.steps[i]!.seconds;
    if (seconds === undefined || w.round !== this.round(w.step) || this.timers.has(w.step)) return;
    if (this.results.has(w.step)) return;
    this.timers.set(w.step, { step: w.step, startedMs: e.atMs, endsMs: e.atMs + seconds * 1000 });
  }

  private stop(rule: string, e: RunEvent, step: string | null): void {
    const found = this.procedure.stopRules.find((r) => r.if === rule);
    if (found && this.stopped === null) {
      [this.stopped, this.stoppedBy] = [found, { atMs: e.atMs, by: e.by, step }];
    } else if (found && found !== this.stopped && step === null) this.note(e, 'another stop');
  }

  private end(e: RunEvent, w: Extract<Happened, { kind: 'ended' }>): void {
    const reasons = new Set(w.left.filter((l) => l.reason.trim() !== '').map((l) => l.item));
    if (openAtEnd({ off: [...this.off.values()], mishaps: [...this.mishaps.values()] }).some((o) => !reasons.has(o.id)))
      return this.note(e, 'not over yet');
    this.ended = { atMs: e.atMs, by: e.by, left: w.left, counted: w.counted };
    this.parked = null;
  }

  state(): RunState {
    const way = wayOf({
      steps: this.steps,
      index: this.index,
      results: this.results,
      off: [...this.off.values()],
      stopped: this.stopped !== null,
      open: this.ended === null && this.givenUp === null,
    });
    return {
      ...way,
      status: this.ended ? 'ended' : this.givenUp ? 'given-up' : this.parked ? 'parked' : 'running',
      rounds: this.rounds,
      timers: [...this.timers.values()].filter((t) => !this.results.has(t.step)),
      off: [...this.off.values()],
      mishaps: [...this.mishaps.values()],
      cautions: this.cautions,
      stopped: this.stopped,
      stoppedBy: this.stoppedBy,
      disputes: this.disputes(),
      settled: this.settled,
      noted: this.noted,
      parked: this.parked,
      hands: this.hands,
      orders: [...this.orders.values()],
      source: this.source,
      ended: this.ended,
      givenUp: this.givenUp,
      startedMs: this.startedMs,
      lastMs: this.lastMs,
    };
  }
}

const putBack = (item: OffItem, back: number | undefined): OffItem => ({
  ...item,
  back: true,
  fastenersBack: back ?? item.count ?? null,
});

/** Seconds a timer has still to run; 0 once it is over. */
export function timerLeftS(timer: Timer, nowMs: number): number {
  return Math.max(0, Math.ceil((timer.endsMs - nowMs) / 1000));
}
