import type { JobView } from '@just-balance/contract';
import { outcomeLabel, TEST_BY_ID } from '@just-balance/core/catalogue';
import { ofJob } from '../data/ofJob.ts';
import { Problem } from '../ui/Problem.tsx';
import { Scrolls } from '../ui/Scrolls.tsx';
import { useAction } from '../ui/useAction.ts';

/** Tests done, newest first, each undoable. */
export function TestList({ job }: { job: JobView }) {
  const { busy, trouble, run } = useAction();
  const toggle = (id: string, rev: number, undone: boolean) =>
    run(async () => {
      await ofJob(job.id).patch(`/tests/${id}`, { rev, undone });
    });
  return (
    <Scrolls label="Tests done">
      <h2 className="card-title">Tests done</h2>
      <table className="table">
        <thead>
          <tr>
            <th scope="col">Test</th>
            <th scope="col">Showed</th>
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
              <td>{showing(t.test)}</td>
              <td className="text-soft">{t.by}</td>
              <td className="right no-print">
                <button type="button" className="btn" disabled={busy} onClick={() => toggle(t.id, t.rev, !t.undone)}>
                  {t.undone ? 'Take back in' : 'Undo'}
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

/** A result in words. */
export function showing(t: JobView['tests'][number]['test']): string {
  if (t.outcome === 'inconclusive') return 'could not tell';
  if (t.outcome === 'not-accessible') return 'no access';
  if (t.outcome) return [t.outcome].flat().map(outcomeLabel).join(', ');
  return Object.entries(t.values ?? {})
    .map(([k, v]) => `${k} ${v}`)
    .join(', ');
}
