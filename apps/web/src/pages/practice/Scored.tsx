import { type AttemptView } from '@just-balance/contract';
import { faultLabel } from '@just-balance/core/catalogue';
import { midSentence } from '@just-balance/core/units';
import { Printer } from 'lucide-react';
import { Link } from 'react-router';
import { NextStep } from '../../ui/NextStep.tsx';
import { useSay } from '../../ui/preferences.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
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
          title={`${s.total} points${a.drive ? '' : `: ${faultsInWords(a)}`}`}
          why={
            a.answer
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
      <Scrolls label="Points">
        <h2 className="card-title">Points</h2>
        <table className="table">
          <tbody>
            {s.parts.map((p) => (
              <tr key={p.id}>
                <th scope="row">{PARTS[p.id]}</th>
                <td className="figure right whitespace-nowrap">
                  {p.points} of {p.of}
                </td>
                <td>{say(p.why)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Scrolls>
      {a.moves.length > 0 && <Moves a={a} />}
      <Belief a={a} />
      {a.bestPath && (
        <Scrolls label="The best path">
          <h2 className="card-title">Always the best next test, on this car</h2>
          <table className="table">
            <tbody>
              {a.bestPath.map((p, i) => (
                <tr key={`${i} ${p.what}`}>
                  <td>{p.what}</td>
                  <td className="figure right whitespace-nowrap">{p.minutes} min</td>
                  <td>{say(p.showed)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Scrolls>
      )}
    </>
  );
}
