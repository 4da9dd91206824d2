import { supportedPids } from '../obd/index.ts';

/** Trims, airflow, manifold pressure and coolant (SAE J1979): who has these is the engine's unit. */
const OF_AN_ENGINE: readonly number[] = [0x06, 0x07, 0x08, 0x09, 0x10, 0x0b, 0x05];
/** Bitmaps of supported parameters begin at every 20 hex; the last one of the standard. */
const RANGE = 0x20;
const LAST_BASE = 0xc0;

interface Unit {
  /** The identifier of its answers. */
  id: number;
  pids: Set<number>;
  /** The bitmap to ask for next; null where all is known. */
  nextBase: number | null;
}

/** What is asked next: the bitmap from `base` on, of one unit, or of all at once (null). */
export interface DiscoveryQuestion {
  base: number;
  unit: number | null;
}

/**
 * Who answers on the bus and what each has of service 01. All are asked together once; then each by itself, so that a
 * slow unit is no reason to take another for the engine. One that stops answering is kept with what it has said.
 */
export class Discovery {
  private readonly units: Unit[] = [];
  private asked = false;

  /** The next question; null when everything is known. */
  next(): DiscoveryQuestion | null {
    if (!this.asked) return { base: 0, unit: null };
    const open = this.units.find((u) => u.nextBase !== null);
    return open ? { base: open.nextBase!, unit: open.id } : null;
  }

  /** A unit's bitmap of the 32 parameters after `base`, the first in the highest bit. */
  heard(id: number, base: number, bitmap: number): void {
    this.asked = true;
    let unit = this.units.find((u) => u.id === id);
    if (!unit) {
      unit = { id, pids: new Set(), nextBase: null };
      this.units.push(unit);
    }
    const pids = supportedPids(base, bitmap);
    for (const p of pids) unit.pids.add(p);
    unit.nextBase = pids.includes(base + RANGE) && base < LAST_BASE ? base + RANGE : null;
  }

  /** A unit says no more: the next one is asked. */
  gaveUp(id: number): void {
    const unit = this.units.find((u) => u.id === id);
    if (unit) unit.nextBase = null;
  }

  /** The units that answer, each with how many parameters it has. */
  get found(): readonly { id: number; parameters: number }[] {
    return this.units.map((u) => ({ id: u.id, parameters: u.pids.size })).sort((a, b) => a.id - b.id);
  }

  /**
   * The unit a person has chosen, if it answers; else the one with most of what an engine has, of several the lowest
   * identifier; null where none has any of it.
   */
  engine(chosen: number | null): { id: number; pids: ReadonlySet<number> } | null {
    const named = this.units.find((u) => u.id === chosen);
    if (named) return named;
    const share = (u: Unit) => OF_AN_ENGINE.filter((p) => u.pids.has(p)).length;
    const best = [...this.units].sort((a, b) => share(b) - share(a) || a.id - b.id)[0];
    return best && share(best) > 0 ? best : null;
  }
}
