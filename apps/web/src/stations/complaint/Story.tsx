import { COMPLAINTS, type JobView, RecentWorkDto, SITUATIONS } from '@just-balance/contract';
import { pointsFor } from '@just-balance/core/capture';
import { complaintLabel, PART_MAKES, partLabel, pointLabel } from '@just-balance/core/case';
import { idInWords } from '@just-balance/core/units';
import { useState } from 'react';
import { ofJob } from '../../data/ofJob.ts';
import { SymptomPicker } from '../../job/SymptomPicker.tsx';
import { Field } from '../../ui/Field.tsx';
import { Fold } from '../../ui/Fold.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { typed } from '../../ui/typed.ts';
import { useAction } from '../../ui/useAction.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';

/** Who noticed what, when, and what was touched last. */
export function Story({ job }: { job: JobView }) {
  const { busy, trouble, run } = useAction();
  const patch = (complaint: typeof job.complaint) =>
    run(
      async () => {
        await ofJob(job.id).patch('', { rev: job.rev, complaint });
      },
      { complaint },
    );
  const recent = job.complaint.recentWork ?? [];
  return (
    <section className="card grid gap-4 p-4" aria-busy={busy}>
      <h2 className="card-title">Complaint</h2>
      <p className="m-0 text-[1.1rem]">{job.complaint.story || 'No words written down.'}</p>
      <SymptomPicker
        all={COMPLAINTS}
        chosen={job.complaint.symptoms}
        change={(symptoms) => patch({ ...job.complaint, symptoms })}
      />
      {job.complaint.symptoms.some((s) => s !== 'none' && s !== 'lamp-only' && s !== 'failed-inspection') && (
        <When job={job} patch={patch} />
      )}
      <div>
        <h3 className="m-0 mb-1 text-[0.93rem] font-[550]">What was touched last</h3>
        <ul className="m-0 mb-2 flex list-none flex-wrap gap-2 p-0">
          {recent.map((w) => (
            <li key={w.part} className="badge badge-outline border-dashed py-1">
              {partLabel(w.part)}
              {w.days !== undefined && ` · ${w.days} days ago`}
              {w.make && w.make !== 'original' && ` · ${w.make === 'not known' ? 'make not known' : w.make}`}
            </li>
          ))}
          {recent.length === 0 && <li className="text-soft">Nothing known. “Already replaced” proves little.</li>}
        </ul>
        <WorkForm add={(w) => patch({ ...job.complaint, recentWork: [...recent, w] })} />
      </div>
      <OtherLamps key={job.complaint.otherLamps ?? ''} job={job} patch={patch} />
      <div>
        <h3 className="m-0 mb-1 text-[0.93rem] font-[550]">Readings this complaint asks for</h3>
        <ul className="m-0 flex list-none flex-wrap gap-2 p-0">
          {pointsFor(job.vehicle, job.complaint.symptoms).map((at) => (
            <li key={at} className="badge badge-outline border-dashed py-1">
              {pointLabel(at)}
            </li>
          ))}
        </ul>
      </div>
      <Problem trouble={trouble} />
    </section>
  );
}

/** What was touched, and how long ago where that is known. */
function WorkForm({ add }: { add: (w: RecentWorkDto) => Promise<void> }) {
  const { register, reset, submit, busy, error } = useTypedForm({
    dto: RecentWorkDto,
    defaults: { part: '', days: '', make: '' },
    body: (t) => ({
      part: t.part.trim().toLowerCase().replaceAll(' ', '-'),
      ...(t.days.trim() === '' ? {} : { days: Number(typed(t.days)) }),
      ...(t.make === '' ? {} : { make: t.make as RecentWorkDto['make'] }),
    }),
    send: async (w) => {
      await add(w);
      reset();
    },
  });
  return (
    <form className="flex flex-wrap items-end gap-2" onSubmit={submit} noValidate>
      <Field className="min-w-48 flex-1" label="Part or work" error={error('part')}>
        {(aria) => <input className="input" {...register('part')} {...aria} />}
      </Field>
      <Field className="w-32" label="Days ago" error={error('days')}>
        {(aria) => <input className="input" inputMode="numeric" {...register('days')} {...aria} />}
      </Field>
      <Field className="w-40" label="Replaced by" error={error('make')}>
        {(aria) => (
          <select className="select" {...register('make')} {...aria}>
            <option value="">not replaced</option>
            {PART_MAKES.map((m) => (
              <option key={m}>{m}</option>
            ))}
          </select>
        )}
      </Field>
      <button type="submit" className="btn" disabled={busy}>
        Add
      </button>
    </form>
  );
}

type Patch = (complaint: JobView['complaint']) => Promise<void>;

/** Each symptom with the situations it shows in. */
function When({ job, patch }: { job: JobView } & { patch: Patch }) {
  const { complaint } = job;
  const of = (symptom: string) => complaint.when?.find((w) => w.symptom === symptom)?.situations ?? [];
  const toggle = (symptom: string, situation: string) => {
    const now = of(symptom);
    const situations = now.includes(situation) ? now.filter((s) => s !== situation) : [...now, situation];
    const others = (complaint.when ?? []).filter((w) => w.symptom !== symptom);
    return patch({ ...complaint, when: situations.length > 0 ? [...others, { symptom, situations }] : others });
  };
  return (
    <Fold open={(complaint.when?.length ?? 0) > 0} title="When it shows">
      {complaint.symptoms.map((symptom) => (
        <fieldset key={symptom} className="m-0 mt-2 border-0 p-0">
          <legend className="p-0 text-[0.93rem] font-[550]">{complaintLabel(symptom)}</legend>
          <div className="mt-1 flex flex-wrap gap-2">
            {SITUATIONS.map((s) => (
              <button
                key={s}
                type="button"
                aria-pressed={of(symptom).includes(s)}
                className={`btn px-3 ${of(symptom).includes(s) ? 'btn-neutral' : ''}`}
                onClick={() => void toggle(symptom, s)}
              >
                {idInWords(s)}
              </button>
            ))}
          </div>
        </fieldset>
      ))}
    </Fold>
  );
}

function OtherLamps({ job, patch }: { job: JobView } & { patch: Patch }) {
  const [text, setText] = useState(job.complaint.otherLamps ?? '');
  return (
    <label className="field">
      Other lamps seen
      <input
        className="input"
        value={text}
        maxLength={200}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => {
          if (text !== (job.complaint.otherLamps ?? '')) void patch({ ...job.complaint, otherLamps: text });
        }}
      />
    </label>
  );
}
