import { Minus, Plus } from 'lucide-react';
import { Field } from '../../ui/Field.tsx';
import { IconButton } from '../../ui/IconButton.tsx';
import { typed } from '../../ui/typed.ts';

/** More than this lie in more than one tray. */
const MOST = 99;
/** So many are drawn; more are only counted. */
const DRAWN = 12;

/** Fasteners counted into the tray, by press or typed. */
export function Counted({ count, change }: { count: string; change: (to: string) => void }) {
  const n = Number(typed(count));
  const known = Number.isInteger(n) && n > 0 ? Math.min(n, MOST) : 0;
  const step = (by: number) => change(String(Math.min(MOST, Math.max(0, known + by))));
  return (
    <div className="flex flex-wrap items-end gap-3">
      <IconButton name="One fewer" className="btn btn-lg" press={() => step(-1)}>
        <Minus size={22} aria-hidden />
      </IconButton>
      <Field label="Screws, bolts, clips" className="w-40 whitespace-nowrap">
        {(aria) => (
          <input
            className="input input-xl figure text-center"
            inputMode="numeric"
            value={count}
            onChange={(e) => change(e.target.value)}
            {...aria}
          />
        )}
      </Field>
      <IconButton name="One more" className="btn btn-lg" press={() => step(1)}>
        <Plus size={22} aria-hidden />
      </IconButton>
      {known > 0 && known <= DRAWN && <Tray count={known} />}
    </div>
  );
}

/** The tray with what lies in it. */
function Tray({ count }: { count: number }) {
  const across = Math.min(count, 6);
  const down = Math.ceil(count / 6);
  const [w, h] = [across * 34 + 16, down * 34 + 16];
  return (
    <svg viewBox={`0 0 ${w} ${h}`} width={w} height={h} aria-hidden className="shrink-0">
      <rect x="2" y="2" width={w - 4} height={h - 4} rx="12" fill="var(--bench)" stroke="var(--rule)" strokeWidth="3" />
      {Array.from({ length: count }, (_, i) => {
        const [x, y] = [25 + (i % 6) * 34, 25 + Math.floor(i / 6) * 34];
        return (
          <g key={`${x} ${y}`} stroke="var(--ink)" strokeWidth="2.5" fill="var(--sheet)">
            <circle cx={x} cy={y} r="12" />
            <path d={`M${x - 6} ${y}h12M${x} ${y - 6}v12`} />
          </g>
        );
      })}
    </svg>
  );
}
