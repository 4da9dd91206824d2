import type { MonitorId } from '../../obd/index.ts';
import { type Said } from '../../units/index.ts';
import type { DriveReview } from './review.ts';

/** One drive against a procedure, as it is kept. */
export interface DriveAttempt {
  procedure: string;
  result: DriveReview['result'];
  /** Steps done. */
  done: string[];
  /** What broke: a step or a condition, its reason, and the second where there is one. */
  broke: { what: string; reason: Said; atS: number | null }[];
  distanceKm: number;
  minutes: number;
  /** Where it was driven, in a person's words. */
  road: string;
  stillOpen: MonitorId[] | null;
}

/** Drives of a vehicle counted up: how many, how far in km, what broke them. */
export interface AttemptTotals {
  count: number;
  distanceKm: number;
  /** Index of the attempt with most steps done; null without one. */
  best: number | null;
  /** What breaks, most often first, per procedure and road. */
  breaks: { procedure: string; road: string; what: string; times: number; reason: Said }[];
}

/** A review as an attempt. `distanceKm` and `minutes` from its log. */
export function attemptOf(
  review: DriveReview,
  log: { distanceKm: number; minutes: number },
  road: string,
): DriveAttempt {
  return {
    procedure: review.procedure,
    result: review.result,
    done: review.steps.filter((s) => s.state === 'done').map((s) => s.id),
    broke: [
      ...review.conditions.filter((c) => c.state === 'not-met').map((c) => ({ what: c.id, reason: c.why, atS: null })),
      ...review.steps
        .filter((s) => s.state !== 'done')
        .flatMap((s) => s.broken.slice(-3).map((b) => ({ what: s.id, reason: b.why, atS: b.atS }))),
    ],
    distanceKm: Math.round(log.distanceKm * 10) / 10,
    minutes: Math.round(log.minutes),
    road,
    stillOpen: review.monitors.after,
  };
}

/** Distance under a speed trace, km; trapezoids, gaps of more than 5 s left out. Speeds km/h, times s. */
export function distanceKm(time: ArrayLike<number>, kmh: ArrayLike<number>): number {
  let km = 0;
  for (let i = 1; i < time.length; i++) {
    const dt = time[i]! - time[i - 1]!;
    if (dt > 0 && dt <= 5) km += ((kmh[i]! + kmh[i - 1]!) / 2) * (dt / 3600);
  }
  return km;
}

/** What the attempts of a vehicle come to. */
export function attemptTotals(attempts: readonly DriveAttempt[]): AttemptTotals {
  const breaks = new Map<string, AttemptTotals['breaks'][number]>();
  for (const a of attempts)
    for (const what of new Set(a.broke.map((b) => b.what))) {
      const key = `${a.procedure}\n${a.road}\n${what}`;
      const row = breaks.get(key);
      const reason = a.broke.filter((b) => b.what === what).at(-1)!.reason;
      if (row) {
        row.times++;
        row.reason = reason;
      } else breaks.set(key, { procedure: a.procedure, road: a.road, what, times: 1, reason });
    }
  const most = Math.max(...attempts.map((a) => a.done.length), 0);
  return {
    count: attempts.length,
    distanceKm: Math.round(10 * attempts.reduce((n, a) => n + a.distanceKm, 0)) / 10,
    best: most === 0 ? null : attempts.findIndex((a) => a.done.length === most),
    breaks: [...breaks.values()].sort((a, b) => b.times - a.times),
  };
}
