import type { Said } from '@just-balance/core/units';
import { ROLES } from '@just-balance/core/units';
import { ValidateBy } from 'class-validator';

const MOST_PARTS = 60;
const MOST_VALUES = 4;
const whole = (v: unknown, most: number) => Number.isInteger(v) && (v as number) >= 0 && (v as number) <= most;
const brief = (v: unknown) => typeof v === 'string' && v.length <= 20;

/** What each field of a figure must be; all but the first two may be absent. */
const FIGURE: Readonly<Record<string, (v: unknown) => boolean>> = {
  values: (v) => Array.isArray(v) && v.length > 0 && v.length <= MOST_VALUES && v.every(Number.isFinite),
  unit: brief,
  digits: (v) => whole(v, 6),
  significant: (v) => whole(v, 6) && v !== 0,
  between: brief,
  role: (v) => (ROLES as readonly unknown[]).includes(v),
  difference: (v) => v === true,
  signed: (v) => v === true,
};

function isFigure(v: unknown): boolean {
  if (v === null || typeof v !== 'object' || Array.isArray(v)) return false;
  const fields = Object.entries(v);
  return 'values' in v && 'unit' in v && fields.every(([k, x]) => Object.hasOwn(FIGURE, k) && FIGURE[k]!(x));
}

/** A text of up to `most` characters, or words and typed figures of as many. */
export function isSaidFromOutside(v: unknown, most: number): v is Said {
  if (typeof v === 'string') return v.length <= most;
  if (v === null || typeof v !== 'object' || Object.keys(v).join() !== 'said') return false;
  const { said } = v as { said: unknown };
  if (!Array.isArray(said) || said.length > MOST_PARTS) return false;
  if (!said.every((p) => typeof p === 'string' || isFigure(p))) return false;
  return said.reduce<number>((n, p) => n + (typeof p === 'string' ? p.length : 0), 0) <= most;
}

/** A sentence: text of 1 to `most` characters, or words and typed figures. */
export function Sentence(most: number, options: { each?: boolean; empty?: boolean } = {}): PropertyDecorator {
  return ValidateBy(
    {
      name: 'sentence',
      validator: {
        validate: (v) => (options.empty === true || v !== '') && isSaidFromOutside(v, most),
        defaultMessage: () => `a text of ${options.empty ? 'up' : '1'} to ${most} characters`,
      },
    },
    options.each ? { each: true } : {},
  );
}
