import { type BankRelearn } from '@just-balance/core/relearn';
import { numberText } from '@just-balance/core/units';
import { Plot, useChartTheme } from '../../charts/Plot.tsx';
import { type JobLive } from '../../data/live.tsx';
import { type TracePoint } from '../../data/traces.ts';

/** Short term, long term and their total over the last minutes; where the total is going is the band. */
export function Memory({ bank, live }: { bank: BankRelearn; live: JobLive }) {
  const short = live.traces.get(`stft${bank.bank}`) ?? [];
  const long = live.traces.get(`ltft${bank.bank}`) ?? [];
  const end = short.at(-1)?.t ?? 0;
  const spanMin = Math.max(1, Math.ceil((end - (short[0]?.t ?? end)) / 60));
  const held = (t: number) => {
    let v = long[0]?.v ?? 0;
    for (const p of long) {
      if (p.t > t) break;
      v = p.v;
    }
    return v;
  };
  const xy = (points: readonly TracePoint[]) => points.map((p) => ({ x: p.t - end, y: p.v }));
  const seconds = bySecond(short);
  const { colour, tick, figures, band } = useChartTheme();
  const lines = { pointRadius: 0, borderWidth: 2, tension: 0 };
  const total = seconds.map((p) => ({ x: p.t - end, y: p.v + held(p.t) }));
  return (
    <>
      <div className="h-44">
        <Plot
          type="line"
          label={`Bank ${bank.bank}: short term, long term and their total over the last minutes`}
          data={{
            datasets: [
              { data: total, ...lines, borderWidth: 4, borderColor: colour.ink },
              { data: xy(bySecond(long)), ...lines, borderColor: colour.ink },
              { data: xy(seconds), ...lines, borderDash: [5, 4], borderColor: colour.soft },
            ],
          }}
          options={{
            scales: {
              x: {
                type: 'linear',
                min: -60 * spanMin,
                max: 0,
                ticks: {
                  ...tick(),
                  maxRotation: 0,
                  stepSize: spanMin > 4 ? 120 : 30,
                  callback: (v) => (v === 0 ? 'now' : `${numberText(Number(v) / 60)} min`),
                },
              },
              y: { suggestedMin: -12, suggestedMax: 12, ticks: figures() },
            },
          }}
          annotations={bank.settled ? [band(bank.settled.low, bank.settled.high)] : []}
        />
      </div>
      <p className="m-0 text-[0.9rem] text-soft">
        thick: total · thin: long term · dashed: short term{bank.settled ? ' · band: where the total is going' : ''}
      </p>
    </>
  );
}

/** Means of whole seconds: a narrow-band loop swings faster than anybody reads. */
function bySecond(points: readonly TracePoint[]): TracePoint[] {
  const bins = new Map<number, { n: number; t: number; v: number }>();
  for (const p of points) {
    const b = bins.get(Math.floor(p.t)) ?? { n: 0, t: 0, v: 0 };
    bins.set(Math.floor(p.t), { n: b.n + 1, t: b.t + p.t, v: b.v + p.v });
  }
  return [...bins.values()].map((b) => ({ t: b.t / b.n, v: b.v / b.n }));
}
