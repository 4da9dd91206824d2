import { AnswerRequest, type AttemptView, type JobView, ROUTES, WRITES } from '@just-balance/contract';
import { FAULT_BY_ID, FAULTS, faultLabel } from '@just-balance/core/catalogue';
import { counted, metricOf, shown, type UnitSystem } from '@just-balance/core/units';
import { Timer } from 'lucide-react';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { mutate } from 'swr';
import { api, newId } from '../data/api.ts';
import { lookAgain } from '../data/job.ts';
import { useAccount } from '../data/session.tsx';
import { Field } from '../ui/Field.tsx';
import { Press } from '../ui/May.tsx';
import { Problem } from '../ui/Problem.tsx';
import { Say, usePreferences } from '../ui/preferences.tsx';
import { typed } from '../ui/typed.ts';
import { useAction } from '../ui/useAction.ts';
import { useTypedForm } from '../ui/useTypedForm.ts';
import { GiveUp } from './GiveUp.tsx';
import { useAttempt } from './useAttempt.ts';

const REMEDIES = {
  clean: 'Clean it',
  replace: 'Replace it',
  repair: 'Repair it',
  nothing: 'Leave it as it is',
} as const;

/** Under every station of a practice job: the minutes used, what the car can be asked, and naming the cause. */
export function PracticeBar({ job }: { job: JobView }) {
  const attempt = useAttempt(job);
  if (!attempt) return null;
  return <Bar key={attempt.id} attempt={attempt} job={job} />;
}

function Bar({ attempt, job }: { attempt: AttemptView; job: JobView }) {
  const [asking, setAsking] = useState<'' | 'ask' | 'answer'>('');
  const { busy, trouble, run } = useAction();
  const [what, setWhat] = useState('');
  const chosen = attempt.asks.find((a) => a.what === what);
  const said = attempt.moves.at(-1);
  const ask = () =>
    run(async () => {
      if (!chosen) return;
      const now = await api.send(WRITES.askCar(attempt.id), {
        id: newId(),
        kind: chosen.kind,
        what: chosen.what,
      });
      await mutate(ROUTES.attempt(attempt.id), now, { revalidate: false });
      await lookAgain(job.id, ['readings', 'tests']);
    });
  const over = attempt.answered;
  // A try is answered by whoever began it.
  const mine = useAccount().name === attempt.by;
  return (
    <section
      ref={atFoot}
      aria-label="Practice"
      className="fixed inset-x-0 bottom-0 z-20 border-t-2 border-act bg-sheet px-4 py-2 no-print md:left-[204px]"
    >
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2">
        <span className="flex items-center gap-2 text-[1.1rem] font-[650]" role="status">
          <Timer size={20} aria-hidden /> <span className="figure">{attempt.minutes}</span> min
        </span>
        <span className="text-soft">
          {attempt.title}
          {attempt.exam
            ? ` · exam, car ${attempt.exam.place} of ${attempt.exam.of}`
            : attempt.hints
              ? ' · with help'
              : ' · without help'}
        </span>
        {said && (
          <span className="min-w-0 flex-1 truncate" aria-live="polite">
            {attempt.asks.find((a) => a.what === said.what)?.label}:{' '}
            <strong className="font-[650]">{said.showed !== undefined && <Say text={said.showed} />}</strong>
          </span>
        )}
        <span className="ml-auto flex flex-wrap gap-2">
          {over ? (
            <Link className="btn btn-primary" to={`/practice/${attempt.id}`}>
              {attempt.exam && !attempt.exam.over ? 'On with the exam' : 'Look back at it'}
            </Link>
          ) : !mine ? (
            <span className="text-soft">a try of {attempt.by}</span>
          ) : (
            <>
              <Press
                needs="drive"
                className="btn"
                aria-expanded={asking === 'ask'}
                onClick={() => setAsking(asking === 'ask' ? '' : 'ask')}
              >
                Ask the car
              </Press>
              <Press
                needs="drive"
                className="btn btn-primary"
                aria-expanded={asking === 'answer'}
                onClick={() => setAsking(asking === 'answer' ? '' : 'answer')}
              >
                Name the cause
              </Press>
              <GiveUp attempt={attempt} />
            </>
          )}
        </span>
      </div>
      {asking === 'ask' && !over && (
        <form
          className="flex flex-wrap items-end gap-3 py-2"
          onSubmit={(e) => {
            e.preventDefault();
            void ask();
          }}
        >
          <Field label="What to ask">
            {(aria) => (
              <select
                className="select w-[320px] max-w-full"
                value={what}
                onChange={(e) => setWhat(e.target.value)}
                {...aria}
              >
                <option value="">choose</option>
                {(['reading', 'test'] as const).map((kind) => (
                  <optgroup key={kind} label={kind === 'reading' ? 'Readings' : 'Tests'}>
                    {attempt.asks
                      .filter((a) => a.kind === kind)
                      .map((a) => (
                        <option key={a.what} value={a.what}>
                          {a.label}, {a.minutes} min{a.done ? ' (again)' : ''}
                        </option>
                      ))}
                  </optgroup>
                ))}
              </select>
            )}
          </Field>
          <button type="submit" className="btn btn-primary" disabled={busy || !chosen}>
            {busy ? 'The car answers…' : chosen ? `Spend ${counted(chosen.minutes, 'minute')}` : 'Ask'}
          </button>
        </form>
      )}
      {asking === 'answer' && !over && <Answer attempt={attempt} />}
      <Problem trouble={trouble} />
    </section>
  );
}

