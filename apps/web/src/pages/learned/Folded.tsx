import type { ReactNode } from 'react';
import { Fold } from '../../ui/Fold.tsx';

/** The tables behind it, put away; beside the name the sentence one would look for. */
export function Folded({ title, about, children }: { title: string; about: string; children: ReactNode }) {
  return (
    <div className="card px-4 py-1">
      <Fold
        title={
          <span className="flex flex-wrap gap-x-5">
            <span>{title}</span>
            <span className="font-normal text-soft">{about}</span>
          </span>
        }
      >
        <div className="grid gap-3">{children}</div>
      </Fold>
    </div>
  );
}
