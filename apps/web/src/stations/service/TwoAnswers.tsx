import { type Dispute, disputeSaid, notedSaid, type StepWord, wordSaid } from '@just-balance/core/procedures';
import { useState } from 'react';
import { Say, useSay } from '../../ui/preferences.tsx';
import { ReasonBox } from './ReasonBox.tsx';
import type { RunHandle } from './useRun.ts';

/** Two people have answered one step differently: both stand here, until somebody says with a reason which is right. */
export function TwoAnswers({ handle }: { handle: RunHandle }) {
  const { disputes, noted } = handle.state;
  const { procedure } = handle.run;
  if (disputes.length + noted.length === 0) return null;
  return (
    <>
      {disputes.map((d) => (
        <OneDispute key={d.id} handle={handle} dispute={d} />
      ))}
      {noted.length > 0 && (
        <section className="card p-4" aria-label="Written down beside it">
          <h2 className="card-title">Written down beside it</h2>
          <ul className="m-0 mt-1 pl-5">
            {noted.map((n) => (
              <li key={n.id}>
                <Say text={notedSaid(procedure, n)} />
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}

function OneDispute({ handle, dispute }: { handle: RunHandle; dispute: Dispute }) {
  const { procedure } = handle.run;
  const [keep, setKeep] = useState<'stands' | 'other' | null>(null);
  const say = useSay();
  const name = (w: StepWord) => `${say(wordSaid(procedure, dispute.step, w))} is right`;
  const button = (which: 'stands' | 'other', w: StepWord) => (
    <button
      type="button"
      aria-pressed={keep === which}
      className={`btn ${keep === which ? 'btn-neutral' : ''}`}
      onClick={() => setKeep(keep === which ? null : which)}
    >
      {w.by}: {name(w)}
    </button>
  );
  return (
    <section
      role="alert"
      aria-label="Two answers to one step"
      className="alert alert-warning flex flex-col items-stretch gap-3 px-4 py-3"
    >
      <p className="m-0">
        <strong className="block font-[650]">Two answers to one step</strong>
        <Say text={disputeSaid(procedure, dispute)} />.
      </p>
      <div className="flex flex-wrap gap-3">
        {dispute.stands ? button('stands', dispute.stands) : null}
        {button('other', dispute.other)}
        {!dispute.stands && (
          <button
            type="button"
            aria-pressed={keep === 'stands'}
            className={`btn ${keep === 'stands' ? 'btn-neutral' : ''}`}
            onClick={() => setKeep(keep === 'stands' ? null : 'stands')}
          >
            It is answered anew
          </button>
        )}
      </div>
      {keep !== null && (
        <ReasonBox
          label="Why"
          button="Say so"
          keep={(reason) => void handle.say({ kind: 'settled', dispute: dispute.id, keep, reason })}
        />
      )}
    </section>
  );
}
