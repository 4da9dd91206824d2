import { sizeFigure } from '@just-balance/core/catalogue';
import { said } from '@just-balance/core/units';
import { useSay } from '../../ui/preferences.tsx';
import { STEPS, type Supposed } from './useSupposed.ts';

/** How large the chosen cause is: moved, the dotted line moves with it. */
export function SizeSlider({ supposed: s }: { supposed: Supposed }) {
  const say = useSay();
  if (!s.range) return null;
  const { unit, low, high } = s.range;
  const text = (v: number) => say(said`${sizeFigure(s.fault, unit, v)}`);
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-rule pt-2">
      <label className="flex min-w-64 flex-1 flex-wrap items-center gap-x-3">
        <span className="font-[650]">If it were this large</span>
        <span className="figure text-[0.87rem] text-soft max-sm:hidden" aria-hidden>
          {text(low)}
        </span>
        <input
          type="range"
          className="range min-w-32 flex-1"
          min={0}
          max={STEPS}
          value={s.step}
          aria-valuetext={text(s.value)}
          onChange={(e) => s.move(Number(e.target.value))}
        />
        <span className="figure text-[0.87rem] text-soft max-sm:hidden" aria-hidden>
          {text(high)}
        </span>
      </label>
      <span className="figure min-w-24 text-right text-[1.1rem] font-bold">{text(s.value)}</span>
      {s.moved && (
        <button type="button" className="btn btn-sm min-h-11" onClick={s.reset}>
          As judged
        </button>
      )}
    </div>
  );
}
