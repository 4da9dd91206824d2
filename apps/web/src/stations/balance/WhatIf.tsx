import { type Case, pointLabel } from '@just-balance/core/case';
import { faultLabel } from '@just-balance/core/catalogue';
import type { Diagnosis, Settings, WouldRead } from '@just-balance/core/diagnosis';
import { displayedTotal } from '@just-balance/core/trims';
import { chanceText, midSentence, signed } from '@just-balance/core/units';
import { useEffect, useMemo, useState } from 'react';
import { useLimits } from '../../data/limits.ts';
import { judge } from '../../job/judgement/useJudgement.ts';
import { leaning } from '../../ui/figures.ts';
import { SignedField } from '../../ui/SignedField.tsx';
import { Table } from '../../ui/Table.tsx';
import { typed } from '../../ui/typed.ts';
import type { Supposed } from './useSupposed.ts';

const BANKS = ['bank1', 'bank2'] as const;

/** What the car would read with the chosen cause at the size that is looked at, and readings to play with. */
export function WhatIf({
  c,
  settings,
  diagnosis,
  supposed,
  banks,
}: {
  c: Case;
  settings: Settings;
  diagnosis: Diagnosis;
  supposed: Supposed;
  banks: 1 | 2;
}) {
  const limits = useLimits();
  const measured = (at: string, bank: 1 | 2) => {
    const t = c.readings?.findLast((r) => r.at === at)?.trims?.[`bank${bank}`];
    return t && displayedTotal(t);
  };
  return (
    <section className="card grid gap-4 p-4" aria-label="What if">
      <h2 className="card-title">What if: {midSentence(faultLabel(supposed.fault))}</h2>
      {!supposed.range && <p className="m-0 text-soft">A size has no meaning for this one.</p>}
      <Table
        rows={supposed.points}
        keyOf={(p) => p.at}
        columns={[
          { head: 'It would read', cell: (p) => pointLabel(p.at) },
          ...([1, 2] as const).slice(0, banks).map((b) => ({
            head: banks === 2 ? `Bank ${b}` : 'Total trim',
            className: 'right',
            cell: (p: WouldRead) => {
              const t = p.trimPct[b - 1]!;
              const m = measured(p.at, b);
              return (
                <>
                  <span className={`figure font-bold ${leaning(t, limits.watchPct)?.text ?? ''}`}>{signed(t)} %</span>
                  <span className="block text-[0.87rem] text-soft">
                    {m === undefined ? 'not measured' : `measured ${signed(m)}`}
                  </span>
                </>
              );
            },
          })),
          {
            head: 'Airflow signal',
            figure: true,
            cell: (p) => (p.airflowRatio === null ? '—' : `${signed((p.airflowRatio - 1) * 100, 0)} %`),
          },
        ]}
      />
      <OtherReadings c={c} settings={settings} diagnosis={diagnosis} banks={banks} />
    </section>
  );
}

/** Change a reading and see the ranking it would give, beside the one that stands. */
function OtherReadings({
  c,
  settings,
  diagnosis,
  banks,
}: {
  c: Case;
  settings: Settings;
  diagnosis: Diagnosis;
  banks: 1 | 2;
}) {
  const [totals, setTotals] = useState<Record<string, string>>({});
  const [other, setOther] = useState<Diagnosis | null>(null);
  const changed = useMemo(() => {
    let any = false;
    const readings = (c.readings ?? []).map((r) => {
      const trims = { ...r.trims };
      for (const bank of BANKS) {
        const text = typed(totals[`${r.at} ${bank}`] ?? '');
        const v = text ? Number(text) : Number.NaN;
        if (!trims[bank] || !Number.isFinite(v) || Math.abs(v) > 50) continue;
        any = true;
        trims[bank] = { ...trims[bank], stft: 0, ltft: v };
      }
      return r.trims ? { ...r, trims } : r;
    });
    return any ? { ...c, readings } : null;
  }, [c, totals]);
  useEffect(() => {
    if (!changed) {
      setOther(null);
      return;
    }
    let over = false;
    judge()
      .weigh(changed, settings)
      .then((j) => !over && setOther(j.diagnosis));
    return () => {
      over = true;
    };
  }, [changed, settings]);
  const rows = (c.readings ?? []).filter((r, i) => r.trims && c.readings!.findLastIndex((x) => x.at === r.at) === i);
  if (rows.length === 0) return null;
  return (
    <div className="grid gap-3 border-t border-rule pt-3">
      <h3 className="m-0 text-[1rem] font-[650]">Had it read otherwise</h3>
      <div className="flex flex-wrap gap-3">
        {rows.flatMap((r) =>
          BANKS.slice(0, banks)
            .filter((b) => r.trims?.[b])
            .map((b) => (
              <div key={`${r.at} ${b}`} className="w-48">
                <SignedField
                  label={`${pointLabel(r.at)}${banks === 2 ? `, bank ${b.at(-1)}` : ''}, %`}
                  placeholder={signed(displayedTotal(r.trims![b]!) ?? 0)}
                  value={totals[`${r.at} ${b}`] ?? ''}
                  set={(v) => setTotals({ ...totals, [`${r.at} ${b}`]: v })}
                />
              </div>
            )),
        )}
      </div>
      {other && (
        <Table
          live
          rows={other.causes.slice(0, 4)}
          keyOf={(x) => x.fault}
          columns={[
            { head: 'Cause', cell: (x) => faultLabel(x.fault) },
            { head: 'Would be', figure: true, cellClass: 'font-bold', cell: (x) => chanceText(x.probability) },
            {
              head: 'Is',
              figure: true,
              cellClass: 'text-soft',
              cell: (x) => chanceText(diagnosis.causes.find((y) => y.fault === x.fault)?.probability ?? 0),
            },
          ]}
        />
      )}
      {other && (
        <button type="button" className="btn justify-self-start" onClick={() => setTotals({})}>
          Back to what was measured
        </button>
      )}
    </div>
  );
}
