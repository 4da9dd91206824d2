import type { ReactNode } from 'react';

/** A sheet whose table may be wider than a phone: it scrolls by itself, by keyboard too. */
export function Scrolls({ label, children }: { label: string; children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard
    <section className="card overflow-x-auto p-4" aria-label={label} tabIndex={0}>
      {children}
    </section>
  );
}
