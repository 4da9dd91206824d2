import { HAZARDS, TESTS } from '@just-balance/core/catalogue';
import type { Settings } from '@just-balance/core/diagnosis';
import { DEFAULT_LIMITS, TRIM_SCHOOLS } from '@just-balance/core/trims';
import { idInWords } from '@just-balance/core/units';
import { type ReactNode, useEffect, useState } from 'react';
import useSWR from 'swr';
import { api } from '../../data/api.ts';
import { useAccount, useMay, useSession } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';

const TOOLS = [...new Set(TESTS.flatMap((t) => (t.tool ? [t.tool] : [])))];
const LONGEST_MINUTES = 240;

/** Trim limits, tools, hazards and minutes: they change what is called a finding and which tests are offered. */
export function ShopPage() {
  const account = useAccount();
  const { refresh } = useSession();
  const { data, mutate } = useSWR<{ rev: number; settings: Settings }>('/shop/settings');
  const [draft, setDraft] = useState<Settings | null>(null);
  const [saved, setSaved] = useState(false);
  const { busy, trouble, run } = useAction();
  useEffect(() => {
    if (data) setDraft(data.settings);
  }, [data]);
  const lead = useMay('lead');
  const limits = { ...DEFAULT_LIMITS, ...draft?.limits };
  const change = (more: Partial<Settings>) => {
    setSaved(false);
    setDraft({ ...draft, ...more });
  };
  const save = () =>
    run(
      async () => {
        await api.put('/shop/settings', {
          rev: data!.rev,
          settings: { ...draft, limits: { watchPct: limits.watchPct, actPct: limits.actPct } },
        });
        await mutate();
        await refresh();
        setSaved(true);
      },
      { settings: draft ?? {} },
    );
  return (
    <Frame title={account.shop.name} subtitle="settings of the shop" side={<HouseNav current="shop" />}>
      <NextStep
        title="Limits, tools and minutes"
        why={
          lead
            ? 'They change what is called a finding and which tests are offered, never the arithmetic.'
            : 'Changed by the lead.'
        }
      >
        <span role="status" className="text-soft">
          {saved ? 'Saved.' : ''}
        </span>
        <button type="button" className="btn btn-primary btn-lg" disabled={!lead || busy || !draft} onClick={save}>
          Save
        </button>
      </NextStep>
      <Problem trouble={trouble} />
      <section className="card grid gap-3 p-4" aria-labelledby="schools">
        <h2 id="schools" className="card-title">
          When a total trim is a finding
        </h2>
        <div className="flex flex-wrap gap-2">
          {TRIM_SCHOOLS.map((s) => (
            <Choice
              key={s.id}
              disabled={!lead}
              on={limits.actPct === s.actPct && limits.watchPct === s.watchPct}
              press={() => change({ limits: { watchPct: s.watchPct, actPct: s.actPct } })}
            >
              {s.label}
            </Choice>
          ))}
        </div>
        <div className="grid max-w-md grid-cols-2 gap-3">
          {(['watchPct', 'actPct'] as const).map((k) => (
            <label key={k} className="field">
              {k === 'watchPct' ? 'Watch past ±' : 'Act past ±'}
              <input
                className="input"
                type="number"
                min={1}
                max={25}
                disabled={!lead}
                value={limits[k]}
                onChange={(e) => change({ limits: { ...limits, [k]: Number(e.target.value) } })}
              />
            </label>
          ))}
        </div>
      </section>
      <section className="card grid gap-3 p-4" aria-labelledby="tools">
        <h2 id="tools" className="card-title">
          Tools here
        </h2>
        <Choices
          all={TOOLS.map((t) => [t, idInWords(t)])}
          chosen={draft?.tools ?? TOOLS}
          disabled={!lead}
          change={(tools) => change({ tools })}
        />
        <label className="field max-w-md">
          Fastest tool, samples a second of one channel
          <input
            className="input"
            type="number"
            min={0.2}
            step="any"
            disabled={!lead}
            placeholder="fast enough for every test"
            value={draft?.toolHz ?? ''}
            onChange={(e) => change({ toolHz: e.target.value === '' ? undefined : Number(e.target.value) })}
          />
        </label>
      </section>
      <section className="card grid gap-3 p-4" aria-labelledby="hazards">
        <h2 id="hazards" className="card-title">
          What is done here
        </h2>
        <Choices
          all={Object.entries(HAZARDS)}
          chosen={draft?.hazards ?? Object.keys(HAZARDS)}
          disabled={!lead}
          change={(hazards) => change({ hazards })}
        />
      </section>
      <section className="card grid gap-3 p-4" aria-labelledby="minutes">
        <h2 id="minutes" className="card-title">
          Bench minutes
        </h2>
        <div className="grid gap-x-6 gap-y-2 sm:grid-cols-2 xl:grid-cols-3">
          {TESTS.map((t) => (
            <label key={t.id} className="flex items-center justify-between gap-3">
              <span>{t.label}</span>
              <span className="field w-24 shrink-0">
                <input
                  className="input"
                  type="number"
                  min={1}
                  max={LONGEST_MINUTES}
                  disabled={!lead}
                  placeholder={String(t.minutes)}
                  value={draft?.minutes?.[t.id] ?? ''}
                  onChange={(e) => {
                    const { [t.id]: _, ...rest } = draft?.minutes ?? {};
                    change({ minutes: e.target.value === '' ? rest : { ...rest, [t.id]: Number(e.target.value) } });
                  }}
                />
              </span>
            </label>
          ))}
        </div>
      </section>
    </Frame>
  );
}

function Choice({
  on,
  disabled,
  press,
  children,
}: {
  on: boolean;
  disabled: boolean;
  press: () => void;
  children: ReactNode;
}) {
  return (
    <button
      type="button"
      disabled={disabled}
      aria-pressed={on}
      className={`btn ${on ? 'btn-neutral' : ''}`}
      onClick={press}
    >
      {children}
    </button>
  );
}

/** Any number of a fixed list. */
function Choices({
  all,
  chosen,
  disabled,
  change,
}: {
  all: readonly (readonly [string, string])[];
  chosen: readonly string[];
  disabled: boolean;
  change: (chosen: string[]) => void;
}) {
  return (
    <div className="flex flex-wrap gap-2">
      {all.map(([id, label]) => (
        <Choice
          key={id}
          disabled={disabled}
          on={chosen.includes(id)}
          press={() => change(chosen.includes(id) ? chosen.filter((x) => x !== id) : [...chosen, id])}
        >
          {label}
        </Choice>
      ))}
    </div>
  );
}
