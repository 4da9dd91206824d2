import { convert, UNITS, type Unit } from '@just-balance/core/units';
import { useEffect, useRef } from 'react';
import { typed } from './typed.ts';

/** A figure as it is typed: without digits that nobody read anywhere. */
export const asTyped = (value: number, digits: number): string => String(Number(value.toFixed(digits)));

/** Digits a converted figure keeps beyond those that are shown, so that back again is the same. */
const SPARE = 2;

/**
 * What stands typed follows the unit it is shown in: a switch in the middle of typing converts it, and switching back
 * brings back what was typed. `units`: by field, the unit that stands beside it now.
 */
export function useFollowUnits(
  units: Readonly<Record<string, string>>,
  get: (field: string) => string,
  set: (field: string, text: string) => void,
): void {
  const before = useRef(units);
  const origin = useRef(new Map<string, { text: string; unit: string; shown: string }>());
  useEffect(() => {
    const last = before.current;
    before.current = units;
    for (const [field, unit] of Object.entries(units)) {
      const from = last[field];
      if (from === undefined || from === unit || !(from in UNITS) || !(unit in UNITS)) continue;
      const text = get(field) ?? '';
      const value = Number(typed(text));
      if (text.trim() === '' || !Number.isFinite(value)) continue;
      const kept = origin.current.get(field);
      const first = kept?.shown === text ? kept : { text, unit: from };
      const shown =
        first.unit === unit
          ? first.text
          : asTyped(convert(Number(typed(first.text)), first.unit as Unit, unit as Unit), digitsOf(first.text) + SPARE);
      origin.current.set(field, { ...first, shown });
      set(field, shown);
    }
  });
}

const digitsOf = (text: string) => typed(text).split('.')[1]?.length ?? 0;
