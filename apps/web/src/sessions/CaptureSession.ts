import type { CaptureCommand, CaptureStatus, JobView, NewCaptureRequest, Phase } from '@just-balance/contract';
import { CAPTURE_POINTS, type CapturePoint, pointsFor } from '@just-balance/core/capture';
import { newestReadings } from '../job/judgement/figures.ts';

/** What a person has opened or chosen beside the capture itself. */
export interface CaptureChoice {
  /** The point that was asked for; null: whichever is open. */
  chosen: string | null;
  /** Entry by hand is open. */
  byHand: boolean;
  /** Points that nobody asks for are offered too. */
  more: boolean;
}

type Tone = 'opened' | 'kept' | 'trouble';

interface Parts {
  start(at: NewCaptureRequest['at'], phase: Phase, only?: string): Promise<void>;
  command(captureId: string, command: CaptureCommand['command']): Promise<void>;
  tone(tone: Tone): void;
}

const TONES: Partial<Record<CaptureStatus['state'], Tone>> = {
  capturing: 'opened',
  done: 'kept',
  refused: 'trouble',
  lost: 'trouble',
};

/**
 * The captures of one phase of a job: which point is meant, what runs, what a person asks of it. The capture itself is
 * the link's; this follows its status.
 */
export class CaptureSession {
  private held: CaptureChoice = { chosen: null, byHand: false, more: false };
  private heard: CaptureStatus | null | undefined;
  private readonly listeners = new Set<() => void>();

  constructor(
    readonly phase: Phase,
    private readonly parts: Parts,
  ) {}

  /** The same object until something changes. */
  choice = (): CaptureChoice => this.held;

  subscribe = (f: () => void): (() => void) => {
    this.listeners.add(f);
    return () => this.listeners.delete(f);
  };

  /** The link's capture as it stands now: heard, and no longer chosen once it is kept. */
  follow(capture: CaptureStatus | null): void {
    const before = this.heard;
    this.heard = capture;
    if (capture?.state === 'done' && !(before?.state === 'done' && before.captureId === capture.captureId))
      this.choose(null);
    // The first thing heard was so before anybody listened.
    if (before === undefined || before?.state === capture?.state) return;
    const tone = capture && TONES[capture.state];
    if (tone) this.parts.tone(tone);
  }

  choose(at: string | null): void {
    this.put({ chosen: at });
  }

  byHand(open: boolean): void {
    this.put({ byHand: open });
  }

  morePoints(): void {
    this.put({ more: true });
  }

  start(at: NewCaptureRequest['at']): Promise<void> {
    this.choose(at);
    return this.parts.start(at, this.phase);
  }

  startFree(only: string | undefined): Promise<void> {
    return this.parts.start('free', this.phase, only);
  }

  command(capture: CaptureStatus, command: CaptureCommand['command']): Promise<void> {
    return this.parts.command(capture.captureId, command);
  }

  private put(change: Partial<CaptureChoice>): void {
    this.held = { ...this.held, ...change };
    for (const f of this.listeners) f();
  }
}

/** What runs in this phase and has something to say; a capture that was stopped by hand has not. */
export function underWay(capture: CaptureStatus | null, phase: Phase): CaptureStatus | null {
  if (!capture || capture.phase !== phase || capture.state === 'done') return null;
  return capture.state === 'refused' && !capture.reason ? null : capture;
}

/** The points of a phase: which are wanted, which are kept, which is meant now. */
export interface CapturePlan {
  /** By the complaint; for the proof, those of them that were taken before the repair. */
  wanted: readonly string[];
  /** The first wanted that is not kept. */
  open: CapturePoint | null;
  /** What the screen is about: what runs, what was chosen, what is open, what was taken last. */
  point: CapturePoint;
  offered: readonly CapturePoint[];
}

export function planOfPhase(
  job: JobView,
  phase: Phase,
  { chosen, more }: CaptureChoice,
  running: CaptureStatus | null,
): CapturePlan {
  const readings = newestReadings(job, phase);
  const kept = (at: string) => readings.some((r) => r.reading.at === at);
  const asked = pointsFor(job.vehicle, job.complaint.symptoms);
  const before = newestReadings(job, 'before');
  const wanted = phase === 'after' ? asked.filter((at) => before.some((r) => r.reading.at === at)) : asked;
  const open = CAPTURE_POINTS.find((p) => wanted.includes(p.at) && !kept(p.at)) ?? null;
  // With all points kept, the screen stays with the one taken last: its expected values, not those of idle.
  const at = running?.at ?? chosen ?? open?.at ?? readings.at(-1)?.reading.at ?? 'idle';
  const pointAt = (x: string) => CAPTURE_POINTS.find((p) => p.at === x);
  const meant = (p: CapturePoint) => wanted.includes(p.at) || kept(p.at) || p.at === chosen || p.at === running?.at;
  return {
    wanted,
    open,
    point: pointAt(at) ?? pointAt('idle')!,
    offered: CAPTURE_POINTS.filter((p) => more || meant(p)).filter(
      (p) => p.at !== 'boost' || job.vehicle.induction === 'turbo',
    ),
  };
}
