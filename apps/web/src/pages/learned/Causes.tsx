import { faultLabel } from '@just-balance/core/catalogue';
import { Bars } from '../../charts/Bars.tsx';
import { between, JobsBehind, type L, pct, Rows } from './Rows.tsx';

export const SHOWN_CAUSES = 12;

export function Causes({ l }: { l: L }) {
  const shown = l.causes.filter((c) => c.count > 0).slice(0, SHOWN_CAUSES);
  const most = Math.max(0.1, ...shown.map((c) => c.high)) * 100;
  return (
    <section className="card grid gap-3 p-4" aria-labelledby="causes">
      <h2 id="causes" className="card-title">
        What it was, in the end
      </h2>
      <div className="grid items-start gap-4 xl:grid-cols-2">
        <Bars
          label="Share of each proven cause, with ours dashed"
          unit="share of jobs, % (line: 95 % interval; dashed: our own)"
          most={Math.ceil(most / 5) * 5}
          bars={shown.map((c) => ({
            label: faultLabel(c.fault),
            value: 100 * c.mean,
            low: 100 * c.low,
            high: 100 * c.high,
            against: 100 * c.ours,
          }))}
        />
        <Rows
          label="Proven causes"
          head={['Cause', 'Proven', 'Share (95 %)', 'Ours']}
          rows={shown.map((c) => [
            faultLabel(c.fault),
            <JobsBehind key="j" jobs={c.jobs} />,
            `${pct(c.mean)} (${between(c)})`,
            pct(c.ours),
          ])}
        />
      </div>
    </section>
  );
}
