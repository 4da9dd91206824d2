import { type SettingsView, ShopSettingsRequest } from '@just-balance/contract';
import { HAZARDS, TESTS } from '@just-balance/core/catalogue';
import { DEFAULT_LIMITS, TRIM_LIMIT_SETS } from '@just-balance/core/trims';
import { idInWords } from '@just-balance/core/units';
import { lazy, type ReactNode, Suspense, useState } from 'react';
import useSWR from 'swr';
import { ApiFailure, api } from '../../data/api.ts';
import { useAccount, useMay, useSession } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { Field } from '../../ui/Field.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { typed } from '../../ui/typed.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';

const OwnTexts = lazy(async () => ({ default: (await import('./OwnTexts.tsx')).OwnTexts }));

const TOOLS = [...new Set(TESTS.flatMap((t) => (t.tool ? [t.tool] : [])))];
const LIMITS = { watchPct: 'Watch past ±', actPct: 'Act past ±' } as const;

/** Trim limits, tools, hazards and minutes: they change what is called a finding and which tests are offered. */
export function ShopPage() {
  const account = useAccount();
  const { data, mutate } = useSWR<SettingsView>('/shop/settings');
  return (
    <Frame title={account.shop.name} subtitle="settings of the shop" side={<HouseNav current="shop" />}>
      {data && <SettingsForm kept={data} saved={mutate} />}
      <Suspense>
        <OwnTexts kind="service" />
        <OwnTexts kind="drive" />
        <OwnTexts kind="rule" />
      </Suspense>
    </Frame>
  );
}

interface Typed {
  watchPct: string;
  actPct: string;
  tools: string[];
  hazards: string[];
  toolHz: string;
  /** By test id; empty where the catalogue's own stand. */
  minutes: Record<string, string>;
}

const text = (v: number | undefined) => (v === undefined ? '' : String(v));

function startOf({ settings: s }: SettingsView): Typed {
  return {
    watchPct: text(s.limits?.watchPct ?? DEFAULT_LIMITS.watchPct),
    actPct: text(s.limits?.actPct ?? DEFAULT_LIMITS.actPct),
    tools: s.tools ?? TOOLS,
    hazards: s.hazards ?? Object.keys(HAZARDS),
    toolHz: text(s.toolHz),
    minutes: Object.fromEntries(TESTS.map((t) => [t.id, text(s.minutes?.[t.id])])),
  };
}

/** What was typed over what is kept: a list that names everything is none, so that a new tool of the catalogue counts. */
function bodyOf(t: Typed, kept: SettingsView): ShopSettingsRequest {
  const { toolHz: _hz, tools: _tools, hazards: _hazards, ...others } = kept.settings;
  const some = (key: 'tools' | 'hazards', all: readonly string[]) =>
    all.every((x) => t[key].includes(x)) ? {} : { [key]: t[key] };
  return {
    rev: kept.rev,
    settings: {
      ...others,
      limits: { watchPct: Number(typed(t.watchPct)), actPct: Number(typed(t.actPct)) },
      ...some('tools', TOOLS),
      ...some('hazards', Object.keys(HAZARDS)),
      ...(t.toolHz.trim() === '' ? {} : { toolHz: Number(typed(t.toolHz)) }),
      minutes: Object.fromEntries(
        Object.entries(t.minutes).flatMap(([id, v]) => (v.trim() === '' ? [] : [[id, Number(typed(v))]])),
      ),
    },
  };
}

/** Where a field of the request stands in the form. */
const PLACES = {
  'settings.limits.watchPct': 'watchPct',
  'settings.limits.actPct': 'actPct',
  'settings.toolHz': 'toolHz',
  ...Object.fromEntries(TESTS.map((t) => [`settings.minutes.${t.id}`, `minutes.${t.id}` as const])),
} as const;

