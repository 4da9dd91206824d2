import { TEST_BY_ID } from '@just-balance/core/catalogue';
import { type LearnedChance } from '@just-balance/core/shop';
import { between, JobsBehind, type L, pct, Rows } from './Rows.tsx';

const CHANCE = (c: LearnedChance) => (c.yes + c.no === 0 ? '—' : `${pct(c.mean)} (${between(c)})`);

export function Tests({ l }: { l: L }) {
  return (
    <section className="card grid gap-3 p-4" aria-labelledby="tests">
      <h2 id="tests" className="card-title">
        How far tests were right
      </h2>
      <Rows
        label="Tests"
        head={['Test', 'Found what was there', 'chance (95 %)', 'ours', 'Alarmed for nothing', 'chance (95 %)', 'ours']}
        rows={[...l.tests]
          .sort((a, b) => b.hits.jobs.length + b.alarms.yes - a.hits.jobs.length - a.alarms.yes)
          .map((t) => [
            TEST_BY_ID.get(t.test)?.label ?? t.test,
            t.hits.jobs.length > 0 ? (
              <JobsBehind key="h" jobs={t.hits.jobs}>{`${t.hits.yes} of ${t.hits.yes + t.hits.no}`}</JobsBehind>
            ) : (
              '—'
            ),
            CHANCE(t.hits),
            t.hits.ours > 0 ? pct(t.hits.ours) : '—',
            t.alarms.yes > 0 ? (
              <JobsBehind key="a" jobs={t.alarms.jobs.slice(t.alarms.no)}>
                {`${t.alarms.yes} of ${t.alarms.yes + t.alarms.no}`}
              </JobsBehind>
            ) : (
              `0 of ${t.alarms.no}`
            ),
            CHANCE(t.alarms),
            t.alarms.ours > 0 ? pct(t.alarms.ours) : '—',
          ])}
      />
    </section>
  );
}
