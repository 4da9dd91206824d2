import type { ReactNode } from 'react';

/** Something that can wait: its name, and under it the rest once it is asked for. */
export function Fold({
  title,
  open,
  onOpen,
  className = '',
  children,
}: {
  title: ReactNode;
  open?: boolean;
  /** Once it is asked for: what is in it can be fetched then. */
  onOpen?: () => void;
  className?: string;
  children: ReactNode;
}) {
  return (
    <details
      className={`collapse-arrow collapse overflow-visible ${className}`}
      open={open}
      onToggle={(e) => e.currentTarget.open && onOpen?.()}
    >
      <summary className="collapse-title flex min-h-12 w-fit cursor-pointer items-center gap-2 py-0 pr-10 pl-0 font-[650]">
        {title}
      </summary>
      <div className="collapse-content min-w-0 px-0 pb-1">{children}</div>
    </details>
  );
}
