import { useEffect, useRef } from 'react';
import { useLocation } from 'react-router';

let last: string | null = null;

/** Where one has arrived: the page's title says it, and focus and the view start at its top. Not on the first load. */
export function useArrival(title: string): React.RefObject<HTMLElement | null> {
  const main = useRef<HTMLElement>(null);
  const { pathname } = useLocation();
  useEffect(() => {
    document.title = `${title} · Just Balance`;
  }, [title]);
  useEffect(() => {
    if (last !== null && last !== pathname) {
      window.scrollTo(0, 0);
      // A dialog or a field that took the focus by itself keeps it.
      if (!document.activeElement?.closest('dialog, main')) main.current?.focus({ preventScroll: true });
    }
    last = pathname;
  }, [pathname]);
  return main;
}
