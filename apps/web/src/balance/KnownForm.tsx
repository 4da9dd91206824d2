import type { JobView } from '@just-balance/contract';
import { pointLabel } from '@just-balance/core/diagnosis';
import { familyOf, QUANTITY_UNIT, type Quantity } from '@just-balance/core/expected';
import { metricOf, shown } from '@just-balance/core/units';
import { useState } from 'react';
import { mutate } from 'swr';
import { queuePost } from '../offline/queue.ts';
import { newId } from '../shared/api.ts';
import { Problem } from '../shared/Problem.tsx';
import { usePreferences } from '../shared/preferences.tsx';
import { typed } from '../shared/typed.ts';
import { useAction } from '../shared/useAction.ts';

export const QUANTITY_LABEL: Readonly<Record<Quantity, string>> = {
  airflow: 'Airflow',
  manifold: 'Manifold',
  coolant: 'Coolant',
};

/** A better figure than physics: from service information for this vehicle, or known good of its engine family. */
export function KnownForm({
  job,
  at,
  quantity,
  close,
}: {
  job: JobView;
  at: string;
  quantity: Quantity;
  close: () => void;
}) {
  const { units } = usePreferences();
  const { busy, problem, run } = useAction();
  const [layer, setLayer] = useState<'entered' | 'shop'>('entered');
  const [text, setText] = useState({ low: '', high: '', source: '' });
  const [wrong, setWrong] = useState<string | null>(null);
  const unit = QUANTITY_UNIT[quantity];
  const shownUnit = shown(1, unit, 1, units).unit;
  const number = (t: string) => metricOf(Number(typed(t)), unit, units);
  const submit = () => {
    const [low, high] = [number(text.low), number(text.high)];
    if (text.low.trim() === '' || text.high.trim() === '' || !Number.isFinite(low) || !Number.isFinite(high))
      return setWrong('From and to: both a number.');
    if (!(low < high)) return setWrong('From must be below to.');
    if (text.source.trim().length < 2) return setWrong('Say where the figure comes from.');
    setWrong(null);
    const label = `${QUANTITY_LABEL[quantity]}, ${pointLabel(at as never).toLowerCase()}`;
    void run(async () => {
      await queuePost(job.id, `Figure: ${label}`, `/jobs/${job.id}/known`, {
        id: newId(),
        layer,
        at,
        quantity,
        low,
        high,
        source: text.source.trim(),
      });
      await mutate(`/jobs/${job.id}`);
      close();
    });
  };
  return (
    <form
      className="grid gap-3 border-t border-rule pt-3"
      aria-label="A better figure"
      onSubmit={(e) => {
        e.preventDefault();
        submit();
      }}
      noValidate
    >
      <h3 className="m-0 text-[1rem] font-[650]">
        {QUANTITY_LABEL[quantity]}, {pointLabel(at as never).toLowerCase()}: a better figure
      </h3>
      <fieldset className="m-0 grid gap-1 border-0 p-0">
        <legend className="sr-only">What it holds for</legend>
        {(
          [
            ['entered', 'This vehicle, from its service information'],
            ['shop', `Known good of this engine family: ${familyOf(job.vehicle)}`],
          ] as const
        ).map(([id, label]) => (
          <label key={id} className="flex min-h-12 cursor-pointer items-center gap-3">
            <input type="radio" name="layer" className="radio" checked={layer === id} onChange={() => setLayer(id)} />
            {label}
          </label>
        ))}
      </fieldset>
      <div className="flex flex-wrap gap-3">
        {(['low', 'high'] as const).map((k) => (
          <label key={k} className="field w-36">
            {k === 'low' ? 'From' : 'To'}, {shownUnit}
            <input inputMode="text" value={text[k]} onChange={(e) => setText({ ...text, [k]: e.target.value })} />
          </label>
        ))}
        <label className="field min-w-56 flex-1">
          Where it comes from
          <input value={text.source} maxLength={200} onChange={(e) => setText({ ...text, source: e.target.value })} />
        </label>
      </div>
      <Problem text={wrong ?? problem} />
      <div className="flex gap-3">
        <button type="submit" className="press press-act" disabled={busy}>
          Keep this figure
        </button>
        <button type="button" className="press press-plain" onClick={close}>
          Never mind
        </button>
      </div>
    </form>
  );
}
