import { OrderButtons } from '../../job/work/OrderButtons.tsx';
import { ORDER_LABELS } from '../../job/work/orders.ts';
import type { RunHandle } from './useRun.ts';

/** Parts that this work asks for, and what became of each; nothing where it asks for none. */
export function PartsOfRun({ handle: { state, busy, say } }: { handle: RunHandle }) {
  if (state.orders.length === 0) return null;
  return (
    <section className="card grid content-start gap-2 p-4" aria-label="Parts it asks for">
      <h2 className="card-title">Parts it asks for</h2>
      <ul className="m-0 grid list-none gap-2 p-0">
        {state.orders.map((o) => (
          <li
            key={o.part}
            className="flex flex-wrap items-center justify-between gap-2 border-b border-rule pb-2 last:border-b-0"
          >
            <span className={o.is === 'struck' ? 'text-soft line-through' : ''}>
              {o.part} <span className="text-soft">· {ORDER_LABELS[o.is]}</span>
            </span>
            <OrderButtons
              part={o.part}
              is={o.is}
              busy={busy}
              say={(is) => void say({ kind: 'order', part: o.part, is })}
            />
          </li>
        ))}
      </ul>
    </section>
  );
}
