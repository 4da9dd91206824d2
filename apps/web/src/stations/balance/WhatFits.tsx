import { FAULT_BY_ID, faultLabel, outcomeLabel, sizeFigure, TEST_BY_ID } from '@just-balance/core/catalogue';
import { type Cause, type Diagnosis, ruleOf } from '@just-balance/core/diagnosis';
import { chanceText, midSentence, said } from '@just-balance/core/units';
import { ArrowDown, ArrowUp, Check, X } from 'lucide-react';
import { useState } from 'react';
import { SayFigures, useSay } from '../../ui/preferences.tsx';

/** As many are named at once; fewer where the others are hardly possible. */
const SHOWN = 4;
const COUNTED = 0.01;
/** As many on asking for the others. */
const ALL = 10;
const INKS = [
  'var(--ink)',
  'color-mix(in srgb, var(--ink) 70%, var(--sheet))',
  'color-mix(in srgb, var(--ink) 48%, var(--sheet))',
  'color-mix(in srgb, var(--ink) 32%, var(--sheet))',
];
const REST = 'var(--rule)';

/** Causes by probability; for the chosen one the readings that speak for and against it. */
export function WhatFits({
  diagnosis,
  before,
  selected,
  select,
}: {
  diagnosis: Diagnosis;
  /** What was said before the last change, to show what moved. */
  before: Diagnosis | null;
  selected: string;
  select: (fault: string) => void;
}) {
  const say = useSay();
  const [all, setAll] = useState(false);
  const likely = diagnosis.causes.filter((c) => c.probability >= COUNTED).length;
  const few = Math.min(SHOWN, Math.max(2, likely));
  const shown = diagnosis.causes.slice(0, all ? Math.max(few, ALL) : few);
  const rest = diagnosis.causes.slice(shown.length);
  const restSum = rest.reduce((s, c) => s + c.probability, 0);
  const cause = diagnosis.causes.find((c) => c.fault === selected) ?? diagnosis.causes[0]!;
  const twoBanks = diagnosis.causes.some((c) => c.fault === 'vac-leak-bank2');
  const size = ({ fault, severity: z }: Cause) =>
    z && say(said`${sizeFigure(fault, z.unit, z.value)} (${sizeFigure(fault, z.unit, [z.low, z.high])})`);
  return (
    <section className="card p-4" aria-label="What fits">
      <h2 className="card-title">What fits</h2>
      <div className="my-3 flex h-[18px] gap-[2px] overflow-hidden rounded-md" aria-hidden>
        {shown.map((c, i) => (
          <span
            key={c.fault}
            style={{
              width: `${c.probability * 100}%`,
              background: INKS[Math.min(i, INKS.length - 1)],
              transition: 'width 400ms',
            }}
          />
        ))}
        <span style={{ width: `${restSum * 100}%`, background: REST, transition: 'width 400ms' }} />
      </div>
      <ol className="m-0 list-none p-0">
        {shown.map((c, i) => (
          <li key={c.fault}>
            <button
              type="button"
              aria-pressed={c.fault === cause.fault}
              onClick={() => select(c.fault)}
              className={`grid min-h-14 w-full cursor-pointer grid-cols-[14px_1fr_auto] items-start gap-3 rounded-lg border-2 bg-transparent px-2 py-2 text-left text-ink ${c.fault === cause.fault ? 'border-ink bg-bench' : 'border-transparent'}`}
            >
              <span
                className="mt-1 size-[14px] rounded-[3px]"
                style={{ background: INKS[Math.min(i, INKS.length - 1)] }}
                aria-hidden
              />
              <span>
                <span className="block leading-tight font-[650]">
                  {faultLabel(c.fault)}
                  {c.bank && twoBanks ? `, bank ${c.bank}` : ''}
                </span>
                <span className="text-[0.9rem] text-soft">
                  {[size(c), `${c.because.length} for, ${c.against.length} against`].filter(Boolean).join(' · ')}
                </span>
              </span>
              <span className="text-right">
                <Chance p={c.probability} />
                <Moved from={before?.causes.find((x) => x.fault === c.fault)?.probability} to={c.probability} />
              </span>
            </button>
          </li>
        ))}
        <li className="grid grid-cols-[14px_1fr_auto] gap-3 px-[10px] py-2">
          <span className="mt-1 size-[14px] rounded-[3px]" style={{ background: REST }} aria-hidden />
          <span className="flex flex-wrap items-baseline gap-x-3">
            {rest.length} others
            <button
              type="button"
              className="link min-h-11 px-1 font-[650]"
              aria-expanded={all}
              onClick={() => setAll(!all)}
            >
              {all ? 'fewer' : 'show'}
              <span className="sr-only"> of the causes</span>
            </button>
          </span>
          <Chance p={restSum} />
        </li>
      </ol>
      <h3 className="m-0 mt-2 border-t border-rule pt-3 text-[0.95rem] font-[650]">
        For and against {midSentence(faultLabel(cause.fault))}
      </h3>
      <ul className="m-0 mt-2 grid list-none gap-2 p-0 text-[0.95rem]">
        {cause.because.map((t) => (
          <li key={say(t)} className="flex gap-2">
            <Check size={17} aria-label="for" className="mt-[2px] shrink-0" />
            <SayFigures text={t} />
          </li>
        ))}
        {cause.against.map((t) => (
          <li key={say(t)} className="flex gap-2">
            <X size={17} aria-label="against" className="mt-[2px] shrink-0" />
            <SayFigures text={t} />
          </li>
        ))}
      </ul>
      {[...new Set(diagnosis.shape.map((s) => s.word))].map((word) => {
        const banks = diagnosis.shape.filter((s) => s.word === word).map((s) => s.bank);
        return (
          <p key={word} className="m-0 mt-3 text-[0.93rem] text-soft">
            Rule of thumb: {twoBanks ? (banks.length === 2 ? 'both banks: ' : `bank ${banks[0]}: `) : 'it '}
            {ruleOf(word)}.
          </p>
        );
      })}
      {FAULT_BY_ID.get(cause.fault)?.help && (
        <p className="m-0 mt-3 border-t border-rule pt-3 text-[0.93rem] text-soft">
          {FAULT_BY_ID.get(cause.fault)!.help}
        </p>
      )}
      {(cause.wouldChange ?? []).length > 0 && (
        <div className="mt-3 border-t border-rule pt-3 text-[0.95rem]">
          <h3 className="m-0 text-[0.95rem] font-[650]">What would change this</h3>
          <ul className="m-0 mt-1 grid list-none gap-1 p-0">
            {cause.wouldChange!.map((w) => (
              <li key={w.test}>
                {TEST_BY_ID.get(w.test)?.label}: “{outcomeLabel(w.test, w.outcome)}” leaves it{' '}
                <span className="figure font-[650]">{chanceText(w.left)}</span>
              </li>
            ))}
          </ul>
        </div>
      )}
      {diagnosis.warnings.map(say).map((w) => (
        <p key={w} className="alert alert-warning m-0 mt-3 block px-3 py-2">
          {w}
        </p>
      ))}
      {diagnosis.pairs.length > 0 && (
        <p className="m-0 mt-3 text-[0.93rem] text-soft">
          Two at once:{' '}
          {diagnosis.pairs
            .map(
              (p) => `${p.faults.map((f) => midSentence(faultLabel(f))).join(' with ')} ${chanceText(p.probability)}`,
            )
            .join('; ')}
          . Counted above with the one of the two that explains more.
        </p>
      )}
      {diagnosis.condemned.length > 0 && (
        <p className="m-0 mt-3 text-[0.93rem]">
          To replace whatever the mixture says: {diagnosis.condemned.map((f) => midSentence(faultLabel(f))).join(', ')}.
        </p>
      )}
      {diagnosis.alsoPresent.length > 0 && (
        <p className="m-0 mt-3 text-[0.93rem]">
          Also:{' '}
          {diagnosis.alsoPresent
            .map((a) => `${midSentence(faultLabel(a.fault))} ${chanceText(a.probability)}`)
            .join(', ')}
          .
        </p>
      )}
    </section>
  );
}

/** How far a cause moved with the last result. */
function Moved({ from, to }: { from: number | undefined; to: number }) {
  if (from === undefined || Math.abs(to - from) < 0.01) return null;
  const Arrow = to > from ? ArrowUp : ArrowDown;
  return (
    <span className="flex items-center justify-end gap-1 text-[0.87rem] whitespace-nowrap text-soft">
      <Arrow size={14} aria-hidden />
      <span>
        was <span className="figure">{chanceText(from)}</span>
      </span>
    </span>
  );
}

function Chance({ p }: { p: number }) {
  return <span className="text-[1.15rem] font-bold whitespace-nowrap tabular-nums">{chanceText(p)}</span>;
}
