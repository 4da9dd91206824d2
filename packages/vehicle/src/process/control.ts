import type { Asked, ExaminedCar } from '../bench/examine.ts';
import type { InjectedFault } from '../faults/catalogue.ts';
import type { Degradation } from '../wire/degraded.ts';

/** One line of the control channel. */
export interface ControlCommand {
  id?: number;
  do: string;
  token?: string;
  bay?: number;
  clientPort?: number;
  fault?: string;
  severity?: number;
  faultBank?: 1 | 2;
  /** Added to what is in already instead of replacing it. */
  also?: boolean;
  faults?: InjectedFault[];
  on?: boolean;
  ac?: boolean;
  rpm?: number;
  kmh?: number;
  hours?: number;
  vehicle?: string;
  baroKPa?: number;
  altitudeM?: number;
  airC?: number;
  /** Simulated seconds a second: 0 paused, 1 real time, more is faster. */
  rate?: number;
  seconds?: number;
  test?: string;
  /** Work on a part. */
  work?: string;
  part?: string;
  script?: string;
  degradation?: Partial<Degradation>;
  /** examine: a car of its own, not one in a bay. */
  car?: ExaminedCar;
  ask?: Asked;
}

export interface ControlReply {
  ok: boolean;
  error?: string;
  bays?: unknown[];
  result?: unknown;
}

/** Parse a line; anything unreadable becomes a command nobody knows. */
export function readCommand(line: string): ControlCommand {
  try {
    const c = JSON.parse(line) as ControlCommand;
    if (c !== null && typeof c === 'object' && typeof c.do === 'string') return c;
  } catch {
    // answered as unknown below
  }
  return { do: 'unreadable' };
}
