import type { JobView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { WordingEntry } from '@just-balance/contract/service';
import { type DocumentId, type DocumentSection, sectionWords } from '@just-balance/core/handOver';
import { newId } from '../../data/api.ts';
import { queueWrite } from '../../data/writes.ts';
import { Clashes } from '../../ui/Clashes.tsx';
import { Press } from '../../ui/May.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';

/** What the words were put over. */
interface Stands {
  rev: number;
  own: string;
  words: string;
}

/** Words of a section, put down in sight of all that stand. */
const wording = (
  { document, section }: { document: DocumentId; section: DocumentSection },
  text: string,
  was = section.own,
): WordingEntry => ({ document, section: section.id, text, was, over: [...section.heads] });
const keepWording = (job: string, data: WordingEntry) =>
  queueWrite('Wording', WRITES.addEntry(job), { id: newId(), kind: 'wording', data: { ...data } });

/** A section's words in a box; a line a paragraph, a line that begins with a bullet a point of a list. */
export function Words({
  job,
  document,
  section,
  done,
}: {
  job: JobView;
  document: DocumentId;
  section: DocumentSection;
  done: () => void;
}) {
  const put = async (data: WordingEntry) => {
    await keepWording(job.id, data);
    done();
  };
  // As often as it was put in other words: somebody else's come beside what is being typed here.
  const rev = job.entries.filter(
    (e) => e.kind === 'wording' && e.data.document === document && e.data.section === section.id,
  ).length;
  const form = useTypedForm<{ text: string }, WordingEntry, Stands>({
    dto: WordingEntry,
    keep: `${job.id} ${document} ${section.id} words`,
    over: { now: { rev, own: section.own, words: sectionWords(section) }, text: (s) => ({ text: s.words }) },
    defaults: { text: sectionWords(section) },
    body: (t, stands) => wording({ document, section }, t.text, stands?.own),
    check: (t) => (t.text.trim() === '' ? { text: 'write at least a word, or take our words again' } : {}),
    send: put,
  });
  const { register, watch, submit, busy, trouble, error, rest } = form;
  const ours = useAction();
  const text = watch('text');
  return (
    <form className="grid gap-2 no-print" onSubmit={submit} noValidate>
      <textarea
        className="textarea w-full"
        aria-label={section.heading}
        aria-invalid={error('text') !== undefined}
        rows={Math.min(12, Math.max(3, text.split('\n').length + 1))}
        maxLength={4000}
        {...register('text')}
      />
      <div className="flex flex-wrap gap-3">
        <button type="submit" className="btn btn-primary" disabled={busy}>
          Keep these words
        </button>
        {section.edited && (
          <button
            type="button"
            className="btn"
            disabled={ours.busy}
            onClick={() => void ours.run(() => put(wording({ document, section }, '')))}
          >
            Our words again
          </button>
        )}
        <button
          type="button"
          className="btn btn-ghost"
          onClick={() => {
            form.forget();
            done();
          }}
        >
          Cancel
        </button>
      </div>
      <p className="m-0 text-[0.93rem] text-soft">
        A line is a paragraph; a line that begins with • is a point. Figures, pictures and tables stay as measured.
      </p>
      <Clashes clashes={form.clashes} settle={form.settle} />
      <Problem text={error('text') ?? rest} trouble={trouble ?? ours.trouble} />
    </form>
  );
}

/** Two wordings of a section, neither written in sight of the other: which of them is it? */
export function TwoWordings({
  job,
  document,
  section,
}: {
  job: JobView;
  document: DocumentId;
  section: DocumentSection;
}) {
  const { busy, trouble, run } = useAction();
  const stands = section.edited ? sectionWords(section) : '';
  const settle = (text: string) =>
    run(async () => {
      await keepWording(job.id, wording({ document, section }, text));
    });
  return (
    <div
      role="alert"
      aria-label={`Two wordings: ${section.heading}`}
      className="alert alert-warning flex flex-col items-start gap-2 px-4 py-3 no-print"
    >
      <strong className="font-[650]">
        {section.edited
          ? `Worded twice at the same time. What ${section.edited.by} wrote stands. It does not say:`
          : 'Worded twice at the same time. Our words stand. They do not say:'}
      </strong>
      {section.others.map((o) => (
        <p key={`${o.by} ${o.at}`} className="m-0">
          {o.by}: <q className="whitespace-pre-line">{o.text || 'our words again'}</q>
        </p>
      ))}
      <div className="flex flex-wrap gap-3">
        <Press className="btn" disabled={busy} onClick={() => settle(stands)}>
          Keep what stands
        </Press>
        {section.others.map((o) => (
          <Press key={`${o.by} ${o.at}`} className="btn" disabled={busy} onClick={() => settle(o.text)}>
            Take what {o.by} wrote
          </Press>
        ))}
      </div>
      <Problem trouble={trouble} />
    </div>
  );
}