function SettingsForm({ kept, saved }: { kept: SettingsView; saved: (now: SettingsView) => Promise<unknown> }) {
  const { refresh } = useSession();
  const lead = useMay('lead');
  const [done, setDone] = useState(false);
  /** What the form was filled from: somebody else's change meanwhile is a conflict, not lost. */
  const [base, setBase] = useState(kept);
  const form = useTypedForm<Typed, ShopSettingsRequest>({
    dto: ShopSettingsRequest,
    defaults: startOf(kept),
    body: (t) => bodyOf(t, base),
    fields: PLACES,
    send: async (body) => {
      const now = await api.put<SettingsView>('/shop/settings', body).catch((e: unknown) => {
        // Both versions are shown now: saved again, it is meant.
        const theirs = e instanceof ApiFailure && e.status === 409 ? (e.current as SettingsView | null) : null;
        if (theirs) setBase(theirs);
        throw e;
      });
      form.reset(startOf(now));
      setBase(now);
      setDone(true);
      await saved(now);
      await refresh();
    },
  });
  const { register, error, watch, setValue } = form;
  const [tools, hazards, watchPct, actPct] = watch(['tools', 'hazards', 'watchPct', 'actPct']);
  const set = (name: keyof Typed, value: string | string[]) => setValue(name, value, { shouldDirty: true });
  return (
    <form className="contents" onSubmit={form.submit} noValidate>
      <NextStep
        title="Limits, tools and minutes"
        why={
          lead
            ? 'They change what is called a finding and which tests are offered, never the arithmetic.'
            : 'Changed by the lead.'
        }
      >
        <span role="status" className="text-soft">
          {done && !form.changed ? 'Saved.' : ''}
        </span>
        <button type="submit" className="btn btn-primary btn-lg" disabled={!lead || form.busy}>
          Save
        </button>
      </NextStep>
      <Problem trouble={form.trouble} text={form.rest} />
      <section className="card grid gap-3 p-4" aria-labelledby="limits">
        <h2 id="limits" className="card-title">
          When a total trim is a finding
        </h2>
        <div className="flex flex-wrap gap-2">
          {TRIM_LIMIT_SETS.map((s) => (
            <Choice
              key={s.id}
              disabled={!lead}
              on={typed(actPct) === String(s.actPct) && typed(watchPct) === String(s.watchPct)}
              press={() => {
                set('watchPct', String(s.watchPct));
                set('actPct', String(s.actPct));
              }}
            >
              {s.label}
            </Choice>
          ))}
        </div>
        <div className="grid max-w-md grid-cols-2 gap-3">
          {(['watchPct', 'actPct'] as const).map((k) => (
            <Field key={k} label={LIMITS[k]} error={error(k)}>
              {(aria) => <input className="input" inputMode="decimal" disabled={!lead} {...register(k)} {...aria} />}
            </Field>
          ))}
        </div>
      </section>
      <section className="card grid gap-3 p-4" aria-labelledby="tools">
        <h2 id="tools" className="card-title">
          Tools here
        </h2>
        <Choices
          all={TOOLS.map((t) => [t, idInWords(t)])}
          chosen={tools}
          disabled={!lead}
          change={(chosen) => set('tools', chosen)}
        />
        <Field className="max-w-md" label="Fastest tool, samples a second of one channel" error={error('toolHz')}>
          {(aria) => (
            <input
              className="input"
              inputMode="decimal"
              disabled={!lead}
              placeholder="fast enough for every test"
              {...register('toolHz')}
              {...aria}
            />
          )}
        </Field>
      </section>
      <section className="card grid gap-3 p-4" aria-labelledby="hazards">
        <h2 id="hazards" className="card-title">
          What is done here
        </h2>
        <Choices
          all={Object.entries(HAZARDS)}
          chosen={hazards}
          disabled={!lead}
          change={(chosen) => set('hazards', chosen)}
        />
      </section>
      <Minutes lead={lead} register={register} error={error} />
    </form>
  );
}

type Form = ReturnType<typeof useTypedForm<Typed, ShopSettingsRequest>>;

function Minutes({ lead, register, error }: { lead: boolean } & Pick<Form, 'register' | 'error'>) {
  return (
    <section className="card grid gap-3 p-4" aria-labelledby="minutes">
      <h2 id="minutes" className="card-title">
        Bench minutes
      </h2>
      <div className="grid gap-x-6 gap-y-2 sm:grid-cols-2 xl:grid-cols-3">
        {TESTS.map((t) => (
          <Field
            key={t.id}
            className="grid-cols-[minmax(0,1fr)_6rem] items-center [&>[role=alert]]:col-span-2"
            label={t.label}
            error={error(`minutes.${t.id}`)}
          >
            {(aria) => (
              <input
                className="input"
                inputMode="decimal"
                disabled={!lead}
                placeholder={String(t.minutes)}
                {...register(`minutes.${t.id}`)}
                {...aria}
              />
            )}
          </Field>
        ))}
      </div>
    </section>
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
