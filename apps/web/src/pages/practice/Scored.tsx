import { type AttemptView } from '@just-balance/contract';
import { faultLabel } from '@just-balance/core/catalogue';
import { midSentence } from '@just-balance/core/units';
import { Printer } from 'lucide-react';
import { Link } from 'react-router';
import { NextStep } from '../../ui/NextStep.tsx';
import { useSay } from '../../ui/preferences.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { Table } from '../../ui/Table.tsx';
import { Belief, Moves } from './Moves.tsx';
import { faultsInWords } from './words.ts';

const PARTS = {
  cause: 'Cause',
  size: 'Size',
  remedy: 'What to do',
  minutes: 'Minutes',
  parts: 'Parts condemned',
  cautions: 'Cautions',
  broke: 'What broke',
  second: 'When',
  next: 'What next',
} as const;

export function Scored({ a }: { a: AttemptView }) {
  const say = useSay();
  const s = a.score!;
  return (
    <>
      {!a.exam && (
        <NextStep
          title={
            a.gaveUp
              ? `Given up${a.drive ? '' : `: ${midSentence(faultsInWords(a))}`}`
              : `${s.total} points${a.drive ? '' : `: ${faultsInWords(a)}`}`
          }
          why={
            a.gaveUp
              ? 'No points, and no later try at this car counts: what is wrong with it is told now.'
              : a.answer
                ? `You named ${midSentence(faultLabel(a.answer.fault))}${a.answer.second ? ` and ${midSentence(faultLabel(a.answer.second))}` : ''} after ${s.minutes} minutes.`
                : (s.parts.find((p) => p.id === 'broke')?.why ?? '')
          }
        >
          <button type="button" className="btn btn-lg" onClick={() => window.print()}>
            <Printer size={19} aria-hidden /> Print
          </button>
          <Link className="btn btn-primary btn-lg" to="/practice">
            Another car
          </Link>
        </NextStep>
      )}
      {s.parts.length > 0 && (
        <Scrolls label="Points">
          <h2 className="card-title">Points</h2>
          <Table
            rows={s.parts}
            keyOf={(p) => p.id}
            columns={[
              { head: 'Part', unseen: true, names: true, cell: (p) => PARTS[p.id] },
              {
                head: 'Points',
                unseen: true,
                figure: true,
                cellClass: 'whitespace-nowrap',
                cell: (p) => `${p.points} of ${p.of}`,
              },
              { head: 'Why', unseen: true, cell: (p) => say(p.why) },
            ]}
          />
        </Scrolls>
      )}
      {a.moves.length > 0 && <Moves a={a} />}
      <Belief a={a} />
      {a.bestPath && (
        <Scrolls label="The best path">
          <h2 className="card-title">Always the best next test, on this car</h2>
          <Table
            rows={a.bestPath}
            keyOf={(p, i) => `${i} ${p.what}`}
            columns={[
              { head: 'Move', unseen: true, cell: (p) => p.what },
              {
                head: 'Minutes',
                unseen: true,
                figure: true,
                cellClass: 'whitespace-nowrap',
                cell: (p) => `${p.minutes} min`,
              },
              { head: 'Shows', unseen: true, cell: (p) => say(p.showed) },
            ]}
          />
        </Scrolls>
      )}
    </>
  );
}
