import { isParts, type Parts } from '@just-balance/core/units';
import type { ReactNode } from 'react';
import { useSay } from '../../ui/preferences.tsx';

/** Longer sentences are set smaller, and never cut. */
const SIZES: readonly [number, string][] = [
  [62, 'text-[1.75rem] sm:text-[2.6rem]'],
  [110, 'text-[1.55rem] sm:text-[2.1rem]'],
  [Number.POSITIVE_INFINITY, 'text-[1.4rem] sm:text-[1.75rem]'],
];

/** What is done at a step of a kind, over its sentence. */
export const KIND_HEADS: Readonly<Record<string, string>> = {
  do: 'Do',
  look: 'Look',
  measure: 'Measure',
  photo: 'Picture',
  timer: 'Wait',
  'take-off': 'Comes off',
  refit: 'Goes back on',
  torque: 'Tighten',
  decide: 'Decide',
  read: 'Read',
};

/** The sentence of a step, to be read from where the hands are. */
export function StepSentence({ kind, text, why }: { kind?: string; text: ReactNode | Parts; why?: ReactNode | Parts }) {
  const say = useSay();
  const said = (x: ReactNode | Parts) => (isParts(x) ? say(x) : x);
  const words = said(text);
  const size = SIZES.find(([most]) => String(words).length <= most)![1];
  return (
    <div>
      {kind && <p className="m-0 mb-1 text-[1.15rem] font-bold text-act">{kind}</p>}
      <h1 className={`m-0 leading-[1.15] font-bold text-balance ${size}`} aria-live="polite">
        {words}
      </h1>
      {why && <p className="m-0 mt-2 text-[1.15rem] text-soft">{said(why)}</p>}
    </div>
  );
}
