import type { JobView } from '@just-balance/contract';
import {
  ACCESS,
  fitsEngine,
  HAZARDS,
  hasTool,
  TEST_BY_ID,
  TEST_GROUPS,
  type TestRow,
} from '@just-balance/core/catalogue';
import { type Diagnosis, engineOf, type Settings } from '@just-balance/core/diagnosis';
import { wordsOf } from '@just-balance/core/units';
import { useEffect, useRef, useState } from 'react';
import { finds } from '../../ui/Combobox.tsx';
import { gainInWords } from '../../ui/gain.ts';

/** A danger that the shop has ruled out is not offered at all. */
const ruledOut = (row: TestRow, settings: Settings): boolean =>
  row.hazard !== undefined && settings.hazards !== undefined && !settings.hazards.includes(row.hazard);

/** Everything a test needs, as one line. */
function needs(row: TestRow): string {
  return [row.access && ACCESS[row.access], row.hazard && HAZARDS[row.hazard].toLowerCase()]
    .filter(Boolean)
    .join(' · ');
}

/** All tests for this engine, searchable and grouped, with minutes, what they need and what they would tell here. */
export function TestCatalogue({
  job,
  next,
  settings,
  choose,
  opened = false,
}: {
  job: JobView;
  next: Diagnosis['nextTests'];
  settings: Settings;
  choose: (test: string) => void;
  /** Asked for by a press, not there of itself. */
  opened?: boolean;
}) {
  const [search, setSearch] = useState('');
  const head = useRef<HTMLHeadingElement>(null);
  // Opened from the foot of the page: it is brought into sight, and is what is read next.
  useEffect(() => {
    if (opened) head.current?.focus();
  }, [opened]);
  const done = new Set(job.tests.filter((t) => !t.undone).map((t) => t.test.id));
  const worth = new Map(next.map((t) => [t.test, t]));
  const best = next[0]?.test;
  const engine = engineOf(
    job.vehicle,
    job.readings.map((r) => r.reading),
    job.tests.filter((t) => !t.undone).map((t) => t.test),
  );
  const gainOf = (row: TestRow) => worth.get(row.id)?.informationBits ?? 0;
  const groups = TEST_GROUPS.map((g) => ({
    label: g.label,
    rows: g.tests
      .map((id) => TEST_BY_ID.get(id)!)
      .filter(
        (row) =>
          !row.reading &&
          !ruledOut(row, settings) &&
          fitsEngine(row, engine) &&
          finds(`${row.label} ${g.label} ${wordsOf(row.how, 'own')} ${row.id.replaceAll('-', ' ')}`, search.trim()),
      )
      // What would tell most first, what would tell nothing last; otherwise as the catalogue has them.
      .sort((a, b) => gainOf(b) - gainOf(a)),
  }))
    .filter((g) => g.rows.length > 0)
    .sort((a, b) => gainOf(b.rows[0]!) - gainOf(a.rows[0]!));
  return (
    <section className="card grid gap-3 p-4" aria-label="All tests">
      <div className="flex flex-wrap items-end justify-between gap-3">
        <h2 ref={head} tabIndex={-1} className="card-title">
          All tests for this engine
        </h2>
        <label className="field w-72">
          Find a test
          <input className="input" type="search" value={search} onChange={(e) => setSearch(e.target.value)} />
        </label>
      </div>
      {groups.length === 0 && <p className="m-0 text-soft">No test of this engine is called so.</p>}
      {groups.map((g) => (
        <div key={g.label}>
          <h3 className="m-0 text-[1rem] font-[650]">{g.label}</h3>
          <ul className="m-0 mt-1 grid list-none gap-2 p-0 md:grid-cols-2">
            {g.rows.map((row) => {
              const offer = worth.get(row.id);
              const possible = hasTool(row, settings.tools);
              return (
                <li key={row.id}>
                  <button
                    type="button"
                    className={`btn h-auto min-h-14 w-full flex-nowrap justify-between gap-3 py-2 text-left font-normal ${offer ? '' : 'btn-ghost border border-rule'}`}
                    onClick={() => choose(row.id)}
                  >
                    <span className="grid">
                      <span className="font-[650]">
                        {row.label}
                        {done.has(row.id) ? ' ✓' : ''}
                      </span>
                      {needs(row) && <span className="text-[0.87rem] text-soft">{needs(row)}</span>}
                    </span>
                    <span className="grid text-right text-[0.87rem] text-soft">
                      <span className="figure whitespace-nowrap">{offer?.minutes ?? row.minutes} min</span>
                      <span>
                        {!possible
                          ? 'no tool here'
                          : done.has(row.id) && !offer
                            ? 'done'
                            : row.id === best
                              ? 'gains most for its minutes'
                              : offer
                                ? gainInWords(offer.informationBits)
                                : next.length > 0
                                  ? 'tells little here'
                                  : ''}
                      </span>
                    </span>
                  </button>
                </li>
              );
            })}
          </ul>
        </div>
      ))}
    </section>
  );
}
