import { AmbientRequest, type JobView, WRITES } from '@just-balance/contract';
import { write } from '../../data/writes.ts';
import { DayFields, type DayForm, dayOf, dayText } from '../../job/record/DayFields.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { usePreferences } from '../../ui/preferences.tsx';
import { useTypedForm } from '../../ui/useTypedForm.ts';

/** The day and the place, open to change: the judgement follows. */
export function Surroundings({ job }: { job: JobView }) {
  const { units } = usePreferences();
  const { watch, setValue, submit, changed, reset, busy, trouble, error, rest } = useTypedForm<DayForm, AmbientRequest>(
    {
      dto: AmbientRequest,
      defaults: dayText(job.ambient, units),
      body: (t) => dayOf(t, units),
      send: async (ambient, t) => {
        await write(WRITES.changeJob(job.id), { rev: job.rev, ambient });
        reset(t);
      },
    },
  );
  return (
    <form className="card grid gap-3 p-4" onSubmit={submit} noValidate>
      <h2 className="card-title">Surroundings</h2>
      <DayFields value={watch()} set={(k, text) => setValue(k, text, { shouldDirty: true })} error={(k) => error(k)} />
      <Problem text={rest} trouble={trouble} />
      {changed && (
        <button type="submit" className="btn btn-primary justify-self-end" disabled={busy}>
          Keep the surroundings
        </button>
      )}
    </form>
  );
}
