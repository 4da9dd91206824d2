/** What a step waits for that the link can see: it ticks by itself. Common practice, no source. */
export interface LiveCondition {
  procedure: string;
  step: string;
  /** Channel of a capture. */
  channel: string;
  label: string;
  unit: string;
  low?: number;
  high?: number;
}

/** Conditions of steps that a link can see, in the channel's unit. */
export const LIVE_CONDITIONS: readonly LiveCondition[] = [
  {
    procedure: 'throttle-relearn',
    step: 'start',
    channel: 'rpm',
    label: 'Engine speed',
    unit: 'rpm',
    low: 2800,
    high: 3300,
  },
  { procedure: 'throttle-relearn', step: 'start', channel: 'ect', label: 'Coolant', unit: '°C', low: 90 },
  { procedure: 'throttle-relearn', step: 'hot', channel: 'ect', label: 'Coolant', unit: '°C', low: 90, high: 110 },
  {
    procedure: 'throttle-relearn',
    step: 'idle-5',
    channel: 'rpm',
    label: 'Engine speed, pedal untouched',
    unit: 'rpm',
    high: 1300,
  },
  { procedure: 'throttle-relearn', step: 'idle-5', channel: 'ect', label: 'Coolant', unit: '°C', low: 85 },
  { procedure: 'throttle-relearn', step: 'idle-5', channel: 'vss', label: 'Road speed', unit: 'km/h', high: 0 },
];

/** Such a condition with what the link says now. */
export interface LiveTick extends LiveCondition {
  value: number | null;
  state: 'holds' | 'not yet' | 'not seen';
}

/** The conditions of a step against what the link shows now. */
export function liveTicks(
  procedure: string,
  step: string,
  values: Readonly<Record<string, number | string | undefined>>,
): LiveTick[] {
  return LIVE_CONDITIONS.filter((c) => c.procedure === procedure && c.step === step).map((c) => {
    const v = values[c.channel];
    if (typeof v !== 'number') return { ...c, value: null, state: 'not seen' };
    const holds = v >= (c.low ?? Number.NEGATIVE_INFINITY) && v <= (c.high ?? Number.POSITIVE_INFINITY);
    return { ...c, value: v, state: holds ? 'holds' : 'not yet' };
  });
}
