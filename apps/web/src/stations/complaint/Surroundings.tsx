import { AmbientRequest, type JobSummary, type JobView, WRITES } from '@just-balance/contract';
import { write } from '../../data/writes.ts';
import { DayFields, type DayForm, dayOf, dayText } from '../../job/record/DayFields.tsx';
import { Clashes } from '../../ui/Clashes.tsx';
import { onlyChanged } from '../../ui/merge.ts';
import { Problem } from '../../ui/Problem.tsx';
import { usePreferences } from '../../ui/preferences.tsx';
import { useTypedForm } from '../../ui/useTypedForm.ts';

/** The day and the place, open to change: the judgement follows. */
export function Surroundings({ job }: { job: JobView }) {
  const { units } = usePreferences();
  const form = useTypedForm<DayForm, AmbientRequest, Pick<JobSummary, 'rev' | 'ambient'>>({
    dto: AmbientRequest,
    over: { now: job, text: (j) => dayText(j.ambient, units) },
    defaults: dayText(job.ambient, units),
    body: (t, stands = job) =>
      onlyChanged(stands.ambient, dayOf(dayText(stands.ambient, units), units), dayOf(t, units)),
    send: async (ambient, t, stands = job) => {
      await write(WRITES.changeJob(job.id), { rev: stands.rev, ambient });
      reset(t);
    },
  });
  const { watch, setValue, submit, changed, reset, busy, trouble, error, rest } = form;
  return (
    <form className="card grid gap-3 p-4" onSubmit={submit} noValidate>
      <h2 className="card-title">Surroundings</h2>
      <DayFields
        value={watch()}
        set={(k, text) => setValue(k, text, { shouldDirty: true })}
        follow={(k, text) => form.follow(k, text)}
        error={(k) => error(k)}
      />
      <Clashes clashes={form.clashes} settle={form.settle} />
      <Problem text={rest} trouble={trouble} />
      {changed && (
        <button type="submit" className="btn btn-primary justify-self-end" disabled={busy}>
          Keep the surroundings
        </button>
      )}
    </form>
  );
}
