import { ROUTES, type Route, WRITES } from '@just-balance/contract';
import { OWN_KINDS } from '@just-balance/contract/service';
import { useEffect, useMemo, useRef, useState } from 'react';
import { mutate } from 'swr';
import { api, newId } from '../../data/api.ts';
import { fileText } from '../../data/fileText.ts';
import { read } from '../../data/reads.ts';
import { useMay } from '../../data/session.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { StopBar } from '../../ui/StopBar.tsx';
import { useAction } from '../../ui/useAction.ts';
import { type Change, changesOf, type ShopFile, type ShopNow } from './shopFile.ts';

const LISTS = {
  service: ROUTES.procedures,
  drive: ROUTES.driveProcedures,
  rule: ROUTES.inspectionRules,
} as const;

/** What this shop has of all that the file of another may change. */
async function shopNow(file: ShopFile): Promise<ShopNow> {
  const texts: ShopNow['texts'][number][] = [];
  for (const kind of OWN_KINDS)
    for (const own of await read<ShopNow['texts'][number]['own'][]>(LISTS[kind])) {
      if (!file.texts.some((t) => t.kind === kind && t.id === own.procedure.id)) continue;
      texts.push({ kind, own, text: await fileText(`/procedures/${own.id}/file`) });
    }
  const fresh = <A,>(route: Route<A>) => read<A>(route);
  return { texts, settings: await fresh(ROUTES.settings), layouts: await fresh(ROUTES.layouts) };
}

async function bring(c: Exclude<Change, { what: 'jobs' }>): Promise<void> {
  if (c.what === 'settings') await api.send(WRITES.settings, { rev: c.rev, settings: c.settings });
  else if (c.what === 'layout') await api.send(WRITES.keepLayout, { ...c.layout });
  else
    await api.send(WRITES.ownProcedure, {
      ...{ id: c.over?.id ?? newId(), kind: c.kind, text: c.text },
      ...(c.over ? { rev: c.over.rev } : {}),
    });
}

const TAG: Readonly<Record<Change['is'], string>> = { new: 'new here', differs: 'changes', same: 'the same' };

/** What the file of another shop would change in this one, each with a box; then one after the other, the jobs last. */
export function ShopLook({
  file,
  jobs,
  close,
}: {
  file: ShopFile;
  /** Read its jobs in. */
  jobs: () => Promise<void>;
  close: () => void;
}) {
  const lead = useMay('lead');
  const [now, setNow] = useState<ShopNow | null>(null);
  const looking = useAction();
  const { busy, trouble, run } = useAction();
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [at, setAt] = useState<{ done: number; of: number } | null>(null);
  const [said, setSaid] = useState<{ label: string; trouble: string | null }[]>([]);
  const stop = useRef(false);
  useEffect(() => {
    void looking.run(async () => setNow(await shopNow(file)));
  }, [file]);
  const changes = useMemo(() => (now ? changesOf(file, now) : []), [file, now]);
  const may = (c: Change) => c.what !== 'settings' || lead;
  const shown = changes.filter((c) => c.is !== 'same');
  const same = changes.length - shown.length;
  const ticked = shown.filter((c) => may(c) && !left.has(c.key));
  const begin = () =>
    run(async () => {
      stop.current = false;
      setSaid([]);
      try {
        for (const [done, c] of ticked.entries()) {
          if (stop.current) break;
          setAt(c.what === 'jobs' ? null : { done, of: ticked.length });
          if (c.what === 'jobs') await jobs();
          else {
            // One that is refused holds up none of the others.
            const trouble = await bring(c).then(
              () => null,
              (e: unknown) => (e as Error).message,
            );
            setSaid((list) => [...list, { label: c.label, trouble }]);
          }
        }
      } finally {
        setAt(null);
        for (const route of [...Object.values(LISTS), ROUTES.settings, ROUTES.layouts, ROUTES.session])
          void mutate(route);
      }
      setNow(await shopNow(file));
    });
  const refused = said.filter((s) => s.trouble !== null);
  return (
    <section className="card grid gap-3 border-2 border-act p-4" aria-label={`From ${file.shop}: what would change`}>
      <h2 className="card-title">From {file.shop}: what would change</h2>
      <Problem trouble={looking.trouble} />
      {!now && !looking.trouble && <p className="m-0 text-soft">Looking at what is here…</p>}
      <ul className="m-0 grid list-none gap-1 p-0">
        {shown.map((c) => (
          <li key={c.key}>
            <label className="flex min-h-12 items-start gap-3 py-1">
              <input
                type="checkbox"
                className="checkbox mt-1"
                disabled={busy || !may(c)}
                checked={may(c) && !left.has(c.key)}
                onChange={(e) => {
                  const next = new Set(left);
                  if (e.target.checked) next.delete(c.key);
                  else next.add(c.key);
                  setLeft(next);
                }}
              />
              <span>
                <span className="font-[650]">{c.label}</span>{' '}
                {c.what !== 'jobs' && (
                  <span className={`badge ${c.is === 'differs' ? 'badge-warning' : 'badge-outline'}`}>{TAG[c.is]}</span>
                )}
                <span className="block text-[0.93rem] text-soft">
                  {may(c) ? c.detail : 'Settings are the lead’s to bring in.'}
                </span>
              </span>
            </label>
          </li>
        ))}
      </ul>
      {now && shown.length === 0 && <p className="m-0">Nothing in it is new here.</p>}
      {same > 0 && <p className="m-0 text-soft">The same already: {same}.</p>}
      {file.leftOut > 0 && (
        <p className="m-0 text-soft">
          Jobs that could not go into the file, each with its reason inside: {file.leftOut}.
        </p>
      )}
      {said.length > 0 && (
        <p className="m-0" role="status">
          Brought in: {said.length - refused.length}.{refused.length > 0 && ` Refused: ${refused.length}.`}
        </p>
      )}
      {refused.map((s) => (
        <Problem key={s.label} text={`${s.label}: ${s.trouble}`} />
      ))}
      <Problem trouble={trouble} />
      <div className="flex flex-wrap items-center gap-3">
        {shown.length > 0 && (
          <button type="button" className="btn btn-primary" disabled={busy || ticked.length === 0} onClick={begin}>
            Bring in what is ticked
          </button>
        )}
        {at ? (
          <StopBar
            label="Bringing it in"
            at={at}
            stop={() => {
              stop.current = true;
            }}
          />
        ) : (
          <button type="button" className="btn" disabled={busy} onClick={close}>
            {said.length > 0 ? 'Done with it' : 'Leave it'}
          </button>
        )}
      </div>
    </section>
  );
}
