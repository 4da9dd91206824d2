import type { OutgoingCheck } from '@just-balance/core/handOver';
import { Check, TriangleAlert } from 'lucide-react';

/** What could embarrass, beside the paper and never on it. */
export function Outgoing({ checks }: { checks: readonly OutgoingCheck[] }) {
  return (
    <section aria-label="Before it goes out" className="card grid gap-1 p-4 no-print">
      <h2 className="m-0 text-[1.1rem] font-bold">Before it goes out</h2>
      <ul className="m-0 grid list-none divide-y divide-rule p-0">
        {checks.map((c) => (
          <li key={c.id} className={`flex gap-3 py-2.5 ${c.fine ? '' : 'text-caution'}`}>
            {c.fine ? (
              <Check size={20} aria-label="fine" className="mt-[2px] shrink-0" />
            ) : (
              <TriangleAlert size={20} aria-label="look at this" className="mt-[2px] shrink-0" />
            )}
            <span className="min-w-0">
              <strong className="block font-[650]">{c.title}</strong>
              <span className={c.fine ? 'text-soft' : ''}>{c.why}</span>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
