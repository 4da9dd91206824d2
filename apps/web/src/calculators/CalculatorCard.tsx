import { CALCULATORS, type CalculatorField } from '@just-balance/core/calculators';
import { metricOf, numberText, shown } from '@just-balance/core/units';
import { useId, useState } from 'react';
import { Say, usePreferences } from '../ui/preferences.tsx';
import { typed } from '../ui/typed.ts';

/** One small sum: figures in the chosen units, the result as they are typed. `start` fills in what is known, metric. */
export function CalculatorCard({
  id,
  start = {},
}: {
  id: string;
  start?: Readonly<Record<string, number | undefined>>;
}) {
  const { units } = usePreferences();
  const heading = useId();
  const calculator = CALCULATORS.find((c) => c.id === id)!;
  const [entries, setEntries] = useState<Record<string, string>>({});
  const textOf = (f: CalculatorField) => {
    const known = start[f.key];
    if (entries[f.key] !== undefined) return entries[f.key]!;
    if (known === undefined) return '';
    const s = shown(known, f.unit, f.digits, units, f.role);
    return s.value.toFixed(s.digits);
  };
  const values: Record<string, number> = {};
  let wrong: string | null = null;
  let missing = false;
  for (const f of calculator.fields) {
    const text = typed(textOf(f));
    if (text === '') {
      missing = true;
      continue;
    }
    const metric = metricOf(Number(text), f.unit, units, f.role);
    const unit = shown(f.low, f.unit, f.digits, units, f.role);
    const top = shown(f.high, f.unit, f.digits, units, f.role);
    if (!Number.isFinite(metric)) wrong ??= `${f.label}: “${textOf(f)}” is not a number.`;
    else if (metric < f.low || metric > f.high)
      wrong ??= `${f.label}: ${text} is outside ${numberText(unit.value, unit.digits)} to ${numberText(top.value, top.digits)} ${top.unit}.`;
    values[f.key] = metric;
  }
  const results = wrong || missing ? null : calculator.compute(values);
  return (
    <section className="card grid content-start gap-3 p-4" aria-labelledby={heading}>
      <h2 id={heading} className="m-0 text-[1.1rem] font-bold">
        {calculator.title}
      </h2>
      <div className="grid grid-cols-2 gap-3">
        {calculator.fields.map((f) => {
          const unit = shown(1, f.unit, f.digits, units, f.role).unit;
          return (
            <label key={f.key} className="field content-end">
              {f.label}
              {unit ? `, ${unit}` : ''}
              <input
                className="input"
                inputMode={f.low < 0 ? 'text' : 'decimal'}
                value={textOf(f)}
                // Inside another form the sum must not send it.
                onKeyDown={(e) => e.key === 'Enter' && e.preventDefault()}
                onChange={(e) => setEntries({ ...entries, [f.key]: e.target.value })}
              />
            </label>
          );
        })}
      </div>
      <div className="border-t border-rule pt-3" aria-live="polite">
        {results ? (
          <dl className="stats m-0 flex flex-wrap">
            {results.map((r) => {
              const s = shown(r.value, r.unit, r.digits, units, r.role);
              return (
                <div key={r.label} className="stat w-auto border-none py-1 pr-6 pl-0">
                  <dt className="stat-title text-[0.9rem] text-soft">{r.label}</dt>
                  <dd className="stat-value figure m-0 text-[1.35rem]">
                    {Number.isFinite(s.value) ? numberText(s.value, s.digits) : '—'}{' '}
                    <span className="text-[0.95rem] font-normal text-soft">{s.unit}</span>
                  </dd>
                </div>
              );
            })}
          </dl>
        ) : (
          <div className={wrong ? 'text-caution' : 'text-soft'}>{wrong ?? 'Fill in every figure.'}</div>
        )}
      </div>
      <p className="m-0 text-[0.87rem] text-soft first-letter:uppercase">
        <Say text={calculator.how} />. Source: {calculator.source}.
      </p>
    </section>
  );
}
