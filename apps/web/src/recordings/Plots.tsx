import type { JobView } from '@just-balance/contract';
import { airflowOver, VE_MODEL_ERROR } from '@just-balance/core/expected';
import { type Series, thinned } from '@just-balance/core/series';
import { totalsOver, trimMap } from '@just-balance/core/trims';
import { numberText, signed } from '@just-balance/core/units';
import type { AnnotationOptions } from 'chartjs-plugin-annotation';
import { useMemo } from 'react';
import { Plot, useChartTheme } from '../charts/Plot.tsx';
import type { Range } from '../charts/range.ts';
import { useLimits } from '../data/limits.ts';
import { engineFacts } from '../job/vehicle/engineFacts.ts';
import { leaning } from '../ui/figures.ts';
import { useShown } from '../ui/preferences.tsx';

/** Points a scatter draws about at most. */
const MOST_POINTS = 1500;

function within(s: Series, r: Range): Series {
  const cut = <C extends { time: Float64Array; value: Float64Array | readonly string[] }>(c: C): C => {
    let a = 0;
    while (a < c.time.length && c.time[a]! < r.from) a++;
    let b = c.time.length;
    while (b > a && c.time[b - 1]! > r.to) b--;
    // The value that stood when the window began still holds in it.
    a = Math.max(0, a - 1);
    return { ...c, time: c.time.subarray(a, b), value: c.value.slice(a, b) };
  };
  return { ...s, channels: s.channels.map((c) => cut(c)), texts: s.texts?.map((c) => cut(c)) };
}

interface Dots {
  label: string;
  points: { x: number; y: number }[];
  shape: 'circle' | 'rectRot';
  hollow: boolean;
}

function Scatter({
  dots,
  xTitle,
  yTitle,
  lines = [],
  annotations,
  label,
}: {
  dots: Dots[];
  xTitle: string;
  yTitle: string;
  lines?: { points: { x: number; y: number }[]; dashed: boolean }[];
  annotations?: AnnotationOptions[];
  label: string;
}) {
  const { colour, figures, title } = useChartTheme();
  const data = useMemo(
    () => ({
      datasets: [
        ...dots.map((d) => ({
          label: d.label,
          data: d.points,
          pointStyle: d.shape,
          pointRadius: d.hollow ? 4 : 2.5,
          borderWidth: d.hollow ? 1.5 : 0,
          borderColor: colour.ink,
          backgroundColor: d.hollow ? 'transparent' : `${colour.ink}99`,
        })),
        ...lines.map((l, i) => ({
          label: `line ${i}`,
          data: l.points,
          showLine: true,
          pointRadius: 0,
          borderWidth: 1.5,
          borderColor: colour.bandEdge,
          borderDash: l.dashed ? [5, 4] : [],
        })),
      ],
    }),
    [dots, lines, colour],
  );
  const options = useMemo(() => {
    const axis = (text: string) => ({
      type: 'linear' as const,
      ticks: figures(12),
      grid: { color: colour.rule },
      title: title(text),
    });
    return { scales: { x: axis(xTitle), y: axis(yTitle) } };
  }, [xTitle, yTitle, colour, figures, title]);
  return (
    <div className="h-[430px]">
      <Plot type="scatter" data={data} options={options} annotations={annotations} label={label} />
    </div>
  );
}

interface PlotProps {
  job: JobView;
  series: Series;
  range: Range;
}

/** Every closed-loop moment: displayed total against airflow, per bank. */
export function TrimAgainstAirflow({ job, series, range }: PlotProps) {
  const limits = useLimits();
  const show = useShown();
  const cut = useMemo(() => within(series, range), [series, range]);
  const beside = series.channels.some((c) => c.id === 'maf') ? 'maf' : 'map';
  const unit = beside === 'maf' ? 'g/s' : 'kPa';
  const dots = useMemo((): Dots[] => {
    const banks = [1, 2] as const;
    return banks.flatMap((bank) => {
      const all = totalsOver(cut, bank, [beside]);
      const points = thinned(
        all.map((m) => ({ x: show(m.beside[0]!, unit, 2).value, y: m.total })),
        MOST_POINTS,
      );
      return points.length === 0
        ? []
        : [
            {
              label: `bank ${bank}`,
              points,
              shape: bank === 1 ? ('circle' as const) : ('rectRot' as const),
              hollow: bank === 2,
            },
          ];
    });
  }, [cut, beside, unit, show]);
  const { band } = useChartTheme();
  const annotations = useMemo(() => [band(-limits.watchPct, limits.watchPct)], [band, limits.watchPct]);
  if (dots.length === 0) return <Nothing what="closed-loop trims beside airflow or manifold pressure" />;
  return (
    <>
      <Scatter
        dots={dots}
        annotations={annotations}
        xTitle={`${beside === 'maf' ? 'Airflow' : 'Manifold pressure'}, ${show(0, unit, 0).unit}`}
        yTitle="Total trim, %"
        label={`Total trim against ${beside === 'maf' ? 'airflow' : 'manifold pressure'}`}
      />
      <p className="mb-0 text-soft">
        {job.vehicle.banks === 2 && 'Bank 1 ●, bank 2 ◇. '}Closed loop only. The band is ±{limits.watchPct} %. A leak
        leans at small airflow and closes upward; delivery opens upward.
      </p>
    </>
  );
}

