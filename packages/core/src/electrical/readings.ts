/** One reading of a voltmeter: V(red) − V(black) as it showed, in V. */
export interface PairReading {
  red: string;
  black: string;
  volts: number;
  /** Whether the minus sign was written down where there was one; people often leave it out. */
  signed: boolean;
}

/** What was read at one connector. `battery-` is battery negative, `battery+` its other post. */
export interface PinReadings {
  pins: readonly string[];
  batteryV?: number;
  running: boolean;
  readings: readonly PairReading[];
}

/** What a pin of a connector is for. */
export type PinRole = 'ground' | 'supply' | 'reference' | 'signal' | 'floating' | 'unknown';

/** A pin with its volts against the negative post, and the roles it may have. */
export interface Pin {
  pin: string;
  /** Against battery negative; null where nothing connects it to the others, or it floats. */
  volts: number | null;
  low: number | null;
  high: number | null;
  role: PinRole;
  because: string;
}

/** What the pair readings amount to: each pin, what contradicts, and which pair to read next. */
export interface PinsResult {
  pins: Pin[];
  /** Indexes of readings that disagree with all the others. */
  outliers: number[];
  /** Another set of signs fits as well; the volts are those of the likelier. */
  ambiguous: boolean;
  nextPair: { red: string; black: string; why: string } | null;
  warnings: string[];
}

/** The post that volts are counted from. */
export const BATTERY_NEGATIVE = 'battery-';

/** The other post. */
export const BATTERY_POSITIVE = 'battery+';

/** Levels in V. Common practice, no source. */
export const GROUND_V = 0.3;
export const REFERENCE = { low: 4.7, high: 5.3 };
export const SUPPLY_LOW_V = 11.5;
export const SUPPLY_HIGH_V = { off: 13.4, running: 14.9 };
