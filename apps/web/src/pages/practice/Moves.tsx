import { type AttemptView } from '@just-balance/contract';
import { faultLabel } from '@just-balance/core/catalogue';
import { chanceText, midSentence } from '@just-balance/core/units';
import { useMemo } from 'react';
import { Plot, useChartTheme } from '../../charts/Plot.tsx';
import { gainInWords } from '../../ui/gain.ts';
import { Say } from '../../ui/preferences.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { Table } from '../../ui/Table.tsx';
import { nameOf } from './words.ts';

export function Moves({ a }: { a: AttemptView }) {
  return (
    <Scrolls label="Move by move">
      <h2 className="card-title">Move by move</h2>
      <Table
        rows={a.moves}
        keyOf={(m, i) => `${i} ${m.what}`}
        columns={[
          { head: 'Asked', cellClass: 'font-[650]', cell: (m) => nameOf(m.kind, m.what) },
          { head: 'Minutes', figure: true, cell: (m) => m.minutes },
          { head: 'Showed', cell: (m) => m.showed !== undefined && <Say text={m.showed} /> },
          {
            head: 'Could have told',
            cell: (m) =>
              m.kind === 'reading'
                ? 'the shape of the trims'
                : (m.bits ?? 0) > 0
                  ? gainInWords(m.bits!)
                  : 'next to nothing by then',
          },
          {
            head: 'Better then',
            cell: ({ best, what }) =>
              best && best.test !== what
                ? `${nameOf('test', best.test)}, ${best.minutes} min: ${gainInWords(best.bits)}`
                : 'nothing',
          },
          {
            head: 'Believed after it',
            cell: (m) => (
              <>
                {m.belief?.[0] &&
                  `${midSentence(faultLabel(m.belief[0].fault))} ${chanceText(m.belief[0].probability)}`}
                <span className="block text-soft">the real one {chanceText(m.truth ?? 0)}</span>
              </>
            ),
          },
        ]}
      />
    </Scrolls>
  );
}

/** How likely the real cause stood after each move, over the minutes. */
export function Belief({ a }: { a: AttemptView }) {
  const t = useChartTheme();
  const points = useMemo(() => {
    let minutes = 0;
    return a.moves.map((m) => {
      minutes += m.minutes;
      return { x: minutes, y: 100 * (m.truth ?? 0) };
    });
  }, [a.moves]);
  const data = useMemo(
    () => ({
      datasets: [
        {
          data: points,
          borderColor: t.colour.act,
          backgroundColor: t.colour.act,
          pointRadius: 5,
          // It holds until the next move has shown something, then it moves.
          stepped: 'before' as const,
        },
      ],
    }),
    [points, t],
  );
  const options = useMemo(
    () => ({
      scales: {
        x: {
          type: 'linear' as const,
          min: 0,
          title: t.title('minutes at the bench'),
          ticks: t.tick(12),
          grid: { color: t.colour.rule },
        },
        y: { min: 0, max: 100, title: t.title('the real cause, %'), ticks: t.tick(12), grid: { color: t.colour.rule } },
      },
    }),
    [t],
  );
  if (points.length < 2) return null;
  return (
    <section className="card p-4">
      <h2 className="card-title">What was believed as it went</h2>
      <div className="h-[240px]">
        <Plot
          type="line"
          data={data}
          options={options}
          label={`Probability of the real cause after each move: ${points.map((p) => `${p.x} minutes ${p.y.toFixed(0)} %`).join(', ')}`}
        />
      </div>
    </section>
  );
}
