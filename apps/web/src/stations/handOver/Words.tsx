import type { JobView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { type DocumentId, type DocumentSection, sectionWords } from '@just-balance/core/handOver';
import { useState } from 'react';
import { newId } from '../../data/api.ts';
import { queueWrite } from '../../data/writes.ts';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';

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
  const [text, setText] = useState(() => sectionWords(section));
  const { busy, trouble, run } = useAction();
  const keep = (words: string) =>
    run(async () => {
      const data = { document, section: section.id, text: words, was: section.own };
      await queueWrite('Wording', WRITES.addEntry(job.id), { id: newId(), kind: 'wording', data });
      done();
    });
  return (
    <form
      className="grid gap-2 no-print"
      onSubmit={(e) => {
        e.preventDefault();
        void keep(text);
      }}
    >
      <textarea
        className="textarea w-full"
        aria-label={section.heading}
        rows={Math.min(12, Math.max(3, text.split('\n').length + 1))}
        maxLength={4000}
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      <div className="flex flex-wrap gap-3">
        <button type="submit" className="btn btn-primary" disabled={busy || text.trim() === ''}>
          Keep these words
        </button>
        {section.edited && (
          <button type="button" className="btn" disabled={busy} onClick={() => void keep('')}>
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
      <Problem trouble={trouble} />
    </form>
  );
}
