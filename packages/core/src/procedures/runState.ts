import type { ProcedureStep, StopRule } from './format.ts';
import type { StepLimits } from './limits.ts';
import type { PartOrder } from './orders.ts';
import type { Happened, TakenOff } from './runEvents.ts';

/** How a step went, the last time it was through. */
export interface StepResult {
  kind: 'done' | 'skipped';
  atMs: number;
  by: string;
  answer: string | null;
  /** The test whose outcome the answer is, where it was not asked again. */
  from: string | null;
  value: number | null;
  /** Of a measured value: what it was held against. Null where nothing was measured. */
  limits: StepLimits | null;
  /** Whether it is inside them. */
  inside: boolean | null;
  note: string | null;
  photo: string | null;
  /** Why it was skipped, or a timer cut short. */
  reason: string | null;
}

/** Something that is off the car, with how it sat. */
export interface OffItem extends TakenOff {
  /** The step's id, or that of the event for what was added by hand. */
  id: string;
  atMs: number;
  by: string;
  back: boolean;
  /** Fasteners that went back on with it; null while it is off, or where nobody counted. */
  fastenersBack: number | null;
}

/** Something that broke or fell, and whether it is out of the engine. */
export interface Mishap {
  /** Of its event. */
  id: string;
  step: string;
  what: string;
  where: string;
  next: string | null;
  out: boolean;
  atMs: number;
  by: string;
}

/** A wait that was begun: its end in ms since 1970. */
export interface Timer {
  step: string;
  startedMs: number;
  endsMs: number;
}

/** Where the dirt came from, and whether that was repaired. */
export interface DirtFound {
  source: string;
  repaired: boolean;
  note: string | null;
  by: string;
  atMs: number;
  /** The step that was answered by it; null: said at the end, or after it. */
  step: string | null;
}

/** What somebody wrote of a step. */
export interface StepWord {
  kind: 'done' | 'skipped';
  by: string;
  atMs: number;
  answer: string | null;
  value: number | null;
  /** Why it was skipped. */
  reason: string | null;
}

/** Two people have answered one step differently: both are kept until somebody says, with a reason, which stands. */
export interface Dispute {
  /** The event of the answer that does not stand. */
  id: string;
  step: string;
  other: StepWord;
  /** What stands meanwhile; null: the step was opened again since, and is not answered yet. */
  stands: StepWord | null;
  /** What stands is a stop: it outweighs the other until then. */
  stops: boolean;
}

/** A dispute that was settled. */
export interface Settled {
  step: string;
  /** What was said not to be so. */
  dropped: StepWord;
  reason: string;
  by: string;
  atMs: number;
}

/** Something written down that changes nothing of where the run stands, or came after its end: said, not lost. */
export interface Noted {
  id: string;
  by: string;
  atMs: number;
  what: Happened;
  why: 'after the end' | 'another stop' | 'not over yet';
}

/** A run as its events make it. */
export interface RunState {
  status: 'running' | 'parked' | 'ended' | 'given-up';
  /** Of the steps on the way from the first one on; the others have none. */
  results: ReadonlyMap<string, StepResult>;
  /** Of steps that lie ahead of the open one: done before their turn. */
  early: ReadonlyMap<string, StepResult>;
  /** How often each step has been opened again. */
  rounds: ReadonlyMap<string, number>;
  /** Ids of the steps through, in the order of the way, then the current one. */
  way: readonly string[];
  /** Null once the way is at its end. */
  current: ProcedureStep | null;
  /** Steps of the way that lie ahead if nothing branches. */
  ahead: readonly string[];
  timers: readonly Timer[];
  off: readonly OffItem[];
  mishaps: readonly Mishap[];
  /** Ids of cautions that have been acknowledged. */
  cautions: ReadonlySet<string>;
  /** The rule that ended the work as it was planned. */
  stopped: StopRule | null;
  /** When and by whom it was come by, and at which step; null: said by a person without a question about it. */
  stoppedBy: { atMs: number; by: string; step: string | null } | null;
  /** Answers that contradict each other, not settled yet. */
  disputes: readonly Dispute[];
  settled: readonly Settled[];
  /** What changes nothing of this, or came after the end. */
  noted: readonly Noted[];
  parked: { reason: string; toOrder: readonly string[]; atMs: number; by: string } | null;
  /** Who took the work over last; null: nobody had to, it is whoever is at it. */
  hands: { by: string; atMs: number } | null;
  /** Parts that the work asks for, each once, with what became of it. */
  orders: readonly PartOrder[];
  source: DirtFound | null;
  ended: { atMs: number; by: string; left: readonly { item: string; reason: string }[]; counted: boolean } | null;
  givenUp: { reason: string; atMs: number; by: string } | null;
  startedMs: number | null;
  lastMs: number | null;
}
