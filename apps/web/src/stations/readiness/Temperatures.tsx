import { format } from 'date-fns';
import { Plus, X } from 'lucide-react';
import { Field } from '../../ui/Field.tsx';
import { IconButton } from '../../ui/IconButton.tsx';
import { typed } from '../../ui/typed.ts';
import { HOUR_MS } from './DriveAnswer.tsx';
import { type Line, linesOf, pastedLines, textOf } from './forecast.ts';

/** The hours that are offered, and how far ahead: a night and the day after it. */
const EVERY_H = 3;
const AHEAD_H = 24;

interface RowsProps {
  /** As the page keeps it: a line each. */
  value: string;
  set: (text: string) => void;
  unit: string;
  now: Date;
}

const wrong = (value: string) =>
  value.trim() !== '' && (typed(value) === 'NaN' || Number.isNaN(Number(typed(value))))
    ? `“${value}” is not a number`
    : undefined;

/** Every third hour from now on, and whatever else was entered. */
function hoursOf(lines: readonly Line[], now: Date): string[] {
  const first = Math.ceil(now.getTime() / HOUR_MS);
  const local = (h: number) => new Date(h * HOUR_MS);
  const offered = Array.from({ length: AHEAD_H + EVERY_H }, (_, i) => local(first + i))
    .filter((d) => d.getHours() % EVERY_H === 0)
    .map((d) => format(d, 'yyyy-MM-dd HH:mm'));
  return [...new Set([...offered, ...lines.map((l) => l.at)])].sort();
}

/** The outside air of the next night and day: an hour, a temperature; what is not known stays empty. */
export function ForecastRows({ value, set, unit, now }: RowsProps) {
  const lines = linesOf(value);
  // An hour that was emptied stays where it is: another figure may come into it.
  const put = (at: string, v: string) => set(textOf([...lines.filter((l) => l.at !== at), { at, value: v }]));
  const hours = hoursOf(lines, now);
  return (
    <fieldset
      className="m-0 grid gap-2 border-0 p-0"
      onPaste={(e) => {
        const pasted = pastedLines(e.clipboardData.getData('text'), now);
        if (pasted.length < 2) return;
        e.preventDefault();
        set(textOf([...lines.filter((l) => pasted.every((p) => p.at !== l.at)), ...pasted]));
      }}
    >
      <legend className="p-0 font-[650]">Outside air as forecast, {unit}</legend>
      <p className="m-0 text-soft">The lowest of the night and the morning are the ones that count.</p>
      <div className="grid grid-cols-[repeat(auto-fill,minmax(5.6rem,1fr))] gap-x-3 gap-y-2">
        {hours.map((at, i) => {
          const day = new Date(at);
          const other = i === 0 || at.slice(0, 10) !== hours[i - 1]!.slice(0, 10);
          const now = lines.find((l) => l.at === at)?.value ?? '';
          return (
            <Field key={at} label={`${other ? `${format(day, 'EEE')} ` : ''}${at.slice(11)}`} error={wrong(now)}>
              {(aria) => (
                <input
                  className="input figure"
                  aria-label={`${format(day, 'EEEE')} ${at.slice(11)}, outside air, ${unit}`}
                  value={now}
                  onChange={(e) => put(at, e.target.value)}
                  {...aria}
                />
              )}
            </Field>
          );
        })}
      </div>
    </fieldset>
  );
}

/** Coolant while it cooled: when it was looked at, and what it was. */
export function CoolingRows({ value, set, unit, now }: RowsProps) {
  const lines = linesOf(value);
  const change = (i: number, line: Partial<Line>) =>
    set(
      textOf(
        lines.map((l, k) => (k === i ? { ...l, ...line } : l)),
        true,
      ),
    );
  return (
    <div className="grid gap-2">
      <ul className="m-0 grid list-none gap-2 p-0">
        {lines.map((l, i) => (
          <li key={i} className="flex flex-wrap items-end gap-3">
            <Field label={`Looked at, ${i + 1}`}>
              {(aria) => (
                <input
                  className="input"
                  type="datetime-local"
                  value={l.at.replace(' ', 'T')}
                  onChange={(e) => e.target.value && change(i, { at: e.target.value.slice(0, 16).replace('T', ' ') })}
                  {...aria}
                />
              )}
            </Field>
            <Field label={`Coolant then, ${unit}`} error={wrong(l.value)}>
              {(aria) => (
                <input
                  className="input figure w-28"
                  value={l.value}
                  onChange={(e) => change(i, { value: e.target.value })}
                  {...aria}
                />
              )}
            </Field>
            <IconButton
              name={`Remove reading ${i + 1}`}
              press={() =>
                set(
                  textOf(
                    lines.filter((_, k) => k !== i),
                    true,
                  ),
                )
              }
            >
              <X size={18} aria-hidden />
            </IconButton>
          </li>
        ))}
      </ul>
      <button
        type="button"
        className="btn w-fit"
        onClick={() => set(textOf([...lines, { at: format(now, 'yyyy-MM-dd HH:mm'), value: '' }], true))}
      >
        <Plus size={18} aria-hidden /> Add a reading
      </button>
    </div>
  );
}
