import { useEffect } from 'react';
import { usePreferences } from './preferences.tsx';

/** Single-key shortcuts: off while typing, and off altogether when the person wants (WCAG 2.1.4). */
export function useSingleKeys(handlers: Record<string, () => void>): void {
  const { keys } = usePreferences();
  useEffect(() => {
    if (!keys) return;
    const onKey = (e: KeyboardEvent) => {
      const target = e.target as HTMLElement | null;
      if (e.ctrlKey || e.metaKey || e.altKey || target?.closest('input, textarea, select, [contenteditable], dialog'))
        return;
      const handler = handlers[e.key];
      if (handler) {
        e.preventDefault();
        handler();
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [keys, handlers]);
}
