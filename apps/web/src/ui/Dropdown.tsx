import { type ReactNode, useEffect, useRef } from 'react';

/** A menu behind a button: opens by press or key, closes on Escape (focus back on the button), outside press, and choice. */
export function Dropdown({
  label,
  button,
  side = 'end',
  children,
}: {
  label: ReactNode;
  button: string;
  /** Below and to the left of the button’s end, or above it. */
  side?: 'end' | 'top';
  children: ReactNode;
}) {
  const box = useRef<HTMLDetailsElement>(null);
  useEffect(() => {
    const close = (back: boolean) => {
      const d = box.current;
      if (!d?.open) return;
      d.open = false;
      if (back) d.querySelector('summary')?.focus();
    };
    const onKey = (e: KeyboardEvent) => {
      if (e.key === 'Escape') close(true);
    };
    const onPress = (e: PointerEvent) => {
      if (!box.current?.contains(e.target as Node)) close(false);
    };
    window.addEventListener('keydown', onKey);
    window.addEventListener('pointerdown', onPress);
    return () => {
      window.removeEventListener('keydown', onKey);
      window.removeEventListener('pointerdown', onPress);
    };
  }, []);
  return (
    <details ref={box} className={`dropdown ${side === 'top' ? 'dropdown-top' : 'dropdown-end'}`}>
      <summary className={button}>{label}</summary>
      {children}
    </details>
  );
}
