import type { JobView } from '@just-balance/contract';
import { partLabel } from '@just-balance/core/case';
import { ACCESS, faultLabel, TEST_BY_ID, type TestRow, testLabel } from '@just-balance/core/catalogue';
import type { Diagnosis } from '@just-balance/core/diagnosis';
import { chanceText, midSentence, said } from '@just-balance/core/units';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { ToNext } from '../../job/frame/ToNext.tsx';
import { ToStation } from '../../job/frame/ToStation.tsx';
import { Cautions } from '../../job/work/Cautions.tsx';
import { May } from '../../ui/May.tsx';
import { Say } from '../../ui/preferences.tsx';
import { InDock } from './InDock.tsx';
import { OutcomePanel } from './OutcomePanel.tsx';

/** What may be opened above the pictures. */
export type Opened = 'tests' | 'calculator' | null;

const LINK = 'link inline-flex min-h-11 items-center font-[650] text-ink';

/** Buttons that open something above, or shut it. */
export function Opener({
  what,
  opened,
  open,
  children,
}: {
  what: Exclude<Opened, null>;
  opened: Opened;
  open: (what: Opened) => void;
  children: ReactNode;
}) {
  return (
    <button
      type="button"
      className={LINK}
      aria-expanded={opened === what}
      onClick={() => open(opened === what ? null : what)}
    >
      {children}
    </button>
  );
}

interface NextProps {
  job: JobView;
  /** The job itself, where `job` is what it was read as after the repair. */
  whole: JobView;
  diagnosis: Diagnosis;
  /** Judged is the car as it is after the repair. */
  after: boolean;
  /** A test that was asked for, whatever the judgement would do next. */
  test: string | null;
  setTest: (test: string | null) => void;
  opened: Opened;
  open: (what: Opened) => void;
}

/** The test that stands in the dock: the one that was asked for, or the one that comes next. */
export function askedOf({ standing }: Diagnosis, test: string | null): TestRow | undefined {
  const id = test ?? ('test' in standing ? standing.test : undefined);
  return id === undefined ? undefined : TEST_BY_ID.get(id);
}

/** What the judgement says comes next: call it, warm it up, nothing that is worth it, or a test. */
export function Next(props: NextProps) {
  const { whole, diagnosis, test, setTest, opened, open } = props;
  const { standing } = diagnosis;
  const first = diagnosis.causes[0]!;
  const all = (
    <Opener what="tests" opened={opened} open={open}>
      All tests
    </Opener>
  );
  const on = (children: ReactNode) => <div className="flex flex-wrap items-center justify-end gap-4">{children}</div>;
  const row = askedOf(diagnosis, test);
  if (test === null && standing.is === 'sure')
    return (
      <InDock
        job={whole}
        means="sure"
        first="Sure enough to act on"
        title={first.fault === 'balanced' ? 'Call it balanced' : `It is: ${midSentence(faultLabel(first.fault))}`}
        why={<Say text={said`${chanceText(first.probability)} of what fits. ${first.because[0] ?? ''}`} />}
        more={all}
      >
        {on(<ToNext job={whole} here="balance" then="service" />)}
      </InDock>
    );
  if (test === null && standing.is === 'warm-up')
    return (
      <InDock
        job={whole}
        means="warm-up"
        first="Next"
        title="Warm it up, and read again"
        why={<Say text={standing.why} />}
        more={all}
      >
        {on(<ToStation station="readings">To Readings</ToStation>)}
      </InDock>
    );
  if (test === null && standing.is === 'cannot-tell')
    return (
      <InDock
        job={whole}
        means="cannot-tell"
        first="Cannot be told yet"
        title="No test left is worth its minutes here"
        why={<Say text={standing.why} />}
        more={all}
      >
        {on(
          <>
            {standing.would?.map((t) => (
              <button key={t} type="button" className="btn" onClick={() => setTest(t)}>
                {testLabel(t)}
              </button>
            ))}
            <ToNext job={whole} here="balance" then="service" />
          </>,
        )}
      </InDock>
    );
  return row ? <NextTest {...props} row={row} all={all} /> : null;
}

function NextTest({
  job,
  whole,
  diagnosis,
  after,
  test,
  setTest,
  opened,
  open,
  row,
  all,
}: NextProps & { row: TestRow; all: ReactNode }) {
  const { standing } = diagnosis;
  const first = diagnosis.causes[0]!;
  const offer = diagnosis.nextTests.find((t) => t.test === row.id);
  const confirming = test === null && standing.is === 'confirm';
  return (
    <InDock
      job={whole}
      means={row.id}
      first={firstWords(row, offer?.minutes, test !== null)}
      title={row.label}
      why={
        <>
          {confirming && `${faultLabel(first.fault)}: ${standing.why} `}
          <Say text={offer?.why ?? row.how} />
          {offer?.bank && ` On bank ${offer.bank}.`}
          {test === null && !confirming && ` ${standing.why}`}
          {offer?.part && ` Part: ${partLabel(offer.part)}.`}
          {offer?.together &&
            ` While you have the ${offer.access}: ${offer.together.map((t) => TEST_BY_ID.get(t)?.label.toLowerCase()).join(', ')}.`}
        </>
      }
      more={
        <>
          {all}
          {row.calculator && (
            <Opener what="calculator" opened={opened} open={open}>
              Work it out
            </Opener>
          )}
          {test !== null && (
            <button type="button" className={LINK} onClick={() => setTest(null)}>
              Not this one
            </button>
          )}
          {confirming && (
            <Link className={LINK} to={`/jobs/${job.id}/service`}>
              To Service without a test
            </Link>
          )}
        </>
      }
      caution={<Cautions job={job} step={`test:${row.id}`} inDock />}
    >
      {row.reading ? (
        <div className="flex justify-end">
          <ToStation station="readings">Take the reading</ToStation>
        </div>
      ) : (
        <May>
          <OutcomePanel
            key={row.id}
            job={job}
            row={row}
            part={offer?.part}
            after={after}
            likelyBank={offer?.bank ?? first.bank ?? diagnosis.banks[0] ?? 1}
            recorded={() => setTest(null)}
          />
        </May>
      )}
    </InDock>
  );
}

/** Minutes and what must be opened or set up, before the name of a test. */
export function firstWords(row: TestRow, minutes: number | undefined, chosen: boolean): ReactNode {
  return (
    <>
      {chosen ? 'Chosen test' : 'Next test'} · {minutes ?? row.minutes} min
      {row.access && <span className="max-sm:hidden"> · {ACCESS[row.access]}</span>}
    </>
  );
}
