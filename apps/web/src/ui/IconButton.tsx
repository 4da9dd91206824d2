import type { ReactNode } from 'react';

/** A button that is only a picture: its name is its label, and stands beside it under a pointer or the focus. */
export function IconButton({
  name,
  press,
  className = 'btn px-3',
  pressed,
  children,
}: {
  name: string;
  press: () => void;
  className?: string;
  pressed?: boolean;
  children: ReactNode;
}) {
  return (
    <span className="tooltip tooltip-bottom" data-tip={name}>
      <button type="button" className={className} aria-label={name} aria-pressed={pressed} onClick={press}>
        {children}
      </button>
    </span>
  );
}
