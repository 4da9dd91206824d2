import { between, covered, statistics } from '@just-balance/core/series';
import { numberText } from '@just-balance/core/units';
import { type Range } from '../charts/range.ts';
import { type TraceStrip } from '../charts/TraceChart.tsx';
import { useShown } from '../ui/preferences.tsx';
import { Table } from '../ui/Table.tsx';

/** The chart's twin: numbers of the part shown. */
export function Figures({ strips, range }: { strips: readonly TraceStrip[]; range: Range }) {
  const show = useShown();
  return (
    <div className="mt-2 overflow-x-auto">
      <Table
        caption="Figures of the part shown"
        rows={strips.map((s) => figuresOf(s, range, show))}
        keyOf={(f) => f.id}
        columns={[
          {
            head: 'Channel',
            cell: (f) => (
              <>
                {f.label} <span className="text-soft">{f.unit}</span>
              </>
            ),
          },
          { head: 'Mean', figure: true, cellClass: 'font-bold', cell: (f) => f.mean },
          { head: 'Spread', figure: true, cell: (f) => f.spread },
          { head: 'Least', figure: true, cell: (f) => f.least },
          { head: 'Greatest', figure: true, cell: (f) => f.greatest },
          { head: 'Samples', figure: true, cellClass: 'text-soft', cell: (f) => f.samples },
          { head: 'Rate', figure: true, cellClass: 'text-soft', cell: (f) => f.rate },
        ]}
      />
    </div>
  );
}

/** One channel's figures in the units shown; a spread is a difference, so a unit's zero does not shift it. */
function figuresOf(s: TraceStrip, range: Range, show: ReturnType<typeof useShown>) {
  const part = between(s.channel, range.from, range.to);
  const f = statistics(part.value);
  const zero = show(0, s.channel.unit, 2);
  const at = (v: number | undefined, spread = false) => {
    if (v === undefined) return '—';
    const x = show(v, s.channel.unit, s.digits + (spread ? 1 : 0));
    return numberText(x.value - (spread ? zero.value : 0), x.digits);
  };
  const n = part.time.length;
  const { seconds, steps } = covered(part.time);
  return {
    id: s.channel.id,
    label: s.label,
    unit: zero.unit,
    mean: at(f?.mean),
    spread: at(f?.sd, true),
    least: at(f?.min),
    greatest: at(f?.max),
    samples: n.toLocaleString('en-US'),
    rate: seconds > 0 ? `${(steps / seconds).toFixed(1)}/s` : '—',
  };
}
