import type { JobView } from '@just-balance/contract';
import { goesBackOn } from '@just-balance/core/procedures';
import { useState } from 'react';
import { OffList } from './OffAndOn.tsx';
import { ReasonBox } from './ReasonBox.tsx';
import type { RunHandle } from './useRun.ts';

/** What is off, last first, and a way to add what the procedure does not know. */
export function OffTheCar({ job, handle }: { job: JobView; handle: RunHandle }) {
  const [adding, setAdding] = useState(false);
  const items = goesBackOn(handle.state);
  return (
    <section className="card p-4" aria-label="Off the car">
      <h2 className="card-title text-[1.1rem] text-ink">Off the car{items.length > 0 ? `: ${items.length}` : ''}</h2>
      {items.length === 0 ? (
        <p className="m-0 mt-1 text-soft">Nothing.</p>
      ) : (
        <div className="mt-2">
          <OffList job={job} items={items} />
        </div>
      )}
      {handle.state.mishaps.length > 0 && (
        <ul className="mt-3 mb-0 grid list-none gap-2 p-0" aria-label="What broke or fell">
          {handle.state.mishaps.map((m) => (
            <li key={m.id} className="flex flex-wrap items-center gap-3">
              <span className="min-w-56 flex-1">
                <span className="font-[650]">{m.what}</span>, {m.where}
                {m.next && <span className="block text-soft">{m.next}</span>}
              </span>
              {m.out ? (
                <span className="text-soft">out</span>
              ) : (
                <>
                  <span className="badge badge-warning">still in there</span>
                  <button
                    type="button"
                    className="btn"
                    onClick={() => handle.say({ kind: 'mishap-out', mishap: m.id })}
                  >
                    It is out
                  </button>
                </>
              )}
            </li>
          ))}
        </ul>
      )}
      <button type="button" className="btn btn-sm mt-3 justify-self-start" onClick={() => setAdding(!adding)}>
        Something else came off
      </button>
      {adding && (
        <div className="mt-3">
          <ReasonBox
            label="What came off: part, fasteners, where they are kept"
            button="Write it down"
            keep={(item) => {
              setAdding(false);
              void handle.say({ kind: 'took-off', taken: { item: item.slice(0, 120) } });
            }}
          />
        </div>
      )}
    </section>
  );
}
