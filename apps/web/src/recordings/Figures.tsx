import { between, statistics } from '@just-balance/core/series';
import { numberText } from '@just-balance/core/units';
import { type Range } from '../charts/range.ts';
import { type TraceStrip } from '../charts/TraceChart.tsx';
import { useShown } from '../ui/preferences.tsx';

/** The chart's twin: numbers of the part shown. */
export function Figures({ strips, range }: { strips: readonly TraceStrip[]; range: Range }) {
  const show = useShown();
  return (
    <div className="mt-2 overflow-x-auto">
      <table className="table">
        <caption className="sr-only">Figures of the part shown</caption>
        <thead>
          <tr>
            <th scope="col">Channel</th>
            {['Mean', 'Spread', 'Least', 'Greatest', 'Samples', 'Rate'].map((h) => (
              <th key={h} scope="col" className="right">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {strips.map((s) => {
            const part = between(s.channel, range.from, range.to);
            const f = statistics(part.value);
            const zero = show(0, s.channel.unit, 2).value;
            const unit = show(0, s.channel.unit, 0).unit;
            const at = (v: number | undefined, spread = false) => {
              if (v === undefined) return '—';
              const x = show(v, s.channel.unit, s.digits + (spread ? 1 : 0));
              return numberText(x.value - (spread ? zero : 0), x.digits);
            };
            const n = part.time.length;
            const span = n > 1 ? part.time[n - 1]! - part.time[0]! : 0;
            return (
              <tr key={s.channel.id}>
                <td>
                  {s.label} <span className="text-soft">{unit}</span>
                </td>
                <td className="figure right font-bold">{at(f?.mean)}</td>
                <td className="figure right">{at(f?.sd, true)}</td>
                <td className="figure right">{at(f?.min)}</td>
                <td className="figure right">{at(f?.max)}</td>
                <td className="figure right text-soft">{n.toLocaleString('en-US')}</td>
                <td className="figure right text-soft">{span > 0 ? `${((n - 1) / span).toFixed(1)}/s` : '—'}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
