import { type Said, said } from '../../units/index.ts';
import { boundsText } from './conditions.ts';
import type { DriveProcedure } from './format.ts';
import { wantedConditions } from './wanted.ts';

/**
 * What is seen to the evening before a cold start, so that the night is not lost; empty where nothing has to soak.
 * Common practice, no source.
 *
 * @param open Monitors that are not complete; null: not known.
 */
export function tonight(p: DriveProcedure, open: readonly string[] | null): Said[] {
  const before = wantedConditions(p, open);
  const of = (id: string) => before.find((c) => c.id === id);
  const soak = of('soak') ?? of('coolant-start') ?? of('coolant-to-air');
  if (!soak) return [];
  const fuel = of('fuel-level');
  return [
    ...(fuel ? [said`Fuel level ${boundsText(fuel)}: fill or burn it off today, not in the morning.`] : []),
    'On level ground, outdoors or where the exhaust goes out.',
    'Doors shut, keys far away: a key in reach keeps control units awake.',
    'Every load off. A charger or memory saver only where service information allows it.',
    'Nobody starts it before the drive, not even to move it: a note on the wheel, and the alarm set.',
  ];
}
