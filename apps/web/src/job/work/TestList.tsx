import type { JobView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { TEST_BY_ID } from '@just-balance/core/catalogue';
import { resultInWords } from '@just-balance/core/job';
import { counted } from '@just-balance/core/units';
import { write } from '../../data/writes.ts';
import { PhotosOf } from '../../photos/PhotosOf.tsx';
import { Press } from '../../ui/May.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Say } from '../../ui/preferences.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { Table } from '../../ui/Table.tsx';
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
      <Table
        rows={[...job.tests].reverse()}
        keyOf={(t) => t.id}
        rowClass={(t) => (t.undone ? 'text-soft line-through' : '')}
        columns={[
          { head: 'Test', cellClass: 'font-[650]', cell: (t) => nameOf(t.test.id) },
          {
            head: 'Showed',
            cell: (t) => (
              <>
                <Say text={resultInWords(t.test)} />
                {t.found && <span className="block text-[0.9rem] text-soft">found in the work: {t.found.work}</span>}
                {!t.undone && !t.found && (
                  <details className="no-print">
                    <summary className="w-fit cursor-pointer py-1 text-[0.9rem] underline">
                      {counted(pictures(t.id), 'picture')}
                    </summary>
                    <PhotosOf job={job} step={`test:${t.id}`} label={nameOf(t.test.id)} />
                  </details>
                )}
              </>
            ),
          },
          {
            head: 'Done',
            cellClass: 'whitespace-nowrap',
            cell: (t) => (t.phase === 'after' ? 'after the repair' : 'as it came in'),
          },
          { head: 'By', cellClass: 'text-soft', cell: (t) => t.by },
          {
            head: 'Undo',
            unseen: true,
            className: 'no-print',
            cellClass: 'right',
            cell: (t) =>
              t.found ? (
                <span className="text-[0.9rem] text-soft">undone at its step</span>
              ) : (
                <Press className="btn" disabled={busy} onClick={() => toggle(t.id, t.rev, !t.undone)}>
                  {t.undone ? 'Put back' : 'Undo'}
                </Press>
              ),
          },
        ]}
      />
      <Problem trouble={trouble} />
    </Scrolls>
  );
}

const nameOf = (id: string) => TEST_BY_ID.get(id)?.label ?? id;
