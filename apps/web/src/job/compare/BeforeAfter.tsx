import type { JobView } from '@just-balance/contract';
import { pointLabel } from '@just-balance/core/case';
import { SEA_LEVEL_KPA } from '@just-balance/core/gas';
import {
  bankTotals,
  changeWords,
  compareFigures,
  compareTrims,
  digitsOf,
  effectOf,
  type FigureChange,
  insideLimit,
  leakTodayWords,
  type MatchedCondition,
  matchConditions,
  STATES,
} from '@just-balance/core/proof';
import { numberText, signed } from '@just-balance/core/units';
import { Check } from 'lucide-react';
import { TrimChart } from '../../charts/TrimChart.tsx';
import { useLimits } from '../../data/limits.ts';
import { useShown } from '../../ui/preferences.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { Table } from '../../ui/Table.tsx';
import { caseOf, newestReadings } from '../judgement/figures.ts';

const VERDICT = {
  better: 'badge-success',
  worse: 'badge-warning',
  'no change': 'badge-outline border-dashed',
} as const;

/** Before and after on one trim chart, the change with its uncertainty, and whether the conditions matched. */
export function BeforeAfter({ job }: { job: JobView }) {
  const limits = useLimits();
  const before = newestReadings(job, 'before');
  const after = newestReadings(job, 'after');
  const changes = compareTrims(
    before.flatMap((r) => bankTotals(r.reading)),
    after.flatMap((r) => bankTotals(r.reading)),
    limits.watchPct,
  );
  const matches = after.flatMap((a) => {
    const b = before.find((x) => x.reading.at === a.reading.at);
    return b ? matchConditions(b.reading, a.reading) : [];
  });
  const points = [...new Set(matches.map((m) => m.at))];
  const figures = compareFigures(
    before.map((r) => r.reading),
    after.map((r) => r.reading),
    caseOf(job).vehicle.limits,
  );
  const baroKPa = job.ambient.baroKPa ?? SEA_LEVEL_KPA;
  const effects = [
    ...new Set([
      ...matches.flatMap((m) => {
        const effect = effectOf(m);
        return effect ? [`${m.quantity}: ${effect}.`] : [];
      }),
      ...after.flatMap((a) => {
        const b = before.find((x) => x.reading.at === a.reading.at);
        const words =
          b && matches.some((m) => m.at === a.reading.at && !m.matched)
            ? leakTodayWords(b.reading, a.reading, baroKPa)
            : null;
        return words ? [`${pointLabel(a.reading.at)}: ${words}`] : [];
      }),
    ]),
  ];
  const banks = job.vehicle.banks ?? 1;
  const rows = before.flatMap((b) => {
    const marks = bankTotals(b.reading);
    if (marks.length === 0) return [];
    const a = after.find((x) => x.reading.at === b.reading.at);
    const now = a ? bankTotals(a.reading) : [];
    const drawn = (list: typeof marks) => list.map((m) => ({ bank: m.bank, totalPct: m.totalPct, sdPct: m.sd }));
    return [
      {
        at: b.reading.at,
        label: pointLabel(b.reading.at),
        airflowGps: b.reading.mafGps ?? b.reading.rpm ?? 0,
        airflow: b.reading.mafGps === undefined ? ('none' as const) : ('read' as const),
        marks: drawn(now),
        before: drawn(marks),
      },
    ];
  });
  return (
    <>
      <div className={`grid items-start gap-3 ${points.length > 2 ? '' : 'lg:grid-cols-[minmax(0,1fr)_340px]'}`}>
        <section className="card p-4">
          <div className="flex flex-wrap items-baseline justify-between gap-x-4">
            <h2 className="card-title">Before and after, one picture</h2>
            <span className="text-[0.93rem] text-soft">
              grey before · solid after{banks === 2 ? ' · ● bank 1 ◇ bank 2' : ''}
            </span>
          </div>
          <TrimChart caption="Total trim before and after the repair" banks={banks} limits={limits} rows={rows} />
        </section>
        <section className="card p-4">
          <div className="flex items-center justify-between">
            <h2 className="card-title">Matched?</h2>
            {matches.length > 0 && (
              <span className={`badge ${matches.every((m) => m.matched) ? 'badge-success' : 'badge-warning'}`}>
                {matches.every((m) => m.matched) ? '✓ same conditions' : 'not the same'}
              </span>
            )}
          </div>
          <table className="table mt-2 [&_td]:px-1.5 [&_th]:px-1.5">
            <thead>
              <tr>
                <th scope="col">Reading</th>
                {points.map((p) => (
                  <th key={p} scope="col" className="right">
                    {pointLabel(p)}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {[...new Set(matches.map((m) => m.quantity))].map((q) => (
                <tr key={q}>
                  <td>
                    {q}
                    {matches.every((m) => m.quantity !== q || !(m.unit in STATES)) && (
                      <>
                        , <UnitOf unit={matches.find((m) => m.quantity === q)!.unit} />
                      </>
                    )}
                  </td>
                  {points.map((p) => (
                    <MatchCell key={p} match={matches.find((m) => m.quantity === q && m.at === p)} />
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
          {matches.length === 0 && <p className="m-0 mt-2 text-soft">The after readings are compared here.</p>}
          {effects.length > 0 && (
            <ul className="m-0 mt-3 list-none p-0 text-[0.93rem] text-soft">
              {effects.map((e) => (
                <li key={e}>{e}</li>
              ))}
            </ul>
          )}
          {job.entries.every((e) => e.kind !== 'reset' || e.data.refused !== null) && (
            <p className="m-0 mt-3 text-[0.93rem] text-soft">Nothing cleared: readiness survives.</p>
          )}
        </section>
      </div>
      {changes.length > 0 && (
        <Scrolls label="Total trim before and after">
          <h2 className="card-title">Total trim, %</h2>
          <Table
            rows={changes}
            keyOf={(c) => `${c.at}${c.bank}`}
            columns={[
              { head: 'Point', cell: (c) => pointLabel(c.at) },
              ...(banks === 2
                ? [{ head: 'Bank', cell: (c: (typeof changes)[number]) => (c.bank === 1 ? '● 1' : '◇ 2') }]
                : []),
              { head: 'Before', figure: true, cell: (c) => signed(c.beforePct) },
              { head: 'After', figure: true, cellClass: 'font-bold', cell: (c) => signed(c.afterPct) },
              {
                head: 'Change',
                figure: true,
                cell: (c) => `${signed(c.changePct)} ± ${numberText(c.uncertaintyPct, 1)}`,
              },
              {
                head: 'Verdict',
                unseen: true,
                cell: (c) => (
                  <span className={`badge ${VERDICT[c.verdict]}`}>
                    {c.verdict === 'better' && <Check size={14} aria-hidden />} {changeWords(c)}
                    {c.inBand ? ', in band' : ''}
                  </span>
                ),
              },
            ]}
          />
        </Scrolls>
      )}
      {figures.length > 0 && <Figures figures={figures} banks={job.vehicle.banks ?? 1} />}
    </>
  );
}

/** Airflow, pressure, throttle and sensors beside the trims, each with what two readings differ by anyway. */
function Figures({ figures, banks }: { figures: readonly FigureChange[]; banks: 1 | 2 }) {
  const show = useShown();
  const text = (v: number, unit: string, digits = 1) => {
    const s = show(v, unit, digits);
    return numberText(s.value, s.digits);
  };
  return (
    <Scrolls label="Other figures before and after">
      <h2 className="card-title">Other figures</h2>
      <Table
        rows={figures}
        keyOf={(f) => `${f.quantity} ${f.bank} ${f.at} ${f.unit}`}
        columns={[
          {
            head: 'Figure',
            cell: (f) => (
              <>
                {f.quantity}
                {f.bank !== null && banks === 2 && `, bank ${f.bank}`}
                {f.unit && (
                  <>
                    , <UnitOf unit={f.unit} />
                  </>
                )}
              </>
            ),
          },
          { head: 'Point', cell: (f) => pointLabel(f.at) },
          { head: 'Before', figure: true, cell: (f) => text(f.before, f.unit, digitsOf(f)) },
          { head: 'After', figure: true, cellClass: 'font-bold', cell: (f) => text(f.after, f.unit, digitsOf(f)) },
          {
            head: 'Verdict',
            unseen: true,
            cell: (f) => (
              <span className={`badge ${insideLimit(f.after, f.limit) ? 'badge-outline' : 'badge-warning'}`}>
                {f.changed ? 'changed' : `smaller than ±${text(f.uncertainty, f.unit, digitsOf(f))}`}
                {f.limit !== null &&
                  `, ${limitWords(f.limit, insideLimit(f.after, f.limit))} ${text(f.limit.value, f.unit, digitsOf(f))}`}
              </span>
            ),
          },
        ]}
      />
    </Scrolls>
  );
}

/** Where a figure lies against its limit. */
function limitWords({ side }: { side: 'most' | 'least' }, inside: boolean): string {
  if (side === 'most') return inside ? 'within' : 'above';
  return inside ? 'at least' : 'below';
}

function UnitOf({ unit }: { unit: string }) {
  return <span className="text-soft">{useShown()(0, unit, 0).unit}</span>;
}

function MatchCell({ match }: { match: MatchedCondition | undefined }) {
  const show = useShown();
  if (!match) return <td className="right">—</td>;
  const words = STATES[match.unit];
  const text = (v: number) => words?.[v === 1 ? 0 : 1] ?? numberText(show(v, match.unit, 0).value, 0);
  return (
    <td className="right whitespace-nowrap">
      <span className="figure">{text(match.before)}</span> →{' '}
      <span className="figure font-bold">{text(match.after)}</span>
      {!match.matched && <span className="badge badge-warning mt-1 ml-auto flex">differs</span>}
    </td>
  );
}
