import type { OperatingPoint } from '../case/index.ts';
import { SEA_LEVEL_KPA } from '../gas/index.ts';
import { figure, said } from '../units/index.ts';
import { airflowBand, type Band, COOLANT_BAND, type EngineFacts, manifoldBand } from './bands.ts';

/** Quantities of which a known figure can beat physics: airflow in g/s, manifold pressure in kPa, coolant in °C. */
export const QUANTITIES = ['airflow', 'manifold', 'coolant'] as const;
/** One of them. */
export type Quantity = (typeof QUANTITIES)[number];

/** A figure that beats physics: from this vehicle's service information, or seen on proven jobs of its engine family. */
export interface KnownFigure {
  layer: 'entered' | 'shop';
  at: OperatingPoint;
  quantity: Quantity;
  low: number;
  high: number;
  /** Where it came from, in the shop's words. */
  source: string;
  /** Station pressure where it was true, kPa; absent: standard. */
  baroKPa?: number;
}

/** What tells engines of one family apart in what they should read. */
export interface FamilyFacts {
  fuel: string;
  displacementL: number;
  cylinders: number;
  metering: string;
  induction?: string;
  injection?: string;
}

/** The engine family a known-good figure belongs to, as a key that reads. */
export function familyOf(v: FamilyFacts): string {
  return `${v.fuel} ${v.displacementL.toFixed(1)} L, ${v.cylinders} cylinders, ${v.metering}, ${v.induction ?? 'na'}, ${v.injection ?? 'port'}`;
}

/** What a quantity is called. */
export const QUANTITY_LABEL: Readonly<Record<Quantity, string>> = {
  airflow: 'Airflow',
  manifold: 'Manifold',
  coolant: 'Coolant',
};
/** The unit it is kept in. */
export const QUANTITY_UNIT: Readonly<Record<Quantity, string>> = { airflow: 'g/s', manifold: 'kPa', coolant: '°C' };

/**
 * Figures that go with the pressure outside: an engine at full load takes in what the air weighs, and at rest its
 * manifold stands at it. At part load the driver opens the throttle further instead. Physics.
 */
function goesWithPressure(k: KnownFigure): boolean {
  return k.at === 'full-load' || (k.at === 'koeo' && k.quantity === 'manifold');
}

function bandOf(k: KnownFigure, facts: EngineFacts): Band {
  const scale = goesWithPressure(k) ? facts.baroKPa / (k.baroKPa ?? SEA_LEVEL_KPA) : 1;
  return {
    low: k.low * scale,
    high: k.high * scale,
    unit: QUANTITY_UNIT[k.quantity],
    from: k.layer,
    note: Math.abs(scale - 1) > 0.005 ? said`${k.source}; scaled to ${figure(facts.baroKPa, 'kPa', 1)}` : k.source,
  };
}

/**
 * What a quantity should read at a point, best layer first: the shop's known good, the vehicle's entered values, then
 * physics or common practice. Of several figures of one layer the newest (last) counts. Empty where nothing is known.
 */
export function layersOf(
  quantity: Quantity,
  at: OperatingPoint,
  facts: EngineFacts,
  reading: { rpm?: number; mapKPa?: number; iatC?: number },
  known: readonly KnownFigure[] = [],
): Band[] {
  const out: Band[] = [];
  for (const layer of ['shop', 'entered'] as const) {
    const k = known.filter((x) => x.layer === layer && x.at === at && x.quantity === quantity).at(-1);
    if (k) out.push(bandOf(k, facts));
  }
  const physics =
    quantity === 'airflow'
      ? airflowBand(at, facts, reading)
      : quantity === 'manifold'
        ? manifoldBand(at, facts)
        : at !== 'koeo' && at !== 'cold-idle'
          ? { ...COOLANT_BAND, unit: '°C', from: 'trade' as const, note: 'hot engine, common practice' }
          : null;
  if (physics) out.push(physics);
  return out;
}
