import { type OwnView, ROUTES, WRITES } from '@just-balance/contract';
import { useState } from 'react';
import { api } from '../../data/api.ts';
import { useRead } from '../../data/reads.ts';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';
import type { Titled } from './ownText.ts';

/** What a text of the shop said before; any of it can hold again, as the newest version. */
export function Versions({ own, may, changed }: { own: OwnView<Titled>; may: boolean; changed: () => void }) {
  const [open, setOpen] = useState(false);
  const { data } = useRead(open ? ROUTES.procedureVersions(own.id, own.rev) : null);
  const { busy, trouble, run } = useAction();
  const take = (version: number) =>
    run(async () => {
      await api.send(WRITES.takeBackProcedure(own.id), { rev: own.rev, version });
      changed();
    });
  return (
    <details className="mt-1" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="cursor-pointer text-[0.93rem]">Earlier versions</summary>
      <Problem trouble={trouble} />
      <ul className="m-0 mt-1 grid list-none gap-1 p-0" aria-label={`Versions of ${own.procedure.title}`}>
        {data
          ?.filter((v) => v.rev !== own.rev)
          .map((v) => (
            <li key={v.rev} className="flex flex-wrap items-center gap-3">
              <span>
                Version {v.rev}, {v.by}: {v.title}
              </span>
              {may && (
                <button type="button" className="btn btn-sm" disabled={busy} onClick={() => take(v.rev)}>
                  Let version {v.rev} hold again
                </button>
              )}
            </li>
          ))}
      </ul>
    </details>
  );
}
