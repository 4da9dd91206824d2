import type { JobView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { TEST_BY_ID } from '@just-balance/core/catalogue';
import { resultInWords } from '@just-balance/core/job';
import { counted } from '@just-balance/core/units';
import { write } from '../../data/writes.ts';
import { PhotosOf } from '../../photos/PhotosOf.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Say } from '../../ui/preferences.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { useAction } from '../../ui/useAction.ts';

/** Tests done, newest first, each undoable. */
export function TestList({ job }: { job: JobView }) {
  const { busy, trouble, run } = useAction();
  const pictures = (id: string) => job.photos.filter((p) => p.step === `test:${id}` && !p.undone).length;
  const toggle = (id: string, rev: number, undone: boolean) =>
    run(async () => {
      await write(WRITES.undoTest(job.id, id), { rev, undone });
    });
  return (
    <Scrolls label="Tests done">
      <h2 className="card-title">Tests done</h2>
      <table className="table">
        <thead>
          <tr>
            <th scope="col">Test</th>
            <th scope="col">Showed</th>
            <th scope="col">Done</th>
            <th scope="col">By</th>
            <th scope="col" className="no-print">
              <span className="sr-only">Undo</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {[...job.tests].reverse().map((t) => (
            <tr key={t.id} className={t.undone ? 'text-soft line-through' : ''}>
              <td className="font-[650]">{TEST_BY_ID.get(t.test.id)?.label ?? t.test.id}</td>
              <td>
                <Say text={resultInWords(t.test)} />
                {!t.undone && (
                  <details className="no-print">
                    <summary className="w-fit cursor-pointer py-1 text-[0.9rem] underline">
                      {counted(pictures(t.id), 'picture')}
                    </summary>
                    <PhotosOf job={job} step={`test:${t.id}`} label={TEST_BY_ID.get(t.test.id)?.label ?? t.test.id} />
                  </details>
                )}
              </td>
              <td className="whitespace-nowrap">{t.phase === 'after' ? 'after the repair' : 'as it came in'}</td>
              <td className="text-soft">{t.by}</td>
              <td className="right no-print">
                <button type="button" className="btn" disabled={busy} onClick={() => toggle(t.id, t.rev, !t.undone)}>
                  {t.undone ? 'Put back' : 'Undo'}
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Problem trouble={trouble} />
    </Scrolls>
  );
}
