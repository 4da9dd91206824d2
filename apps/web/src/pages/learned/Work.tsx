import { CLEANABLE, dirtSource } from '@just-balance/core/procedures';
import { counted, midSentence } from '@just-balance/core/units';
import { Bars } from '../../charts/Bars.tsx';
import { SHOWN_CAUSES } from './Causes.tsx';
import { between, JobsBehind, type L, pct, Rows } from './Rows.tsx';

export function Work({ l }: { l: L }) {
  const cleaned = l.cleanings.map((c) => [
    CLEANABLE.find((x) => x.id === c.part)?.label ?? c.part,
    c.source ? midSentence(dirtSource(c.source)?.label ?? c.source) : 'source not found',
    <JobsBehind key="j" jobs={c.jobs}>{`${c.held} of ${c.held + c.failed} held`}</JobsBehind>,
    `${pct(c.mean)} (${between(c)})`,
  ]);
  const minutes = l.procedures.map((p) => [
    p.title,
    <JobsBehind key="j" jobs={p.jobs}>{`${p.n}`}</JobsBehind>,
    `${p.median.toFixed(0)} (${p.low.toFixed(0)} to ${p.high.toFixed(0)})`,
    String(p.advised),
  ]);
  return (
    <>
      <section className="card grid gap-3 p-4" aria-labelledby="first-time">
        <h2 id="first-time" className="card-title">
          Fixed the first time
        </h2>
        <p className="m-0 text-[1.1rem]">
          {l.firstTime ? (
            <>
              <strong className="figure font-bold">{pct(l.firstTime.mean)}</strong> ({between(l.firstTime)}):{' '}
              {l.firstTime.fixed} stayed away,{' '}
              <JobsBehind jobs={l.firstTime.jobs}>{`${l.firstTime.back} came back`}</JobsBehind>
              {l.firstTime.back === 0 && 'none came back'}.
            </>
          ) : (
            <span className="text-soft">No proven job has been handed over yet.</span>
          )}
        </p>
        {l.minutesToCause && (
          <p className="m-0">
            From the first reading to the repair:{' '}
            <strong className="figure">{l.minutesToCause.median.toFixed(0)} min</strong>, half of them between{' '}
            {l.minutesToCause.low.toFixed(0)} and {l.minutesToCause.high.toFixed(0)} (
            {counted(l.minutesToCause.n, 'job')}).
          </p>
        )}
      </section>
      {cleaned.length > 0 && (
        <section className="card grid gap-3 p-4" aria-labelledby="cleanings">
          <h2 id="cleanings" className="card-title">
            Did cleaning hold?
          </h2>
          <Rows label="Cleanings" head={['Part', 'Dirt from', 'Held', 'Chance (95 %)']} rows={cleaned} />
        </section>
      )}
      {minutes.length > 0 && (
        <section className="card grid gap-3 p-4" aria-labelledby="minutes">
          <h2 id="minutes" className="card-title">
            Minutes of procedures
          </h2>
          <Bars
            label="Median minutes of each procedure, with the advised ones dashed"
            unit="minutes (line: middle half; dashed: advised)"
            bars={l.procedures
              .slice(0, SHOWN_CAUSES)
              .map((p) => ({ label: p.title, value: p.median, low: p.low, high: p.high, against: p.advised }))}
          />
          <Rows label="Minutes" head={['Procedure', 'Done', 'Median (middle half)', 'Advised']} rows={minutes} />
        </section>
      )}
      <section className="card grid gap-3 p-4" aria-labelledby="breaks">
        <h2 id="breaks" className="card-title">
          What breaks drives
        </h2>
        {l.breaks.length > 0 ? (
          <Bars
            label="How many drives each condition broke"
            unit={`of ${counted(l.drives, 'drive')}`}
            bars={l.breaks.slice(0, SHOWN_CAUSES).map((b) => ({ label: b.what.replaceAll('-', ' '), value: b.count }))}
          />
        ) : (
          <p className="m-0 text-soft">No drive is on record.</p>
        )}
        <ul className="m-0 flex list-none flex-wrap gap-x-5 p-0">
          {l.breaks.map((b) => (
            <li key={b.what}>
              {b.what.replaceAll('-', ' ')}: <JobsBehind jobs={b.jobs} />
            </li>
          ))}
        </ul>
      </section>
    </>
  );
}
