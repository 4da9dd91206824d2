import type { Sample } from '../link/index.ts';
import type { GuidedStatus } from './guided.ts';

/** A recording without conditions: everything counts until a person stops it. Same face as a guided capture. */
export class FreeRecording {
  private firstUs: number | null = null;
  private lastUs = 0;

  take(samples: readonly Sample[]): GuidedStatus {
    for (const s of samples) {
      this.firstUs ??= s.atUs;
      this.lastUs = Math.max(this.lastUs, s.atUs);
    }
    return this.status();
  }

  interrupted(): void {}

  again(): void {}

  openWindow(): null {
    return null;
  }

  status(): GuidedStatus {
    return {
      state: 'capturing',
      conditions: [],
      goodS: this.firstUs === null ? 0 : (this.lastUs - this.firstUs) / 1e6,
      wantedS: 0,
      reason: null,
      etaS: null,
    };
  }
}
