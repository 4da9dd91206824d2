import { useEffect, useRef } from 'react';
import { usePreferences } from './preferences.tsx';

/** Where a key is typed, and never a shortcut. */
const TYPED = 'input, textarea, select, [contenteditable], dialog';
/** What takes space and arrows for itself. */
const PRESSED = 'button, a, summary, [role="tab"]';

/**
 * Single-key shortcuts: off while typing, and off altogether when the person wants (WCAG 2.1.4).
 *
 * @param pressed The keys are space or arrows: what takes those for itself keeps them.
 */
export function useSingleKeys(handlers: Record<string, () => void>, pressed = false): void {
  const { keys } = usePreferences();
  const latest = useRef(handlers);
  latest.current = handlers;
  useEffect(() => {
    if (!keys) return;
    const theirs = pressed ? `${TYPED}, ${PRESSED}` : TYPED;
    const onKey = (e: KeyboardEvent) => {
      const target = e.target as HTMLElement | null;
      if (e.ctrlKey || e.metaKey || e.altKey || (pressed && e.shiftKey) || target?.closest(theirs)) return;
      const handler = latest.current[e.key];
      if (!handler) return;
      e.preventDefault();
      handler();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [keys, pressed]);
}
