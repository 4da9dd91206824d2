import { type OwnView, WRITES } from '@just-balance/contract';
import { type OwnKind, ProcedureFileRequest } from '@just-balance/contract/service';
import { useState } from 'react';
import { api, newId, standsNow } from '../../data/api.ts';
import { fileText } from '../../data/fileText.ts';
import { Field } from '../../ui/Field.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';
import { freeId, type Titled, withId } from './ownText.ts';

/** A text before it is kept: a new one, or with its revision the one it changes. */
export interface Draft {
  id: string;
  rev?: number;
  text: string;
  copiedFrom: string | null;
}

/** A copy, a file or an own one as text; every fault of it with its line. */
export function OwnTextForm({
  kind,
  one,
  own,
  draft,
  leave,
  kept,
}: {
  kind: OwnKind;
  one: string;
  own: readonly OwnView<Titled>[];
  draft: Draft;
  leave: () => void;
  kept: (title: string) => Promise<void>;
}) {
  const { copiedFrom } = draft;
  /** Which one it becomes a version of, and over which revision. */
  const [target, setTarget] = useState<Pick<Draft, 'id' | 'rev'>>({
    id: draft.id,
    ...(draft.rev ? { rev: draft.rev } : {}),
  });
  /** One of the same id, or a newer version of this one: a person says what becomes of it. */
  const [there, setThere] = useState<OwnView<Titled> | null>(null);
  const [theirs, setTheirs] = useState<string | null>(null);
  const { register, submit, setValue, getValues, busy, trouble, error, rest } = useTypedForm({
    dto: ProcedureFileRequest,
    defaults: { file: draft.text },
    body: (t) => ({ ...target, kind, text: t.file, ...(copiedFrom ? { copiedFrom } : {}) }),
    fields: { text: 'file' },
    send: async (body) => {
      try {
        const { procedure } = await api.send(WRITES.ownProcedure, body);
        await kept((procedure as Titled).title);
      } catch (e) {
        setThere(standsNow<OwnView<Titled>>(e));
        throw e;
      }
    },
  });
  const look = useAction();
  const over = (p: OwnView<Titled>) => {
    setTarget({ id: p.id, rev: p.rev });
    setThere(null);
  };
  const apart = () => {
    const text = getValues('file');
    const id = /^id: *(\S+)/m.exec(text)?.[1] ?? `our-${kind}`;
    setValue('file', withId(text, freeId(id, there ? [...own, there] : own)));
    setTarget({ id: newId() });
    setThere(null);
  };
  return (
    <form className="grid gap-3" onSubmit={submit} noValidate>
      <Field
        label={copiedFrom ? `Copied from ${copiedFrom}` : `${one[0]!.toUpperCase()}${one.slice(1)} as text`}
        error={error('file')}
      >
        {(aria) => (
          <textarea className="textarea figure h-96 text-[0.9rem]" spellCheck={false} {...register('file')} {...aria} />
        )}
      </Field>
      <Problem text={rest} trouble={trouble && { ...trouble, errors: [], conflict: null }} />
      {there && (
        <section className="grid gap-3" aria-label="Two versions">
          <div className="flex flex-wrap gap-3">
            <button type="button" className="btn" onClick={() => over(there)}>
              Mine as version {there.rev + 1} of “{there.procedure.title}”
            </button>
            <button type="button" className="btn" onClick={apart}>
              Mine under an id of its own
            </button>
            <button
              type="button"
              className="btn"
              disabled={look.busy}
              onClick={() => look.run(async () => setTheirs(await fileText(`/procedures/${there.id}/file`)))}
            >
              Show version {there.rev}, by {there.by}
            </button>
          </div>
          {theirs !== null && (
            <textarea
              className="textarea figure h-64 text-[0.9rem]"
              readOnly
              aria-label={`Version ${there.rev}`}
              value={theirs}
            />
          )}
          <Problem trouble={look.trouble} />
        </section>
      )}
      {trouble && trouble.errors.length > 1 && (
        <ul className="m-0 pl-5 text-caution" aria-label="Faults of the text">
          {trouble.errors.slice(0, 12).map((e) => (
            <li key={`${e.field} ${e.message}`}>
              {'line' in e ? `line ${String(e.line)}, ` : ''}
              {e.field}: {e.message}
            </li>
          ))}
        </ul>
      )}
      <div className="flex gap-3">
        <button type="submit" className="btn btn-primary" disabled={busy}>
          Keep the {one}
        </button>
        <button type="button" className="btn" onClick={leave}>
          Leave it
        </button>
      </div>
    </form>
  );
}
