import { fuelPressureLimits, limitOf, type OwnValue, type VehicleSpec } from '../case/index.ts';
import { figure, type Said, said } from '../units/index.ts';
import type { Leads, ProcedureStep } from './format.ts';

/** What a measured value is held against, in the step's unit; either bound may be open. */
export interface StepLimits {
  low?: number;
  high?: number;
  /** Whose figures they are, in a person's words; null: generic ones, of no vehicle. */
  whose: string | null;
}

/** Quantities whose limits follow from a vehicle's card. */
const FROM_CARD: Readonly<Record<string, (limits: VehicleSpec['limits']) => Omit<StepLimits, 'whose'> | null>> = {
  'fuel pressure at idle': (l) => fuelPressureLimits(l)?.idle ?? null,
  'fuel pressure under load': (l) => fuelPressureLimits(l)?.load ?? null,
};

/**
 * The limits of a measuring step: those entered for the vehicle (`limitOf`, in the step's unit) win over what follows
 * from its card, and both over the step's own.
 */
export function limitsOf(
  step: ProcedureStep,
  card: VehicleSpec['limits'],
  entered: readonly (OwnValue & { source: string })[],
): StepLimits {
  const quantity = step.quantity ?? '';
  const own = (side: 'low' | 'high') =>
    entered.findLast((e) => e.quantity === limitOf(quantity, side) && e.unit === step.unit);
  const [low, high] = [own('low'), own('high')];
  if (low || high) {
    const whose = [...new Set([low, high].flatMap((e) => e?.source ?? []))].join('; ');
    return { ...(low ? { low: low.value } : {}), ...(high ? { high: high.value } : {}), whose };
  }
  const carded = FROM_CARD[quantity]?.(card);
  if (carded) return { ...carded, whose: 'the vehicle’s card' };
  return {
    ...(step.low === undefined ? {} : { low: step.low }),
    ...(step.high === undefined ? {} : { high: step.high }),
    whose: null,
  };
}

/** Where a value lies against limits; the bounds themselves are inside. */
export function against(value: number, { low, high }: Pick<StepLimits, 'low' | 'high'>): 'below' | 'within' | 'above' {
  if (value < (low ?? Number.NEGATIVE_INFINITY)) return 'below';
  return value > (high ?? Number.POSITIVE_INFINITY) ? 'above' : 'within';
}

/** The same in words. */
export const LIES = { below: 'below its limit', within: 'within its limits', above: 'above its limit' } as const;

/**
 * What follows from a step's value. `limits`: what it was held against; absent, the step's own. A find that only the
 * vehicle's own limits allow is none against generic ones.
 */
export function leadsOf(step: ProcedureStep, value: number, limits: StepLimits = generic(step)): Leads | undefined {
  const leads = step[against(value, limits)];
  if (!leads?.own || limits.whose !== null) return leads;
  const { finds: _, ...rest } = leads;
  return rest;
}

const generic = (step: ProcedureStep): StepLimits => limitsOf(step, undefined, []);

/** A figure of a step, what it was held against and whose figures those are, and whether it is inside of them. */
export function measuredWords(step: ProcedureStep, value: number, limits: StepLimits | null): Said {
  const of = (v: number | readonly number[]) =>
    figure(v, step.unit ?? '', undefined, { ...(step.role ? { role: step.role } : {}), between: ' to ' });
  const what = said`${step.quantity ?? step.text}: ${of(value)}`;
  if (!limits) return what;
  const { low, high, whose } = limits;
  const bounds =
    low !== undefined && high !== undefined
      ? said`${of([low, high])}`
      : low !== undefined
        ? said`at least ${of(low)}`
        : said`at most ${of(high!)}`;
  return said`${what}; ${bounds} (${whose ?? 'generic'}): ${LIES[against(value, limits)]}`;
}
