import type { Settings } from '@just-balance/core/diagnosis';
import { TESTS } from '@just-balance/core/diagnosis';
import { DEFAULT_LIMITS } from '@just-balance/core/trims';
import { useEffect, useState } from 'react';
import useSWR from 'swr';
import { api } from '../shared/api.ts';
import { Frame, HouseNav } from '../shared/Frame.tsx';
import { NextStep } from '../shared/NextStep.tsx';
import { Problem } from '../shared/Problem.tsx';
import { useAccount, useSession } from '../shared/session.tsx';
import { useAction } from '../shared/useAction.ts';

const TOOLS = [...new Set(TESTS.flatMap((t) => (t.tool ? [t.tool] : [])))];

/** Trim limits and the tools the shop owns: they change what is called a finding and which tests are offered. */
export function ShopPage() {
  const account = useAccount();
  const { refresh } = useSession();
  const { data, mutate } = useSWR<{ rev: number; settings: Settings }>('/shop/settings', api.get);
  const [draft, setDraft] = useState<Settings | null>(null);
  const { busy, problem, run } = useAction();
  useEffect(() => {
    if (data) setDraft(data.settings);
  }, [data]);
  const lead = account.role === 'lead';
  const limits = { ...DEFAULT_LIMITS, ...draft?.limits };
  const owned = draft?.tools ?? TOOLS;
  const save = () =>
    run(async () => {
      await api.put('/shop/settings', {
        rev: data!.rev,
        settings: { ...draft, limits: { watchPct: limits.watchPct, actPct: limits.actPct } },
      });
      await mutate();
      await refresh();
    });
  return (
    <Frame title={account.shop.name} subtitle="settings of the shop" side={<HouseNav current="shop" />}>
      <NextStep
        title="Limits and tools"
        why={
          lead
            ? 'They change what is called a finding and which tests are offered, never the arithmetic.'
            : 'Changed by the lead.'
        }
      >
        <button type="button" className="press press-act press-big" disabled={!lead || busy || !draft} onClick={save}>
          Save
        </button>
      </NextStep>
      <Problem text={problem} />
      <section className="sheet grid gap-4 p-4">
        <h2 className="sheet-title">Total trim, percentage points</h2>
        <div className="grid max-w-md grid-cols-2 gap-3">
          {(['watchPct', 'actPct'] as const).map((k) => (
            <label key={k} className="field">
              {k === 'watchPct' ? 'Watch past ±' : 'Act past ±'}
              <input
                type="number"
                min={1}
                max={25}
                disabled={!lead}
                value={limits[k]}
                onChange={(e) => setDraft({ ...draft, limits: { ...limits, [k]: Number(e.target.value) } })}
              />
            </label>
          ))}
        </div>
        <h2 className="sheet-title">Tools here</h2>
        <div className="flex flex-wrap gap-2">
          {TOOLS.map((t) => (
            <button
              key={t}
              type="button"
              disabled={!lead}
              aria-pressed={owned.includes(t)}
              className={`press ${owned.includes(t) ? 'border-ink bg-ink text-sheet' : ''}`}
              onClick={() =>
                setDraft({ ...draft, tools: owned.includes(t) ? owned.filter((x) => x !== t) : [...owned, t] })
              }
            >
              {t.replaceAll('-', ' ')}
            </button>
          ))}
        </div>
      </section>
    </Frame>
  );
}
