import type { DriverAction } from './driver.ts';

/** A drive as a list of stretches, for a bay: what the driver does and for how many seconds. */
export interface RoadScript {
  id: string;
  label: string;
  steps: readonly { action: DriverAction; s: number }[];
}

/** Drives of our own. */
export const ROAD_SCRIPTS: readonly RoadScript[] = [
  {
    id: 'round-the-block',
    label: 'Round the block',
    steps: [
      { action: { do: 'speed', kmh: 42 }, s: 60 },
      { action: { do: 'coast' }, s: 12 },
      { action: { do: 'speed', kmh: 50 }, s: 60 },
      { action: { do: 'idle' }, s: 30 },
    ],
  },
  {
    id: 'long-cruise',
    label: 'Long cruise',
    steps: [
      { action: { do: 'idle' }, s: 45 },
      { action: { do: 'speed', kmh: 66 }, s: 620 },
      { action: { do: 'coast' }, s: 20 },
      { action: { do: 'speed', kmh: 82 }, s: 260 },
      { action: { do: 'coast' }, s: 25 },
      { action: { do: 'idle' }, s: 60 },
    ],
  },
  {
    id: 'hill',
    label: 'Up the hill',
    steps: [
      { action: { do: 'speed', kmh: 60 }, s: 40 },
      { action: { do: 'full-load', rpm: 3600 }, s: 12 },
      { action: { do: 'coast' }, s: 15 },
      { action: { do: 'idle' }, s: 20 },
    ],
  },
];
