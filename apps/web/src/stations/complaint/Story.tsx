import { COMPLAINTS, type JobSummary, type JobView, RecentWorkDto, SITUATIONS, WRITES } from '@just-balance/contract';
import { pointsFor } from '@just-balance/core/capture';
import {
  complaintLabel,
  PART_MAKES,
  PARTS,
  type PartRow,
  partLabel,
  partNames,
  partOf,
  pointLabel,
} from '@just-balance/core/case';
import { counted, idInWords } from '@just-balance/core/units';
import { X } from 'lucide-react';
import { useRef, useState } from 'react';
import { MOST_TRIES, standsNow } from '../../data/api.ts';
import { showAnswer } from '../../data/job.ts';
import { write } from '../../data/writes.ts';
import { SymptomPicker } from '../../job/record/SymptomPicker.tsx';
import { PhotosOf } from '../../photos/PhotosOf.tsx';
import { Combobox } from '../../ui/Combobox.tsx';
import { Field } from '../../ui/Field.tsx';
import { Fold } from '../../ui/Fold.tsx';
import { IconButton } from '../../ui/IconButton.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { typed } from '../../ui/typed.ts';
import { useAction } from '../../ui/useAction.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';

/** Who noticed what, when, and what was touched last; all of it open to change. */
export function Story({ job }: { job: JobView }) {
  const { busy, trouble, run } = useAction();
  // Changes go up one after the other, each over what the one before has left: two quick presses are no conflict.
  const head = useRef({ rev: job.rev, complaint: job.complaint });
  const turn = useRef(Promise.resolve());
  if (job.rev > head.current.rev) head.current = { rev: job.rev, complaint: job.complaint };
  const patch: Patch = (change) => {
    const next = turn.current.then(() => run(() => over(change)));
    turn.current = next;
    return next;
  };
  // Over the newest: where somebody else was quicker, the change is made of what they have left.
  const over = async (change: Parameters<Patch>[0]) => {
    for (let tries = 1; ; tries++) {
      const complaint = change(head.current.complaint);
      if (complaint === null) throw new Error('Somebody else has changed these words meanwhile: say which is right.');
      try {
        const answer = await write(WRITES.changeJob(job.id), { rev: head.current.rev, complaint });
        head.current = { rev: answer.rev, complaint: answer.complaint };
        return;
      } catch (e) {
        const now = standsNow<JobSummary>(e);
        if (now === null || tries === MOST_TRIES) throw e;
        head.current = { rev: now.rev, complaint: now.complaint };
        await showAnswer(job.id, '', now);
      }
    }
  };
  const recent = job.complaint.recentWork ?? [];
  return (
    <section className="card grid gap-4 p-4" aria-busy={busy}>
      <h2 className="card-title">Complaint</h2>
      <Words
        label="Who noticed what, and when"
        long
        of={(c) => c.story}
        set={(story) => ({ story })}
        {...{ job, patch }}
      />
      <SymptomPicker
        all={COMPLAINTS}
        chosen={job.complaint.symptoms}
        change={(symptoms) =>
          patch((c) => ({ ...c, symptoms: withChange(c.symptoms, job.complaint.symptoms, symptoms) }))
        }
      />
      {job.complaint.symptoms.some((s) => s !== 'none' && s !== 'lamp-only' && s !== 'failed-inspection') && (
        <When job={job} patch={patch} />
      )}
      <div>
        <h3 className="m-0 mb-1 text-[0.93rem] font-[550]">What was touched last</h3>
        <ul className="m-0 mb-2 flex list-none flex-wrap gap-2 p-0">
          {recent.map((w, i) => (
            <li
              key={`${w.part} ${w.days ?? ''} ${w.make ?? ''}`}
              className="flex items-center gap-1 rounded-field border border-rule pl-3"
            >
              {partLabel(w.part)}
              {w.days !== undefined && ` · ${w.days === 0 ? 'today' : `${counted(w.days, 'day')} ago`}`}
              {w.make && w.make !== 'original' && ` · ${w.make === 'not known' ? 'make not known' : w.make}`}
              <IconButton
                name={`Remove ${partLabel(w.part)}`}
                className="btn btn-ghost px-3"
                press={() => void patch((c) => ({ ...c, recentWork: without(c.recentWork ?? [], w, i) }))}
              >
                <X size={18} aria-hidden />
              </IconButton>
            </li>
          ))}
          {recent.length === 0 && <li className="text-soft">Nothing known. “Already replaced” proves little.</li>}
        </ul>
        <WorkForm add={(w) => patch((c) => ({ ...c, recentWork: [...(c.recentWork ?? []), w] }))} />
      </div>
      <Words
        label="Other lamps seen"
        of={(c) => c.otherLamps}
        set={(otherLamps) => ({ otherLamps })}
        {...{ job, patch }}
      />
      <PhotosOf job={job} step="complaint" label="Complaint" />
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

/** What was put in and taken out of a list here, done to the list as it is by now: somebody else's changes of it stay. */
function withChange<T>(now: readonly T[], shown: readonly T[], next: readonly T[]): T[] {
  const out = now.filter((x) => next.includes(x) || !shown.includes(x));
  return [...out, ...next.filter((x) => !shown.includes(x) && !out.includes(x))];
}

/** The list without the entry that stood at a place; what has moved meanwhile is found by what it says. */
function without(list: RecentWorkDto[], entry: RecentWorkDto, place: number): RecentWorkDto[] {
  const same = (w: RecentWorkDto | undefined) => JSON.stringify(w) === JSON.stringify(entry);
  const at = same(list[place]) ? place : list.findIndex(same);
  return list.filter((_, i) => i !== at);
}

/** What was touched, and how long ago where that is known: a part of the list, or words of one's own. */
function WorkForm({ add }: { add: (w: RecentWorkDto) => Promise<void> }) {
  const [part, setPart] = useState<PartRow | null>(null);
  const [round, setRound] = useState(0);
  const { register, reset, submit, setValue, watch, busy, error } = useTypedForm({
    dto: RecentWorkDto,
    defaults: { part: '', days: '', make: '' },
    body: (t) => ({
      part: t.part.trim(),
      ...(t.days.trim() === '' ? {} : { days: Number(typed(t.days)) }),
      ...(t.make === '' ? {} : { make: t.make as RecentWorkDto['make'] }),
    }),
    send: async (w) => {
      await add(w);
      setPart(null);
      setRound(round + 1);
      reset();
    },
  });
  const own = watch('part');
  const meant = part ?? (own.trim() ? partOf(own) : null);
  return (
    <form className="flex flex-wrap items-end gap-2" onSubmit={submit} noValidate>
      <Combobox
        key={round}
        className="min-w-64 flex-1"
        label="Part or work"
        placeholder="Type any name of it"
        all={PARTS}
        textOf={(p) => p.label}
        findIn={partNames}
        keyOf={(p) => p.id}
        chosen={part}
        choose={(p) => {
          setPart(p);
          setValue('part', p?.id ?? '');
        }}
        typed={(text) => {
          if (part && text === part.label) return;
          setPart(null);
          setValue('part', text);
        }}
      />
      <Field className="w-28" label="Days ago" error={error('days')}>
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
      <button type="submit" className="btn" disabled={busy || own.trim() === ''}>
        Add
      </button>
      {own.trim() !== '' && !part && (
        <p role="status" className="m-0 basis-full text-[0.93rem] text-soft">
          {meant
            ? `Counts as: ${meant.label}.`
            : 'Kept as it is written; no part of the list, so nothing follows from it.'}
        </p>
      )}
      {error('part') && <Problem text={error('part')!} />}
    </form>
  );
}

type Complaint = JobView['complaint'];
/** Null: it would overwrite what somebody else has put there. */
type Patch = (change: (now: Complaint) => Complaint | null) => Promise<void>;

/** Each symptom with the situations it shows in. */
function When({ job, patch }: { job: JobView } & { patch: Patch }) {
  const { complaint } = job;
  const of = (symptom: string) => complaint.when?.find((w) => w.symptom === symptom)?.situations ?? [];
  const toggle = (symptom: string, situation: string) => {
    const shown = of(symptom);
    const next = shown.includes(situation) ? shown.filter((s) => s !== situation) : [...shown, situation];
    return patch((c) => {
      const now = c.when?.find((w) => w.symptom === symptom)?.situations ?? [];
      const situations = withChange(now, shown, next);
      const others = (c.when ?? []).filter((w) => w.symptom !== symptom);
      return { ...c, when: situations.length > 0 ? [...others, { symptom, situations }] : others };
    });
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

/** Words of the complaint: kept when the field is left. */
function Words({
  job,
  patch,
  label,
  long = false,
  of,
  set,
}: {
  job: JobView;
  patch: Patch;
  label: string;
  long?: boolean;
  of: (c: Complaint) => string | undefined;
  set: (text: string) => Partial<Complaint>;
}) {
  const stands = of(job.complaint) ?? '';
  const [text, setText] = useState(stands);
  const [last, setLast] = useState(stands);
  /** What somebody else has made of it while something was being typed here. */
  const [theirs, setTheirs] = useState<string | null>(null);
  // Somebody else has changed it: shown at once; beside what is being typed here, where something is.
  if (stands !== last) {
    setLast(stands);
    if (text === last || text === stands) setText(stands);
    else setTheirs(stands);
  }
  const keep = (words: string) => {
    setTheirs(null);
    setText(words);
    if (words !== stands) void patch((c) => ((of(c) ?? '') === stands ? { ...c, ...set(words) } : null));
  };
  const shared = {
    value: text,
    maxLength: long ? 2000 : 200,
    onChange: (e: React.ChangeEvent<HTMLInputElement | HTMLTextAreaElement>) => setText(e.target.value),
    onBlur: () => {
      // Two versions: a person says which.
      if (text !== stands && theirs === null)
        void patch((c) => ((of(c) ?? '') === stands ? { ...c, ...set(text) } : null));
    },
  };
  return (
    <>
      <Field label={label}>
        {(aria) =>
          long ? (
            <textarea className="textarea text-[1.05rem]" rows={2} {...shared} {...aria} />
          ) : (
            <input className="input" {...shared} {...aria} />
          )
        }
      </Field>
      {theirs !== null && (
        <div role="alert" className="alert alert-warning flex flex-col items-start gap-2 px-4 py-3">
          <strong className="font-[650]">Somebody else has changed this meanwhile. Theirs is stored:</strong>
          <q>{theirs || 'nothing'}</q>
          <div className="flex flex-wrap gap-3">
            <button type="button" className="btn" onClick={() => keep(text)}>
              Keep mine
            </button>
            <button type="button" className="btn" onClick={() => keep(theirs)}>
              Take theirs
            </button>
          </div>
        </div>
      )}
    </>
  );
}
