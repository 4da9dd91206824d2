import type { OwnView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import type { OwnKind } from '@just-balance/contract/service';
import { SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { DRIVE_PROCEDURES, INSPECTION_RULES } from '@just-balance/core/readiness';
import { useRef, useState } from 'react';
import useSWR from 'swr';
import { api, newId } from '../../data/api.ts';
import { fileText } from '../../data/fileText.ts';
import { useMay } from '../../data/session.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';
import { type Draft, OwnTextForm } from './OwnTextForm.tsx';
import { freeId, type Titled, withId } from './ownText.ts';
import { Versions } from './Versions.tsx';

interface Words {
  title: string;
  /** What a person calls one. */
  one: string;
  about: string;
  ours: readonly Titled[];
}

const WORDS: Readonly<Record<OwnKind, Words>> = {
  service: {
    title: 'Service procedures',
    one: 'procedure',
    about: 'Ours cannot be changed, a copy can. Files are YAML or JSON; every fault of one is named with its line.',
    ours: SHIPPED_PROCEDURES,
  },
  drive: {
    title: 'Drive procedures',
    one: 'drive procedure',
    about:
      'The vehicle’s own from service information wins over ours. Bounds stand in any unit; no step with the engine off unless the car stands.',
    ours: DRIVE_PROCEDURES,
  },
  rule: {
    title: 'Inspection rules',
    one: 'inspection rule',
    about: 'Local and dated: copy one, change place, date and figures, and name where they come from.',
    ours: INSPECTION_RULES,
  },
};

/** Ours and the shop's own of a kind: copied, changed as text, brought in and taken out as files. */
export function OwnTexts({ kind }: { kind: OwnKind }) {
  const words = WORDS[kind];
  const { data, mutate } = useSWR<OwnView<Titled>[]>(kind === 'service' ? '/procedures' : `/procedures?kind=${kind}`);
  const may = useMay('judge');
  const { busy, trouble, run } = useAction();
  const [draft, setDraft] = useState<Draft | null>(null);
  const [saved, setSaved] = useState('');
  const file = useRef<HTMLInputElement>(null);
  const own = data ?? [];

  const copy = (slug: string) =>
    run(async () => {
      const text = await fileText(`/procedures/ours/${slug}?kind=${kind}`);
      setDraft({ id: newId(), text: withId(text, freeId(`our-${slug}`, own)), copiedFrom: slug });
    });
  const edit = (p: OwnView<Titled>) =>
    run(async () =>
      setDraft({
        ...{ id: p.id, rev: p.rev, copiedFrom: p.copiedFrom },
        text: await fileText(`/procedures/${p.id}/file`),
      }),
    );
  const undo = (p: OwnView<Titled>) =>
    run(async () => {
      await api.send(WRITES.changeProcedure(p.id), { rev: p.rev, undone: !p.undone });
      await mutate();
    });
  return (
    <section className="card grid gap-3 p-4" aria-labelledby={`own-${kind}`}>
      <h2 id={`own-${kind}`} className="card-title">
        {words.title}
      </h2>
      <p className="m-0 text-soft">{words.about}</p>
      <Problem trouble={trouble} />
      <p role="status" className="m-0 font-[550]">
        {saved}
      </p>
      {draft ? (
        <OwnTextForm
          kind={kind}
          one={words.one}
          own={own}
          draft={draft}
          leave={() => setDraft(null)}
          kept={async (title) => {
            await mutate();
            setDraft(null);
            setSaved(`${title}: kept.`);
          }}
        />
      ) : (
        may && (
          <div className="flex flex-wrap gap-3">
            <input
              ref={file}
              type="file"
              accept=".yaml,.yml,.json"
              aria-label={`File of a ${words.one}`}
              className="sr-only"
              tabIndex={-1}
              onChange={(e) => {
                const chosen = e.target.files?.[0];
                e.target.value = '';
                if (chosen)
                  void run(async () => setDraft({ id: newId(), text: await chosen.text(), copiedFrom: null }));
              }}
            />
            <button type="button" className="btn" onClick={() => file.current?.click()}>
              Bring in a file
            </button>
          </div>
        )
      )}
      <ul className="m-0 grid list-none gap-1 p-0" aria-label={`${words.title} of the shop`}>
        {own.map((p) => (
          <li key={p.id} className="flex flex-wrap items-center gap-3 border-b border-rule py-1">
            <span className={`min-w-60 flex-1 ${p.undone ? 'text-soft line-through' : ''}`}>
              <span className="font-[650]">{p.procedure.title}</span>
              <span className="block text-[0.9rem] text-soft">
                {p.copiedFrom ? `copied from ${p.copiedFrom} · ` : ''}
                version {p.rev} · {p.by}
              </span>
              {p.rev > 1 && <Versions own={p} may={may} changed={() => void mutate()} />}
            </span>
            <a className="btn btn-sm" href={`/api/procedures/${p.id}/file`} download>
              Take out
            </a>
            {may && (
              <>
                <button type="button" className="btn btn-sm" disabled={busy} onClick={() => edit(p)}>
                  Change
                </button>
                <button type="button" className="btn btn-sm" disabled={busy} onClick={() => undo(p)}>
                  {p.undone ? 'Put back' : 'Remove from the list'}
                </button>
              </>
            )}
          </li>
        ))}
      </ul>
      <ul className="m-0 grid list-none gap-x-8 gap-y-1 p-0 md:grid-cols-2" aria-label={`${words.title} of ours`}>
        {words.ours.map((p) => (
          <li key={p.id} className="flex items-center gap-3">
            <span className="flex-1">{p.title}</span>
            <a
              className="btn btn-sm"
              href={`/api/procedures/ours/${p.id}?kind=${kind}`}
              download
              aria-label={`Take out: ${p.title}`}
            >
              Take out
            </a>
            {may && (
              <button
                type="button"
                className="btn btn-sm"
                disabled={busy}
                onClick={() => copy(p.id)}
                aria-label={`Copy: ${p.title}`}
              >
                Copy
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
