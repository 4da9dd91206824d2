import type { JobView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { type OperatingPoint, pointLabel } from '@just-balance/core/case';
import {
  type Band,
  type ComparedReading,
  compareReadings,
  QUANTITY_LABEL,
  QUANTITY_UNIT,
  type Quantity,
} from '@just-balance/core/expected';
import { midSentence, numberText } from '@just-balance/core/units';
import { Pencil } from 'lucide-react';
import { useState } from 'react';
import { Ruler } from '../../charts/Ruler.tsx';
import { write } from '../../data/writes.ts';
import { newestReadings } from '../../job/judgement/figures.ts';
import { engineFacts } from '../../job/vehicle/engineFacts.ts';
import { Problem } from '../../ui/Problem.tsx';
import { useSay, useShown } from '../../ui/preferences.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { useAction } from '../../ui/useAction.ts';
import { KnownForm } from './KnownForm.tsx';

const FROM = { physics: 'physics', entered: 'service data', shop: 'known good', trade: 'common practice' } as const;
const DIGITS = { airflow: 1, manifold: 0, coolant: 0 } as const;

/** No figure alone: each beside its band and where the band came from; a better figure can be entered. */
export function MeasuredExpected({ job }: { job: JobView }) {
  const [asked, setAsked] = useState<{ at: OperatingPoint; quantity: Quantity } | null>(null);
  const facts = engineFacts(job);
  const rows = compareReadings(
    newestReadings(job, 'before').map((r) => r.reading),
    facts,
    job.known,
  );
  const once = rows.filter((r, i) => r.quantity !== 'coolant' || rows.findIndex((x) => x.quantity === 'coolant') === i);
  if (once.length === 0) return null;
  return (
    <Scrolls label="Measured beside expected">
      <h2 className="card-title">Measured beside expected</h2>
      <table className="table">
        <thead>
          <tr>
            <th scope="col">Reading</th>
            <th scope="col" className="right">
              Measured
            </th>
            <th scope="col" className="right">
              Expected
            </th>
            <th scope="col" className="w-[22%] max-sm:hidden">
              <span className="sr-only">Drawn</span>
            </th>
            <th scope="col" className="max-sm:hidden">
              From
            </th>
            <th scope="col">
              <span className="sr-only">Better figure</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {once.map((r) => (
            <Row
              key={`${r.quantity}${r.at}`}
              row={r}
              ask={() => setAsked({ at: r.at, quantity: r.quantity })}
              asked={asked?.at === r.at && asked.quantity === r.quantity}
            />
          ))}
        </tbody>
      </table>
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

function Row({ row, ask, asked }: { row: ComparedReading; ask: () => void; asked: boolean }) {
  const show = useShown();
  const say = useSay();
  const d = DIGITS[row.quantity];
  const m = show(row.measured, row.band.unit, d);
  const name = `${QUANTITY_LABEL[row.quantity]}, ${midSentence(pointLabel(row.at))}`;
  const span = (b: Band) => {
    const [low, high] = [show(b.low, b.unit, d), show(b.high, b.unit, d)];
    return `${numberText(low.value, low.digits)}–${numberText(high.value, high.digits)}`;
  };
  return (
    <tr>
      <td>{name}</td>
      <td className="right">
        <span className="figure font-bold">{numberText(m.value, m.digits)}</span>
        {row.call === 'past' && <span className="sr-only"> outside the band</span>}
        {row.call === 'undecided' && (
          <span className="badge badge-outline border-dashed ml-2">undecided: within one step</span>
        )}
      </td>
      <td className="right whitespace-nowrap">
        <span className="figure">{span(row.band)}</span> <span className="text-soft">{m.unit}</span>
      </td>
      <td className="max-sm:hidden">
        <Ruler low={row.band.low} high={row.band.high} value={row.measured} />
      </td>
      <td className="text-soft max-sm:hidden" title={row.band.note && say(row.band.note)}>
        {FROM[row.band.from]}
        {row.beneath.map((b) => (
          <span key={b.from} className="block text-[0.87rem]" title={b.note && say(b.note)}>
            {FROM[b.from]}: <span className="figure">{span(b)}</span>
          </span>
        ))}
      </td>
      <td className="right">
        <button
          type="button"
          className="btn px-3"
          aria-expanded={asked}
          aria-label={`${name}: enter a better figure`}
          onClick={ask}
        >
          <Pencil size={17} aria-hidden />
        </button>
      </td>
    </tr>
  );
}

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
              <button
                type="button"
                className="btn"
                disabled={busy}
                onClick={() =>
                  run(async () => {
                    await write(WRITES.undoKnown(job.id, k.id), { rev: k.rev, undone: true });
                  })
                }
              >
                Take back
              </button>
            )}
          </li>
        );
      })}
      <Problem trouble={trouble} />
    </ul>
  );
}
