import type { JobView } from '@just-balance/contract';
import { pointLabel } from '@just-balance/core/case';
import { faultLabel } from '@just-balance/core/catalogue';
import { headOf } from '@just-balance/core/diagnosis';
import { midSentence, numberText } from '@just-balance/core/units';
import { TrimChart } from '../../charts/TrimChart.tsx';
import { useLimits } from '../../data/limits.ts';
import type { Judged } from '../../job/judgement/diagnosis.worker.ts';
import { OutOfBand } from './OutOfBand.tsx';
import { SizeSlider } from './SizeSlider.tsx';
import type { Supposed } from './useSupposed.ts';

/** A line of a cause that is not the chosen one is drawn from this chance on. [house] */
const DRAWN = 0.1;

/** The trims at each airflow, always in sight, with the shape of the chosen cause at the size that is looked at. */
export function TrimCard({
  job,
  judgement: { diagnosis, lines, evidence },
  supposed,
}: {
  job: JobView;
  judgement: Judged;
  supposed: Supposed;
}) {
  const limits = useLimits();
  const { word, rest } = headOf(diagnosis, evidence.banks);
  const [arrow, colour] =
    diagnosis.mixture === 'lean' ? [' ▶', 'text-lean'] : diagnosis.mixture === 'rich' ? [' ◀', 'text-rich'] : ['', ''];
  const chosen = supposed.moved
    ? supposed.points
    : (lines.find((l) => l.fault === supposed.fault)?.points ?? supposed.points);
  const name = faultLabel(supposed.fault);
  return (
    <section className="card grid gap-2 p-4" aria-label="Trim at each airflow">
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h2 className="m-0 text-[1.35rem] leading-tight font-bold">
          <span className={colour}>
            {word}
            <span aria-hidden>{arrow}</span>
          </span>
          {rest}
        </h2>
        <span className="text-[0.93rem] text-soft">
          {evidence.banks === 2 && '● bank 1   ◇ bank 2 · '}dotted: {midSentence(name)} · band ±
          {numberText(limits.watchPct, 0)} %
        </span>
      </div>
      {evidence.points.some((p) => p.trims.length > 0) ? (
        <TrimChart
          caption={`Total trim at each airflow, with the shape predicted by: ${name}`}
          banks={evidence.banks}
          limits={limits}
          rows={evidence.points.map((p) => ({
            at: p.at,
            label: pointLabel(p.at),
            airflowGps: p.airflowGps,
            airflow: p.estimated ? 'estimated' : 'read',
            marks: p.trims.map((t) => ({
              bank: t.bank,
              totalPct: t.totalPct,
              sdPct: t.wanderedPct,
              pegged: t.pegged,
            })),
            predicted: chosen.find((s) => s.at === p.at)?.trimPct ?? null,
          }))}
          predictedLines={[
            ...(supposed.moved
              ? []
              : lines.filter((l) => l.fault !== supposed.fault && l.probability > DRAWN && l.fault !== 'balanced')
            ).map((l) => ({ points: l.points, strong: false })),
            { points: chosen, strong: true },
          ]}
        />
      ) : (
        <p className="m-0 py-6 text-soft">No closed-loop trims among the readings: nothing to draw.</p>
      )}
      <SizeSlider supposed={supposed} />
      <OutOfBand job={job} />
    </section>
  );
}
