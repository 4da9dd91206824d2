import { PIDS } from '../obd/index.ts';

/** Which parameters a capture step needs and how the bus time is shared. Data named by the step. */
export interface PollingPlan {
  id: string;
  /** Asked every cycle. */
  fast: readonly number[];
  /** Asked in turn, one group a cycle. */
  slow: readonly number[];
}

const SLOW = [
  0x03, 0x05, 0x0f, 0x14, 0x18, 0x24, 0x28, 0x34, 0x38, 0x04, 0x0d, 0x11, 0x33, 0x2f, 0x42, 0x45, 0x15, 0x19, 0x46,
] as const;

/**
 * What is asked of the engine in turn: fast parameters with every round, slow ones one at a time (service 01, SAE
 * J1979).
 */
export const PLANS = {
  /** Trims per bank, airflow, pressure, speed; then what changes slowly. */
  mixture: { id: 'mixture', fast: [0x0c, 0x10, 0x0b, 0x06, 0x07, 0x08, 0x09], slow: SLOW },
  /** Pressure alone, engine off. */
  pressure: { id: 'pressure', fast: [0x0b, 0x33, 0x0c], slow: [0x05, 0x0f, 0x42, 0x10, 0x46, 0x45] },
  /** One thing that is over in a second: as fast as the bus goes. */
  snap: { id: 'snap', fast: [0x10, 0x0b, 0x0c], slow: [0x05, 0x11] },
  /** On the road: the same with road speed, and the monitors as they finish. */
  road: {
    id: 'road',
    fast: [0x0c, 0x10, 0x0b, 0x0d, 0x06, 0x07, 0x08, 0x09],
    slow: [...SLOW.filter((p) => p !== 0x0d), 0x01, 0x41],
  },
  /** A pull: airflow, pressure, λ or sensor voltage; trims are no evidence there. */
  pull: {
    id: 'pull',
    fast: [0x0c, 0x10, 0x0b, 0x24, 0x28, 0x14, 0x18, 0x34, 0x38],
    slow: [0x0d, 0x03, 0x05, 0x0f, 0x11, 0x49, 0x44, 0x04],
  },
} as const satisfies Record<string, PollingPlan>;

/** One parameter and nothing else: the bus's highest rate. Throws RangeError on a channel no parameter carries. */
export function planAlone(channel: string): PollingPlan {
  const row = PIDS.find((p) => p.elements.some((e) => e.id === channel));
  if (!row) throw new RangeError(`no parameter carries ${channel}`);
  return { id: 'alone', fast: [row.pid], slow: [] };
}

/** One of the plans. */
export type PlanId = keyof typeof PLANS;

/** The most PIDs a single frame request carries. SAE J1979 (from memory). */
export const PIDS_PER_REQUEST = 6;

/** The plan's requests for a vehicle that supports `supported`, in groups of at most `perRequest`. */
export function planRequests(
  plan: PollingPlan,
  supported: ReadonlySet<number>,
  perRequest: number,
): { fast: number[][]; slow: number[][] } {
  const groups = (pids: readonly number[]) => {
    const have = pids.filter((p) => supported.has(p));
    const out: number[][] = [];
    for (let i = 0; i < have.length; i += perRequest) out.push(have.slice(i, i + perRequest));
    return out;
  };
  return { fast: groups(plan.fast), slow: groups(plan.slow) };
}
