import { ROUTES, type VehicleVisit } from '@just-balance/contract';
import { pointLabel } from '@just-balance/core/case';
import { faultLabel } from '@just-balance/core/catalogue';
import { counted, midSentence, signed } from '@just-balance/core/units';
import { format } from 'date-fns';
import { useMemo } from 'react';
import { Link, useParams } from 'react-router';
import { TrimChart } from '../../charts/TrimChart.tsx';
import { useLimits } from '../../data/limits.ts';
import { useRead } from '../../data/reads.ts';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { standsOrParkedAt } from '../../job/frame/standsAt.ts';
import { cardFacts } from '../../job/vehicle/cardFacts.ts';
import { NextStep } from '../../ui/NextStep.tsx';
import { useShown } from '../../ui/preferences.tsx';
import { Erase } from './Erase.tsx';

/** Causes that this vehicle has had more than once, or that came back. */
function returning(visits: readonly VehicleVisit[]): { fault: string; visits: VehicleVisit[] }[] {
  const by = new Map<string, VehicleVisit[]>();
  for (const v of visits) for (const f of v.causes) by.set(f, [...(by.get(f) ?? []), v]);
  return [...by].filter(([, list]) => list.length > 1).map(([fault, list]) => ({ fault, visits: list }));
}

/** One vehicle over the years: its visits, its figures on one trim chart, what keeps coming back. */
export function VehiclePage() {
  const { vehicleId } = useParams();
  const { data, error } = useRead(vehicleId ? ROUTES.vehicleHistory(vehicleId) : null);
  const show = useShown();
  const v = data?.vehicle;
  const back = useMemo(() => returning(data?.visits ?? []), [data]);
  const last = data?.visits.at(-1);
  return (
    <Frame
      title={v ? `${v.label}${v.note ? `, ${v.note}` : ''}` : 'Vehicle'}
      subtitle={[v?.plate, v?.vin, v?.year].filter(Boolean).join(' · ')}
      side={<HouseNav current="logbook" />}
    >
      {error && <NextStep tone="trouble" title="This vehicle cannot be shown" why={String(error.message)} />}
      {data && v && (
        <>
          <NextStep
            title={
              back.length > 0
                ? `${faultLabel(back[0]!.fault)}: ${counted(back[0]!.visits.length, 'visit')}`
                : counted(data.visits.length, 'visit')
            }
            why={
              back.length > 0
                ? 'The same cause more than once: was its source found?'
                : last
                  ? `Last here on ${format(new Date(last.at), 'd MMMM yyyy')}.`
                  : 'It has not been here yet.'
            }
          >
            {last && (
              <Link className="btn btn-lg" to={`/jobs/${last.job}`}>
                Open the last job
              </Link>
            )}
            <Link className="btn btn-lg" to={`/logbook?vehicle=${v.id}`}>
              In the logbook
            </Link>
          </NextStep>
          <Figures visits={data.visits} banks={v.banks ?? 1} />
          <section className="card p-4">
            <h2 className="card-title">Visits</h2>
            <ol className="m-0 mt-2 grid list-none gap-3 p-0">
              {[...data.visits].reverse().map((visit) => (
                <li key={visit.job} className="grid gap-1 border-b border-rule pb-3 last:border-b-0">
                  <div className="flex flex-wrap items-center gap-3">
                    <Link to={`/jobs/${visit.job}`} className="font-[650]">
                      {format(new Date(visit.at), 'd MMMM yyyy')}
                    </Link>
                    {visit.causes.map((c) => (
                      <span key={c}>{faultLabel(c)}</span>
                    ))}
                    {visit.verdict && (
                      <span className={`badge ${visit.proven ? 'badge-success' : 'badge-outline'}`}>
                        {visit.verdict}
                      </span>
                    )}
                    {visit.cameBackOf && <span className="badge badge-warning">came back</span>}
                    <span className="text-soft">{standsOrParkedAt(visit.status, visit.station)}</span>
                  </div>
                  {visit.repairs.map((r) => (
                    <span key={r}>{r}</span>
                  ))}
                </li>
              ))}
            </ol>
          </section>
          <section className="card p-4">
            <h2 className="card-title">Card</h2>
            <dl className="m-0 mt-2 grid gap-x-4 gap-y-1 sm:grid-cols-[170px_1fr]">
              {cardFacts(v, show).map(([k, text]) => (
                <div key={k} className="contents">
                  <dt className="text-soft">{k}</dt>
                  <dd className="m-0">{text}</dd>
                </div>
              ))}
            </dl>
          </section>
          <Erase vehicleId={v.id} />
        </>
      )}
    </Frame>
  );
}

/** The newest reading of each point solid, those of earlier visits grey; the figures in a table under it. */
function Figures({ visits, banks }: { visits: readonly VehicleVisit[]; banks: 1 | 2 }) {
  const limits = useLimits();
  const taken = visits
    .flatMap((v) => v.points.map((p) => ({ ...p, when: v.at, job: v.job })))
    .filter((p) => p.totals.length > 0);
  const points = [...new Set(taken.map((t) => t.at))];
  if (taken.length === 0) return null;
  const marks = (totals: VehicleVisit['points'][number]['totals']) => totals.map((t) => ({ ...t, sdPct: 0 }));
  return (
    <section className="card grid gap-3 p-4">
      <h2 className="card-title">Its figures over time</h2>
      <TrimChart
        caption="Total trim of every visit; the newest solid"
        banks={banks}
        limits={limits}
        rows={points.map((at, i) => {
          const mine = taken.filter((t) => t.at === at);
          return {
            at,
            label: pointLabel(at as Parameters<typeof pointLabel>[0]),
            airflowGps: i,
            airflow: 'none' as const,
            marks: marks(mine.at(-1)!.totals),
            before: mine.slice(0, -1).flatMap((t) => marks(t.totals)),
          };
        })}
      />
      <details>
        <summary className="w-fit cursor-pointer py-2 underline">The figures</summary>
        <ul className="m-0 list-none p-0">
          {[...taken].reverse().map((t, i) => (
            <li key={i}>
              {format(new Date(t.when), 'd MMM yyyy')},{' '}
              {midSentence(pointLabel(t.at as Parameters<typeof pointLabel>[0]))}, {t.phase}:{' '}
              <span className="figure">{t.totals.map((x) => signed(x.totalPct)).join(' / ')} %</span>
            </li>
          ))}
        </ul>
      </details>
    </section>
  );
}
