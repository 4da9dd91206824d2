import type { JobView } from '@just-balance/contract';
import { goesBackOn, type OffItem } from '@just-balance/core/procedures';
import { useDraft } from '../../data/drafts.ts';
import { JobPhoto } from '../../photos/JobPhoto.tsx';
import { PhotoButton } from '../../photos/PhotoButton.tsx';
import { Field } from '../../ui/Field.tsx';
import { typed } from '../../ui/typed.ts';
import { Counted } from './Counted.tsx';
import { ACT, InDock } from './Dock.tsx';
import { draftName, type StepProps } from './stepProps.ts';

/** What comes off, with its fasteners and how it sat. */
export function TakeOff({ job, handle, step, done }: StepProps) {
  const [typedIn, setTyped, forget] = useDraft<{
    count: string;
    detail: string;
    hidden: boolean;
    photo: string | null;
  }>(draftName(handle, step), {
    count: step.count === undefined ? '' : String(step.count),
    detail: step.detail ?? '',
    hidden: false,
    photo: null,
  });
  const { count, detail, hidden, photo } = typedIn;
  const change = (to: Partial<typeof typedIn>) => setTyped({ ...typedIn, ...to });
  const n = Number(typed(count));
  const taken = {
    ...(count.trim() !== '' && Number.isInteger(n) && n > 0 ? { count: n } : {}),
    ...(detail.trim() ? { detail: detail.trim().slice(0, 300) } : {}),
    ...(hidden ? { hidden } : {}),
  };
  return (
    <div className="grid gap-3">
      <Counted count={count} change={(to) => change({ count: to })} />
      <div className="flex flex-wrap items-start gap-4">
        <Field label="Long and short, where they are kept" className="min-w-64 flex-1">
          {(aria) => (
            <input className="input" value={detail} onChange={(e) => change({ detail: e.target.value })} {...aria} />
          )}
        </Field>
        <label className="mt-7 flex min-h-12 items-center gap-2">
          <input
            type="checkbox"
            className="checkbox"
            checked={hidden}
            onChange={(e) => change({ hidden: e.target.checked })}
          />
          one is hidden
        </label>
      </div>
      <div className="flex flex-wrap items-center gap-4">
        <PhotoButton
          jobId={job.id}
          run={handle.run.id}
          step={step.id}
          label={`Off: ${step.item}`}
          taken={(id) => change({ photo: id })}
        >
          {photo ? 'Another picture' : 'Picture of how it sat'}
        </PhotoButton>
        {photo && (
          <JobPhoto
            jobId={job.id}
            photo={{ id: photo, label: `Off: ${step.item}` }}
            small
            className="h-24 rounded-box"
          />
        )}
      </div>
      <InDock>
        <button
          type="button"
          className={ACT}
          onClick={() => {
            forget();
            done({ taken, ...(photo ? { photo } : {}) });
          }}
        >
          It is off
        </button>
      </InDock>
    </div>
  );
}

/** What goes on with this step, as it came off. */
export function OffList({ job, items }: { job: JobView; items: readonly OffItem[] }) {
  return (
    <ul className="m-0 grid list-none gap-2 p-0">
      {items.map((o) => (
        <li key={o.id} className="flex items-center gap-3">
          {o.photo && (
            <JobPhoto jobId={job.id} photo={{ id: o.photo, label: o.item }} small className="h-16 rounded-field" />
          )}
          <span>
            <span className="font-[650]">{o.item}</span>
            <span className="block text-soft">
              {[o.count && `${o.count} fasteners`, o.detail, o.hidden && 'one hidden'].filter(Boolean).join(' · ')}
            </span>
          </span>
        </li>
      ))}
    </ul>
  );
}

/** What goes back on with this step, beside the picture of how it sat. */
export function Refit({ job, handle, step, done }: StepProps) {
  const items = goesBackOn(handle.state).filter((o) => o.id === step.item || o.item === step.item);
  const sat = job.photos.filter((p) => p.run === handle.run.id && p.step === 'sits' && !p.undone);
  const [fewer, setFewer] = useDraft<string | null>(`${draftName(handle, step)} back`, null);
  const all = items.reduce((sum, o) => sum + (o.count ?? 0), 0);
  const back = Number(typed(fewer ?? ''));
  const counts = fewer !== null && fewer.trim() !== '' && Number.isInteger(back) && back >= 0 && back < all;
  if (items.length === 0) return <p className="m-0 text-soft">Nothing of it was taken off in this run.</p>;
  return (
    <div className="flex flex-wrap items-start gap-4">
      <div className="min-w-64 flex-1">
        <OffList job={job} items={items} />
        {all > 0 && (
          <p className="mt-3 mb-0 flex flex-wrap items-center gap-3">
            Done means: {all === 1 ? 'the fastener is' : `all ${all} fasteners are`} back on.
            {fewer === null && (
              <button type="button" className="btn" onClick={() => setFewer('')}>
                Fewer went back on
              </button>
            )}
          </p>
        )}
        {fewer !== null && (
          <div className="mt-3 flex flex-wrap items-start gap-3">
            <Field
              label={`Back on, of ${all}`}
              className="w-40"
              error={fewer === '' || counts ? undefined : `0 to ${all - 1}`}
            >
              {(aria) => (
                <input
                  className="input figure"
                  inputMode="numeric"
                  value={fewer}
                  onChange={(e) => setFewer(e.target.value)}
                  {...aria}
                />
              )}
            </Field>
            <button type="button" className="btn btn-primary mt-7" disabled={!counts} onClick={() => done({ back })}>
              On, with {counts ? all - back : 'some'} missing
            </button>
          </div>
        )}
      </div>
      {sat.map((p) => (
        <figure key={p.id} className="m-0 block">
          <JobPhoto jobId={job.id} photo={p} className="max-h-56 rounded-box" />
          <figcaption className="text-[0.9rem] text-soft">how it sat</figcaption>
        </figure>
      ))}
    </div>
  );
}
