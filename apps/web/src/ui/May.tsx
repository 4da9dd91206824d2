import type { ButtonHTMLAttributes, ReactNode } from 'react';
import { useMay } from '../data/session.tsx';

/** What an account may do, as the server's table of roles has it. */
export type Needs = 'work' | 'judge' | 'drive' | 'lead';

/** A button of something not everybody may do: whoever may not is shown none. */
export function Press({
  needs = 'work',
  ...button
}: ButtonHTMLAttributes<HTMLButtonElement> & { needs?: Needs; 'data-tip'?: string }) {
  return useMay(needs) ? <button type="button" {...button} /> : null;
}

/** What only somebody is shown who may do it; for the others words in its place, where some are needed. */
export function May({
  needs = 'work',
  otherwise = null,
  children,
}: {
  needs?: Needs;
  otherwise?: ReactNode;
  children: ReactNode;
}) {
  return useMay(needs) ? children : otherwise;
}

/** Fields that say what stands, open to change by whoever may: the others read them. */
export function MayChange({ needs = 'work', children }: { needs?: Needs; children: ReactNode }) {
  return (
    <fieldset className="contents" disabled={!useMay(needs)}>
      {children}
    </fieldset>
  );
}