/** Measured airflow against what speed, pressure and temperature make of it. */
export function AirflowAgainstExpected({ job, series, range }: PlotProps) {
  const show = useShown();
  const facts = useMemo(() => engineFacts(job), [job]);
  const moments = useMemo(() => airflowOver(within(series, range), facts), [series, range, facts]);
  const to = (v: number) => show(v, 'g/s', 2).value;
  const most = moments.reduce((a, m) => Math.max(a, m.expectedGps), 1);
  const dots = useMemo(
    (): Dots[] => [
      {
        label: 'measured',
        points: thinned(
          moments.map((m) => ({ x: to(m.expectedGps), y: to(m.measuredGps) })),
          MOST_POINTS,
        ),
        shape: 'circle',
        hollow: false,
      },
    ],
    [moments, show],
  );
  const lines = useMemo(
    () =>
      [1, 1 - VE_MODEL_ERROR, 1 + VE_MODEL_ERROR].map((k) => ({
        points: [
          { x: 0, y: 0 },
          { x: to(most), y: to(k * most) },
        ],
        dashed: k !== 1,
      })),
    [most, show],
  );
  if (moments.length === 0) return <Nothing what="airflow together with engine speed and manifold pressure" />;
  const share = moments.reduce((s, m) => s + m.measuredGps / m.expectedGps, 0) / moments.length;
  return (
    <>
      <Scatter
        dots={dots}
        lines={lines}
        xTitle={`Expected airflow, ${show(0, 'g/s', 0).unit}`}
        yTitle={`Measured airflow, ${show(0, 'g/s', 0).unit}`}
        label="Measured airflow against expected"
      />
      <p className="mb-0 text-soft">
        On average <span className="figure font-[650] text-ink">{Math.round(100 * share)} %</span> of what engine speed,
        manifold pressure and intake temperature make of {job.vehicle.displacementL} L. Dashed: the model's own ±10 %.
      </p>
    </>
  );
}

/** Mean total trim per cell of engine speed and load. */
export function TrimMapPlot({ job, series, range }: PlotProps) {
  const limits = useLimits();
  const cut = useMemo(() => within(series, range), [series, range]);
  const show = useShown();
  const maps = ([1, 2] as const).flatMap((bank) => {
    const m = trimMap(cut, bank);
    return m ? [{ bank, m }] : [];
  });
  if (maps.length === 0) return <Nothing what="closed-loop trims beside engine speed and load" />;
  return (
    <div className="grid gap-4">
      {maps.map(({ bank, m }) => {
        const rpms = [...new Set(m.cells.map((c) => c.rpmFrom))].sort((a, b) => a - b);
        const loads = [...new Set(m.cells.map((c) => c.loadFrom))].sort((a, b) => b - a);
        const unit = m.loadChannel === 'map' ? 'kPa' : '%';
        return (
          <div key={bank} className="overflow-x-auto">
            <table className="w-full border-separate border-spacing-1">
              <caption className="pb-2 text-left font-[650]">
                {job.vehicle.banks === 2 ? `Total trim, bank ${bank} ${bank === 1 ? '●' : '◇'}` : 'Total trim'}, %, by
                engine speed and {m.loadChannel === 'map' ? 'manifold pressure' : 'load'}
              </caption>
              <thead>
                <tr>
                  <th scope="col" className="text-left text-[0.87rem] font-[550] text-soft">
                    {m.loadChannel === 'map' ? show(0, unit, 0).unit : 'Load, %'} \ rpm
                  </th>
                  {rpms.map((r) => (
                    <th key={r} scope="col" className="figure text-[0.87rem] font-[550] text-soft">
                      {r}–{r + m.rpmStep}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {loads.map((l) => (
                  <tr key={l}>
                    <th scope="row" className="figure text-left text-[0.87rem] font-[550] text-soft">
                      {numberText(show(l, unit, 0).value, 0)}–{numberText(show(l + m.loadStep, unit, 0).value, 0)}
                    </th>
                    {rpms.map((r) => {
                      const c = m.cells.find((x) => x.rpmFrom === r && x.loadFrom === l);
                      const lean = c && leaning(c.totalPct, limits.watchPct);
                      return (
                        <td
                          key={r}
                          className={`figure h-12 rounded-md text-center ${c ? (lean ? lean.fill : 'bg-band') : ''}`}
                        >
                          {c && (
                            <>
                              <span className="font-bold">{signed(c.totalPct)}</span>
                              <span className="block text-[0.78rem]">
                                {lean ? lean.word : 'in band'} · {c.n}
                              </span>
                            </>
                          )}
                        </td>
                      );
                    })}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        );
      })}
    </div>
  );
}

function Nothing({ what }: { what: string }) {
  return <p className="m-0 py-6 text-soft">This part of the recording holds no {what}.</p>;
}
