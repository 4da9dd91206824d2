import { type ReactNode, useId } from 'react';

/**
 * Views of one thing. One tab stop; arrow keys, Home and End move among the tabs and show what they name
 * (WAI-ARIA Authoring Practices, tabs with automatic activation).
 */
export function Tabs<T extends string>({
  label,
  views,
  view,
  choose,
  busy,
  children,
}: {
  label: string;
  views: readonly T[];
  view: T;
  choose: (v: T) => void;
  busy?: boolean;
  children: ReactNode;
}) {
  const id = useId();
  const onKeyDown = (e: React.KeyboardEvent<HTMLDivElement>) => {
    const at = views.indexOf(view);
    const to = {
      ArrowLeft: (at - 1 + views.length) % views.length,
      ArrowRight: (at + 1) % views.length,
      Home: 0,
      End: views.length - 1,
    }[e.key];
    if (to === undefined) return;
    e.preventDefault();
    choose(views[to]!);
    e.currentTarget.querySelectorAll<HTMLElement>('[role="tab"]')[to]?.focus();
  };
  return (
    <>
      <div className="tabs tabs-border flex-wrap" role="tablist" aria-label={label} onKeyDown={onKeyDown}>
        {views.map((v, i) => (
          <button
            key={v}
            type="button"
            role="tab"
            id={`${id}-${i}`}
            aria-selected={v === view}
            aria-controls={`${id}-panel`}
            tabIndex={v === view ? 0 : -1}
            className={`tab ${v === view ? 'tab-active' : ''}`}
            onClick={() => choose(v)}
          >
            {v}
          </button>
        ))}
      </div>
      <section
        role="tabpanel"
        id={`${id}-panel`}
        aria-labelledby={`${id}-${views.indexOf(view)}`}
        aria-busy={busy}
        className="card p-4"
      >
        {children}
      </section>
    </>
  );
}
