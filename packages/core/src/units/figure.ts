import type { Unit } from './convert.ts';
import type { Role } from './display.ts';

/** Figures that share one unit: one, or several with the words between them (2.4–3.1 g/s, 62 of 80 °C, 5 ± 1 kPa). */
export interface Figure {
  values: readonly number[];
  /** Any unit; one without a twin in the other system is shown as it is. `K`: a difference of temperatures. */
  unit: Unit | (string & {});
  /** Digits behind the point in its own unit; absent: as many as the value has. */
  digits?: number;
  between?: string;
  /** What the figure is of, where its unit alone does not say how it is read. */
  role?: Role;
  /** A difference: no offset of its scale counts. Of figures with ± between them all but the first are. */
  difference?: true;
  /** Significant digits in the unit it is shown in, in place of `digits`. */
  significant?: number;
  /** A plus is written before what is not negative. */
  signed?: true;
}

/** One figure, or several of one unit. Values, unit, digits behind the point (absent: as the values have). */
export function figure(
  values: number | readonly number[],
  unit: Figure['unit'],
  digits?: number,
  more: Omit<Figure, 'values' | 'unit' | 'digits'> = {},
): Figure {
  return {
    values: typeof values === 'number' ? [values] : values,
    unit,
    ...(digits === undefined ? {} : { digits }),
    ...more,
  };
}

/** A trim or a share that carries its sign, in %: −3.2 %, +14.0 %. */
export const percent = (v: number, digits = 1): Figure => figure(v, '%', digits, { signed: true });