/** A size as a person typed it, in the fault's own unit: a size is a difference, it has no zero of its own. */
function metricSize(fault: string, v: number, units: UnitSystem): number {
  const { unit, role } = FAULT_BY_ID.get(fault)!.severity!;
  return metricOf(v, unit, units, role) - metricOf(0, unit, units, role);
}

function Answer({ attempt }: { attempt: AttemptView }) {
  const navigate = useNavigate();
  const { units } = usePreferences();
  const unitOf = (fault: string) => FAULT_BY_ID.get(fault)?.severity?.unit;
  const form = useTypedForm<{ fault: string; second: string; size: string; remedy: string }, AnswerRequest>({
    dto: AnswerRequest,
    defaults: { fault: '', second: '', size: '', remedy: '' },
    body: ({ fault, second, size, remedy }) => ({
      fault,
      ...(second ? { second } : {}),
      ...(unitOf(fault) && size.trim() !== '' ? { size: metricSize(fault, Number(typed(size)), units) } : {}),
      remedy: remedy as keyof typeof REMEDIES,
    }),
    check: ({ fault, size }) =>
      unitOf(fault) && Number.isNaN(Number(typed(size))) ? { size: `“${size}” is not a number` } : {},
    send: async (body) => {
      const now = await api.send(WRITES.answerAttempt(attempt.id), body);
      await mutate(ROUTES.attempt(attempt.id), now, { revalidate: false });
      await mutate(ROUTES.attempts);
      navigate(`/practice/${attempt.id}`);
    },
  });
  const [fault, remedy] = [form.watch('fault'), form.watch('remedy')];
  const unit = unitOf(fault);
  const causes = (field: 'fault' | 'second', none: string) => (aria: object) => (
    <select className="select w-[270px] max-w-full" {...form.register(field)} {...aria}>
      <option value="">{none}</option>
      {FAULTS.map((f) => (
        <option key={f.id} value={f.id}>
          {faultLabel(f.id)}
        </option>
      ))}
    </select>
  );
  return (
    <form className="flex flex-wrap items-end gap-3 py-2" onSubmit={form.submit} noValidate>
      <Field label="It is" error={form.error('fault')}>
        {causes('fault', 'choose')}
      </Field>
      <Field label="And at once" error={form.error('second')}>
        {causes('second', 'nothing else')}
      </Field>
      {unit && (
        <Field
          label={`Size, ${shown(0, unit, 0, units, FAULT_BY_ID.get(fault)?.severity?.role).unit}`}
          error={form.error('size')}
        >
          {(aria) => <input className="input w-28" inputMode="decimal" {...form.register('size')} {...aria} />}
        </Field>
      )}
      <Field label="What to do" error={form.error('remedy')}>
        {(aria) => (
          <select className="select w-44" {...form.register('remedy')} {...aria}>
            <option value="">choose</option>
            {Object.entries(REMEDIES).map(([id, label]) => (
              <option key={id} value={id}>
                {label}
              </option>
            ))}
          </select>
        )}
      </Field>
      <button type="submit" className="btn btn-primary" disabled={form.busy || fault === '' || remedy === ''}>
        {form.busy ? 'Working out the best path…' : 'That is it'}
      </button>
      <Problem trouble={form.trouble} text={form.rest} />
    </form>
  );
}

/** How high the bar stands, for what stands at the foot of a page beside it. */
function atFoot(bar: HTMLElement | null) {
  if (!bar) return;
  const { style } = document.documentElement;
  const observer = new ResizeObserver(() => style.setProperty('--foot', `${bar.offsetHeight}px`));
  observer.observe(bar);
  return () => {
    observer.disconnect();
    style.removeProperty('--foot');
  };
}
