import type { StepLimits } from './limits.ts';

/**
 * What happens in a run of a procedure, each written once and never changed. `id` orders events of one moment (UUIDv7 of
 * the device that wrote it), `atMs` is the moment, ms since 1970. `orderMs` is where it stands among the others, ms since
 * 1970: the moment it came to the shop where it came at once, absent where only its own moment says when it was.
 */
export interface RunEvent {
  id: string;
  atMs: number;
  orderMs?: number;
  by: string;
  what: Happened;
}

/** Where a part that a work asks for stands: to be ordered, ordered, here, or not wanted any more. */
export const ORDER_STATES = ['wanted', 'ordered', 'arrived', 'struck'] as const;
/** One of them. */
export type OrderState = (typeof ORDER_STATES)[number];

/** Fasteners and parts that came off, beside what the procedure says. */
export interface TakenOff {
  item: string;
  count?: number;
  /** Long and short ones apart, hidden ones, where they are kept. */
  detail?: string;
  hidden?: boolean;
  photo?: string;
}

/** What may happen in a run; kept in order, never changed. */
export type Happened =
  /**
   * A step is through. `round` is how often the step had been opened again when it was answered: of two people who
   * answer the same step at once, the second answer is the same step, not another round.
   */
  | {
      kind: 'done';
      step: string;
      round: number;
      answer?: string;
      /** The test, by its id, whose outcome this answer is: it was seen before, and is no second find. */
      from?: string;
      value?: number;
      /** measure: what it was held against; absent: the step's own limits. */
      limits?: StepLimits;
      note?: string;
      photo?: string;
      /** torque: what was used, and where the figure came from. */
      torqueNm?: number;
      torqueSource?: string;
      taken?: Omit<TakenOff, 'item'>;
      /** refit: fasteners that went back on; absent: all that came off. */
      back?: number;
      /** timer: why it was not waited for. */
      reason?: string;
    }
  | { kind: 'skipped'; step: string; round: number; reason: string }
  /** Back to a step that is through: it is open again. */
  | { kind: 'reopened'; step: string }
  | { kind: 'timer'; step: string; round: number }
  | { kind: 'caution'; caution: string; step: string }
  /** Taken off beside the procedure's own steps; its item is known by the event's id. */
  | { kind: 'took-off'; taken: TakenOff }
  | { kind: 'refitted'; item: string; back?: number }
  /** Something broke or fell at a step. `out`: it is out of the engine again, or lies where it harms nothing. */
  | { kind: 'mishap'; step: string; what: string; where: string; out: boolean; next?: string }
  /** What was still in there is out; `mishap` is the id of its event. */
  | { kind: 'mishap-out'; mishap: string }
  /** The same figure of the stop rule as its `if`, found by a person without a question about it. */
  | { kind: 'stop'; rule: string }
  /**
   * Of two answers to one step, which is right: the one that stands, or the other, by the id of its event. A stop is only
   * lifted so.
   */
  | { kind: 'settled'; dispute: string; keep: 'stands' | 'other'; reason: string }
  | { kind: 'parked'; reason: string; toOrder: string[] }
  /** Whoever says it has the work in hand from now on. */
  | { kind: 'took-over' }
  /** What becomes of a part that the work asks for, by its words; said last holds. */
  | { kind: 'order'; part: string; is: OrderState }
  /** Taken up again: parked, or given up. */
  | { kind: 'resumed' }
  | { kind: 'source'; source: string; repaired: boolean; note?: string }
  /** Over. `left`: what stays off, by item, and why. */
  | { kind: 'ended'; left: { item: string; reason: string }[]; counted: boolean }
  | { kind: 'given-up'; reason: string };

/** One kind of it. */
export type HappenedKind = Happened['kind'];
