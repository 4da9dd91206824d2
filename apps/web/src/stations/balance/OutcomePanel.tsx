import { type JobView, type Phase, WRITES } from '@just-balance/contract';
import { type TestResult } from '@just-balance/core/case';
import {
  outcomeFits,
  outcomeLabel,
  outcomesOf,
  SWAP_LABELS,
  SWAP_PARTS,
  severalCanBe,
  standTogether,
  type TestRow,
} from '@just-balance/core/catalogue';
import { besideFields, NAMES_CYLINDERS } from '@just-balance/core/job';
import { phaseNow } from '@just-balance/core/proof';
import { Ban, CircleCheck, CircleHelp, OctagonAlert } from 'lucide-react';
import { useState } from 'react';
import { newId } from '../../data/api.ts';
import { queueWrite } from '../../data/writes.ts';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';
import { useFigures, Values } from './outcomeFigures.tsx';
import { announceUndo } from './UndoBar.tsx';

/** More outcomes than these take the whole width of the dock. */
const MANY = 6;

/** Record what a test showed: big, apart, undoable; beside “could not tell” and “no access”. */
export function OutcomePanel({
  job,
  row,
  part,
  likelyBank,
  after = false,
  recorded,
}: {
  job: JobView;
  row: TestRow;
  /** The part to swap, where that is the test. */
  part?: string;
  likelyBank: 1 | 2;
  /** Done with the car as it is after the repair. */
  after?: boolean;
  recorded: () => void;
}) {
  const { busy, trouble, run } = useAction();
  const [bank, setBank] = useState(likelyBank);
  const [swapped, setSwapped] = useState(part ?? Object.keys(SWAP_PARTS)[0]!);
  const repaired = phaseNow(job) === 'after';
  const [phase, setPhase] = useState<Phase>(after || repaired ? 'after' : 'before');
  const [several, setSeveral] = useState<string[] | null>(null);
  const [cylinders, setCylinders] = useState<number[]>([]);
  const banks = job.vehicle.banks ?? 1;
  const aimed = row.perBank === true && banks === 2;
  const besides = useFigures(besideFields(row.id));
  const record = (test: Omit<TestResult, 'id'>) =>
    run(async () => {
      if (!(await besides.valid())) return;
      const id = newId();
      const beside = besides.values();
      const values = { ...beside, ...test.values };
      await queueWrite(`Result: ${row.label}`, WRITES.addTest(job.id), {
        id,
        phase,
        test: {
          id: row.id,
          ...test,
          ...(Object.keys(values).length > 0 ? { values } : {}),
          ...(aimed ? { bank } : {}),
          ...(cylinders.length > 0 ? { cylinders } : {}),
          ...(row.swaps ? { part: swapped } : {}),
        },
      });
      announceUndo(id);
      recorded();
    });
  const outcomes = outcomesOf(row).filter((o) => outcomeFits(row, o, job.vehicle, banks));
  const toggle = (o: string) =>
    setSeveral((now) => {
      const list = now ?? [];
      if (list.includes(o)) return list.filter((x) => x !== o);
      // What cannot stand beside it goes.
      return [...list.filter((x) => standTogether(row.id, [x, o])), o];
    });
  const choose = (
    label: string,
    options: readonly (readonly [string, string])[],
    now: string,
    set: (v: string) => void,
  ) => (
    <div className="flex gap-2" role="group" aria-label={label}>
      {options.map(([id, text]) => (
        <button
          key={id}
          type="button"
          aria-pressed={now === id}
          className={`btn ${now === id ? 'btn-neutral' : ''}`}
          onClick={() => set(id)}
        >
          {text}
        </button>
      ))}
    </div>
  );
  const asked = aimed || repaired || row.swaps || besides.fields.length > 0 || NAMES_CYLINDERS.includes(row.id);
  // Many outcomes stand smaller, so that all of them are in sight.
  const size = outcomes.length > 4 || asked ? 'min-h-14' : 'btn-lg';
  const aims = (
    <>
      {aimed &&
        choose(
          'Bank',
          [
            ['1', 'Bank 1'],
            ['2', 'Bank 2'],
          ],
          String(bank),
          (v) => setBank(v === '2' ? 2 : 1),
        )}
      {repaired &&
        choose(
          'Done',
          [
            ['before', 'Before the repair'],
            ['after', 'After the repair'],
          ],
          phase,
          (v) => setPhase(v as Phase),
        )}
      {row.swaps && (
        <label className="field w-64">
          Part that was swapped in
          <select className="select" value={swapped} onChange={(e) => setSwapped(e.target.value)}>
            {Object.keys(SWAP_PARTS).map((p) => (
              <option key={p} value={p}>
                {SWAP_LABELS[p]}
              </option>
            ))}
          </select>
        </label>
      )}
      {besides.fields}
      {NAMES_CYLINDERS.includes(row.id) && (
        <div className="flex flex-wrap items-center gap-2" role="group" aria-label="Cylinders, where they are known">
          <span className="text-soft">Cylinders:</span>
          {Array.from({ length: job.vehicle.cylinders }, (_, i) => i + 1).map((n) => (
            <button
              key={n}
              type="button"
              aria-pressed={cylinders.includes(n)}
              className={`btn px-4 ${cylinders.includes(n) ? 'btn-neutral' : ''}`}
              onClick={() =>
                setCylinders(cylinders.includes(n) ? cylinders.filter((x) => x !== n) : [...cylinders, n].sort())
              }
            >
              {n}
            </button>
          ))}
        </div>
      )}
    </>
  );
  return (
    <section className="contents" aria-label={`Record: ${row.label}`}>
      <h2 className="sr-only">What did it show?</h2>
      <div
        className={`grid max-h-[36dvh] min-w-0 gap-2 overflow-y-auto p-1 md:max-h-[40dvh] ${outcomes.length > MANY ? 'lg:col-span-2' : ''}`}
      >
        {asked && <div className="flex flex-wrap items-end gap-x-4 gap-y-2">{aims}</div>}
        <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
          {row.measure ? (
            <Values row={row} vehicle={job.vehicle} record={(values) => record({ values })} />
          ) : (
            <>
              {outcomes.map((o, i) => (
                <button
                  key={o}
                  type="button"
                  disabled={busy}
                  aria-pressed={several === null ? undefined : several.includes(o)}
                  className={`btn ${size} ${i === 0 ? 'mr-2 rounded-full' : ''} ${several?.includes(o) ? 'btn-neutral' : ''}`}
                  onClick={() => (several === null ? record({ outcome: o }) : toggle(o))}
                >
                  {i === 0 ? <CircleCheck size={22} aria-hidden /> : <OctagonAlert size={22} aria-hidden />}
                  {outcomeLabel(row.id, o)}
                </button>
              ))}
              {severalCanBe(row.id) && several === null && (
                <button type="button" className="btn btn-ghost underline" onClick={() => setSeveral([])}>
                  More than one
                </button>
              )}
              {several !== null && (
                <>
                  <button
                    type="button"
                    className={`btn btn-primary ${size}`}
                    disabled={busy || several.length === 0}
                    onClick={() => record({ outcome: several.length === 1 ? several[0]! : several })}
                  >
                    Record {several.length > 1 ? `these ${several.length}` : ''}
                  </button>
                  <button type="button" className="btn btn-ghost underline" onClick={() => setSeveral(null)}>
                    One only
                  </button>
                </>
              )}
            </>
          )}
        </div>
        <Problem trouble={trouble} />
      </div>
      <span className="flex gap-4 max-sm:*:flex-1 lg:col-start-2 lg:row-start-1 lg:justify-self-end">
        {(
          [
            ['inconclusive', CircleHelp, 'Could not tell'],
            ['not-accessible', Ban, 'No access'],
          ] as const
        ).map(([outcome, Icon, text]) => (
          <button
            key={outcome}
            type="button"
            className="btn border-dashed px-4"
            disabled={busy}
            onClick={() => record({ outcome })}
          >
            <Icon size={19} aria-hidden /> {text}
          </button>
        ))}
      </span>
    </section>
  );
}
