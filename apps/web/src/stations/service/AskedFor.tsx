import { MishapForm } from './MishapForm.tsx';
import { Park } from './Park.tsx';
import { ReasonBox } from './ReasonBox.tsx';
import type { RunHandle } from './useRun.ts';

/** What was asked for behind “more”. */
export function AskedFor({ handle }: { handle: RunHandle }) {
  const { session, asking, say } = handle;
  const close = () => session.ask(null);
  if (asking === 'mishap') return <MishapForm handle={handle} close={close} />;
  if (asking === 'park') return <Park handle={handle} close={close} />;
  if (asking === 'skip')
    return (
      <section className="card p-4" aria-label="Skip this step">
        <ReasonBox label="Why this step is left out" button="Skip it" keep={(reason) => session.skip(reason)} />
      </section>
    );
  if (asking === 'give-up')
    return (
      <section className="card p-4" aria-label="Give up">
        <p className="m-0 mb-2 text-soft">The run stays on record with all that was done, and can be taken up again.</p>
        <ReasonBox
          label="Why it is given up"
          button="Give it up"
          keep={(reason) => say({ kind: 'given-up', reason })}
        />
      </section>
    );
  return null;
}
