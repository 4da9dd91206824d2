import type { JobStanding } from '../standing/index.ts';
import type { Wait } from './waits.ts';

/** What a car that is in the shop waits for. */
export type Lane = 'bench' | 'part' | 'drive' | 'customer';

/** The lanes in the order in which a car goes through them. */
export const LANES: readonly Lane[] = ['bench', 'part', 'drive', 'customer'];

/** What each is called. */
export const LANE_LABELS: Readonly<Record<Lane, string>> = {
  bench: 'On the bench',
  part: 'Waits for a part',
  drive: 'Waits for a drive',
  customer: 'Ready to hand over',
};

/**
 * What an open job waits for: a part that is wanted or on its way, before all else; the drive that its monitors or a
 * soak wait for; the customer, where nothing is left to do; else somebody at the bench.
 */
export function laneOf(
  { station, work }: Pick<JobStanding, 'station' | 'work'>,
  waits: readonly Pick<Wait, 'for'>[],
): Lane {
  const waitsFor = (what: Wait['for']) => waits.some((w) => w.for === what);
  if (waitsFor('part')) return 'part';
  // Something is off the car or begun: no drive and no customer before that.
  if (work) return 'bench';
  if (station === 'hand-over') return 'customer';
  return station === 'readiness' || waitsFor('soak') ? 'drive' : 'bench';
}
