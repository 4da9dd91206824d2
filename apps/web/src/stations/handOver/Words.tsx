import type { JobView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { WordingEntry } from '@just-balance/contract/service';
import { type DocumentId, type DocumentSection, sectionWords } from '@just-balance/core/handOver';
import { newId } from '../../data/api.ts';
import { queueWrite } from '../../data/writes.ts';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';

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
    await queueWrite('Wording', WRITES.addEntry(job.id), { id: newId(), kind: 'wording', data: { ...data } });
    done();
  };
  const body = (text: string): WordingEntry => ({ document, section: section.id, text, was: section.own });
  const { register, watch, submit, busy, trouble, error, rest } = useTypedForm({
    dto: WordingEntry,
    defaults: { text: sectionWords(section) },
    body: (t) => body(t.text),
    check: (t) => (t.text.trim() === '' ? { text: 'write at least a word, or take our words again' } : {}),
    send: put,
  });
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
          <button type="button" className="btn" disabled={ours.busy} onClick={() => void ours.run(() => put(body('')))}>
            Our words again
          </button>
        )}
        <button type="button" className="btn btn-ghost" onClick={done}>
          Cancel
        </button>
      </div>
      <p className="m-0 text-[0.93rem] text-soft">
        A line is a paragraph; a line that begins with • is a point. Figures, pictures and tables stay as measured.
      </p>
      <Problem text={error('text') ?? rest} trouble={trouble ?? ours.trouble} />
    </form>
  );
}
