import type { JobView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { type OperatingPoint, pointLabel } from '@just-balance/core/case';
import { type ComparedReading, QUANTITY_LABEL, QUANTITY_UNIT, type Quantity } from '@just-balance/core/expected';
import { midSentence, numberText } from '@just-balance/core/units';
import { Pencil } from 'lucide-react';
import { useState } from 'react';
import { Ruler } from '../../charts/Ruler.tsx';
import { write } from '../../data/writes.ts';
import { Press } from '../../ui/May.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useSay, useShown } from '../../ui/preferences.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { Table } from '../../ui/Table.tsx';
import { useAction } from '../../ui/useAction.ts';
import { DIGITS, useCompared, useSpan } from './compared.ts';
import { KnownForm } from './KnownForm.tsx';

const FROM = { physics: 'physics', entered: 'service data', shop: 'known good', trade: 'common practice' } as const;

/** No figure alone: each beside its band and where the band came from; a better figure can be entered. */
export function MeasuredExpected({ job }: { job: JobView }) {
  const say = useSay();
  const { measured, span, unit } = useSpan();
  const [asked, setAsked] = useState<{ at: OperatingPoint; quantity: Quantity } | null>(null);
  const once = useCompared(job);
  if (once.length === 0) return null;
  return (
    <Scrolls label="Measured beside expected">
      <h2 className="card-title">Measured beside expected</h2>
      <Table
        rows={once}
        keyOf={(r) => `${r.quantity}${r.at}`}
        columns={[
          { head: 'Reading', cell: nameOf },
          {
            head: 'Measured',
            className: 'right',
            cell: (r) => (
              <>
                <span className="figure font-bold">{measured(r)}</span>
                {r.call === 'past' && <span className="sr-only"> outside the band</span>}
                {r.call === 'undecided' && (
                  <span className="badge badge-outline border-dashed ml-2">undecided: within one step</span>
                )}
              </>
            ),
          },
          {
            head: 'Expected',
            className: 'right',
            cellClass: 'whitespace-nowrap',
            cell: (r) => (
              <>
                <span className="figure">{span(r, r.band)}</span> <span className="text-soft">{unit(r.band)}</span>
              </>
            ),
          },
          {
            head: 'Drawn',
            unseen: true,
            className: 'w-[22%] max-sm:hidden',
            cell: (r) => <Ruler low={r.band.low} high={r.band.high} value={r.measured} />,
          },
          {
            head: 'From',
            className: 'max-sm:hidden',
            cellClass: 'text-soft',
            cell: (r) => (
              <>
                <span title={r.band.note && say(r.band.note)}>{FROM[r.band.from]}</span>
                {r.beneath.map((b) => (
                  <span key={b.from} className="block text-[0.87rem]" title={b.note && say(b.note)}>
                    {FROM[b.from]}: <span className="figure">{span(r, b)}</span>
                  </span>
                ))}
              </>
            ),
          },
          {
            head: 'Better figure',
            unseen: true,
            cellClass: 'right',
            cell: (r) => (
              <Press
                needs="judge"
                className="btn px-3"
                aria-expanded={asked?.at === r.at && asked.quantity === r.quantity}
                aria-label={`${nameOf(r)}: enter a better figure`}
                onClick={() => setAsked({ at: r.at, quantity: r.quantity })}
              >
                <Pencil size={17} aria-hidden />
              </Press>
            ),
          },
        ]}
      />
      {asked && (
        <KnownForm
          key={`${asked.at}${asked.quantity}`}
          job={job}
          at={asked.at}
          quantity={asked.quantity}
          close={() => setAsked(null)}
        />
      )}
      <KnownList job={job} />
    </Scrolls>
  );
}

const nameOf = (r: ComparedReading) => `${QUANTITY_LABEL[r.quantity]}, ${midSentence(pointLabel(r.at))}`;

/** The figures entered so far, each with its source, and a way to take it back. */
function KnownList({ job }: { job: JobView }) {
  const show = useShown();
  const { busy, trouble, run } = useAction();
  if (job.known.length === 0) return null;
  return (
    <ul className="m-0 mt-3 grid list-none gap-1 border-t border-rule p-0 pt-3 text-[0.93rem]">
      {job.known.map((k) => {
        const unit = QUANTITY_UNIT[k.quantity];
        const [low, high] = [k.low, k.high].map((v) => show(v, unit, DIGITS[k.quantity]));
        return (
          <li key={k.id} className="flex flex-wrap items-center justify-between gap-2">
            <span>
              {FROM[k.layer]}: {QUANTITY_LABEL[k.quantity].toLowerCase()}, {midSentence(pointLabel(k.at))}{' '}
              <span className="figure">
                {numberText(low!.value, low!.digits)}–{numberText(high!.value, high!.digits)}
              </span>{' '}
              {high!.unit} · {k.source} · {k.by}
            </span>
            {k.rev > 0 && (
              <Press
                needs="judge"
                className="btn"
                disabled={busy}
                onClick={() =>
                  run(async () => {
                    await write(WRITES.undoKnown(job.id, k.id), { rev: k.rev, undone: true });
                  })
                }
              >
                Take back
              </Press>
            )}
          </li>
        );
      })}
      <Problem trouble={trouble} />
    </ul>
  );
}
