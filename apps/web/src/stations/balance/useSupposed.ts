import type { Case } from '@just-balance/core/case';
import type { Cause, WhatIf as Play, Settings, WouldRead } from '@just-balance/core/diagnosis';
import { useEffect, useState } from 'react';
import { judge } from '../../job/judgement/useJudgement.ts';

/** Steps of the slider from the least size to the largest. */
export const STEPS = 200;

export interface Supposed {
  fault: string;
  /** The sizes the cause can have; null where a size has no meaning for it. */
  range: Play['sizes'];
  /** The size that is looked at: as judged, until it is moved. */
  value: number;
  moved: boolean;
  /** What the car would read with that size; empty until it is worked out. */
  points: WouldRead[];
  /** The slider's place of a size, and back: even in the ratio where it can be, since sizes run over decades. */
  step: number;
  move(step: number): void;
  reset(): void;
}

/** A cause at another size than was judged, to play with; nothing of it is kept. */
export function useSupposed(c: Case, settings: Settings, fault: string, cause: Cause | undefined): Supposed {
  const [range, setRange] = useState<{ of: string; sizes: Play['sizes'] } | null>(null);
  const [size, setSize] = useState<{ of: string; value: number } | null>(null);
  const [points, setPoints] = useState<{ of: string; rows: WouldRead[] } | null>(null);
  const sizes = range?.of === fault ? range.sizes : null;
  const moved = size?.of === fault;
  const value = moved ? size.value : (cause?.severity?.value ?? (sizes ? (sizes.low + sizes.high) / 2 : 0));
  const bank = cause?.bank ?? 1;
  useEffect(() => {
    let over = false;
    judge()
      .sizes(c, settings, fault)
      .then((r) => !over && setRange({ of: fault, sizes: r }));
    return () => {
      over = true;
    };
  }, [c, settings, fault]);
  useEffect(() => {
    let over = false;
    judge()
      .wouldRead(c, settings, fault, value, bank)
      .then((rows) => !over && setPoints({ of: fault, rows }));
    return () => {
      over = true;
    };
  }, [c, settings, fault, value, bank]);
  const geometric = sizes !== null && sizes.low > 0;
  const share = !sizes
    ? 0
    : geometric
      ? Math.log(value / sizes.low) / Math.log(sizes.high / sizes.low)
      : (value - sizes.low) / (sizes.high - sizes.low);
  return {
    fault,
    range: sizes,
    value,
    moved,
    points: points?.of === fault ? points.rows : [],
    step: Math.min(STEPS, Math.max(0, Math.round(STEPS * share))),
    move(step) {
      if (!sizes) return;
      const to = step / STEPS;
      setSize({
        of: fault,
        value: geometric ? sizes.low * (sizes.high / sizes.low) ** to : sizes.low + (sizes.high - sizes.low) * to,
      });
    },
    reset: () => setSize(null),
  };
}
