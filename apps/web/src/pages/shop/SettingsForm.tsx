import { type SettingsView, ShopSettingsRequest, WRITES } from '@just-balance/contract';
import { HAZARDS, TESTS } from '@just-balance/core/catalogue';
import { TRIM_LIMIT_SETS } from '@just-balance/core/trims';
import { idInWords, shown } from '@just-balance/core/units';
import { type ReactNode, useState } from 'react';
import { Link } from 'react-router';
import { api } from '../../data/api.ts';
import { useMay, useSession } from '../../data/session.tsx';
import { useRules } from '../../job/work/rules.ts';
import { Clashes } from '../../ui/Clashes.tsx';
import { Field } from '../../ui/Field.tsx';
import { onlyChanged } from '../../ui/merge.ts';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { usePreferences } from '../../ui/preferences.tsx';
import { typed } from '../../ui/typed.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';
import { bodyOf, pricesOf, startOf, type Typed } from './settingsTyped.ts';
import { TOOLS } from './tools.ts';

const PAPER_LINES = { does: 'What it does', address: 'Address', phone: 'Phone' } as const;
const LIMITS = { watchPct: 'Watch past ±', actPct: 'Act past ±' } as const;

/** Where a field of the request stands in the form. */
const PLACES = {
  'settings.limits.watchPct': 'watchPct',
  'settings.limits.actPct': 'actPct',
  'settings.toolHz': 'toolHz',
  'settings.place.altitudeM': 'altitudeM',
  'settings.labour.perHour': 'perHour',
  'settings.labour.currency': 'currency',
  'settings.labour.parts': 'prices',
  'settings.place.rule': 'rule',
  'settings.letterhead.does': 'does',
  'settings.letterhead.address': 'address',
  'settings.letterhead.phone': 'phone',
  ...Object.fromEntries(TESTS.map((t) => [`settings.minutes.${t.id}`, `minutes.${t.id}` as const])),
} as const;

export function SettingsForm({ kept, saved }: { kept: SettingsView; saved: (now: SettingsView) => Promise<unknown> }) {
  const { refresh } = useSession();
  const lead = useMay('lead');
  const { units } = usePreferences();
  const [done, setDone] = useState(false);
  const form = useTypedForm<Typed, ShopSettingsRequest, SettingsView>({
    dto: ShopSettingsRequest,
    over: { now: kept, text: (s) => startOf(s, units) },
    defaults: startOf(kept, units),
    body: (t, stands = kept) => {
      const of = (typed: Typed) => bodyOf(typed, stands, units).settings;
      return { rev: stands.rev, settings: onlyChanged(stands.settings, of(startOf(stands, units)), of(t)) };
    },
    check: (t) => {
      const { wrong } = pricesOf(t.prices);
      return wrong ? { prices: wrong } : {};
    },
    fields: PLACES,
    send: async (body) => {
      const now = await api.send(WRITES.settings, body);
      form.reset(startOf(now, units));
      setDone(true);
      await saved(now);
      await refresh();
    },
  });
  const { register, error, watch, setValue } = form;
  const rules = useRules();
  const [tools, hazards, watchPct, actPct] = watch(['tools', 'hazards', 'watchPct', 'actPct']);
  const set = (name: keyof Typed, value: string | string[]) => setValue(name, value, { shouldDirty: true });
  return (
    <form className="contents" onSubmit={form.submit} noValidate>
      <NextStep
        title="What holds in this shop"
        why={
          lead
            ? 'It changes what is called a finding and which tests are offered, never the arithmetic.'
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
      <Clashes clashes={form.clashes} settle={form.settle} />
      <Problem trouble={form.trouble} text={form.rest} />
      <section className="card grid gap-3 p-4" aria-labelledby="limits">
        <h2 id="limits" className="card-title">
          When a total trim is a finding
        </h2>
        <p className="m-0 text-soft">
          Schools differ. Past the first figure a trim is watched, past the second it is a finding; a band of a
          vehicle’s own service information comes before both.
        </p>
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
        <p className="m-0 text-soft">A test whose tool is not here is not offered as the next one.</p>
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
        <p className="m-0 text-soft">
          What needs a licence, a place or a person that the shop does not have: tests with it are not offered.
        </p>
        <Choices
          all={Object.entries(HAZARDS)}
          chosen={hazards}
          disabled={!lead}
          change={(chosen) => set('hazards', chosen)}
        />
      </section>
      <section className="card grid gap-3 p-4" aria-labelledby="place">
        <h2 id="place" className="card-title">
          The place, and what an hour costs
        </h2>
        <p className="m-0 text-soft">
          A new job starts with this altitude: less air is expected higher up. The inspection rule that holds here is
          asked first. With a rate and prices, the job record says what its advised minutes and its parts come to; the
          customer’s page never does.
        </p>
        <div className="grid max-w-2xl gap-3 sm:grid-cols-3">
          <Field label={`Altitude, ${shown(0, 'm', 0, units).unit}`} error={error('altitudeM')}>
            {(aria) => (
              <input className="input" inputMode="decimal" disabled={!lead} {...register('altitudeM')} {...aria} />
            )}
          </Field>
          <Field label="Rate, an hour" error={error('perHour')}>
            {(aria) => (
              <input className="input" inputMode="decimal" disabled={!lead} {...register('perHour')} {...aria} />
            )}
          </Field>
          <Field label="Currency, three letters" error={error('currency')}>
            {(aria) => <input className="input" maxLength={3} disabled={!lead} {...register('currency')} {...aria} />}
          </Field>
          <Field className="sm:col-span-2" label="Prices of parts, one a line: part; price" error={error('prices')}>
            {(aria) => <textarea className="textarea min-h-28" disabled={!lead} {...register('prices')} {...aria} />}
          </Field>
          <Field label="Inspection rule here" error={error('rule')}>
            {(aria) => (
              <select className="select" disabled={!lead} {...register('rule')} {...aria}>
                <option value="">none is set</option>
                {rules.map((r) => (
                  <option key={r.id} value={r.id}>
                    {r.title}
                  </option>
                ))}
              </select>
            )}
          </Field>
        </div>
      </section>
      <section className="card grid gap-3 p-4" aria-labelledby="letterhead">
        <h2 id="letterhead" className="card-title">
          On its papers
        </h2>
        <p className="m-0 text-soft">
          Under the shop’s name, on what the customer takes along; a line that is empty is left out.
        </p>
        <div className="grid max-w-2xl gap-3 sm:grid-cols-3">
          {(['does', 'address', 'phone'] as const).map((k) => (
            <Field key={k} label={PAPER_LINES[k]} error={error(k)}>
              {(aria) => <input className="input" disabled={!lead} {...register(k)} {...aria} />}
            </Field>
          ))}
        </div>
      </section>
      <Minutes lead={lead} register={register} error={error} />
    </form>
  );
}

/** What is set on other pages, so that all of it is found from here. */
export function Elsewhere() {
  const { units, setUnits } = usePreferences();
  return (
    <section className="card grid gap-3 p-4" aria-labelledby="elsewhere">
      <h2 id="elsewhere" className="card-title">
        Set elsewhere
      </h2>
      <dl className="m-0 grid gap-x-6 gap-y-3 md:grid-cols-[14rem_minmax(0,1fr)] md:items-center [&_dt]:font-[650] [&_dd]:m-0">
        <dt>Units</dt>
        <dd className="flex flex-wrap items-center gap-3">
          <Choice on={units === 'metric'} disabled={false} press={() => setUnits('metric')}>
            Metric
          </Choice>
          <Choice on={units === 'us'} disabled={false} press={() => setUnits('us')}>
            US
          </Choice>
          <Choice on={units === 'us-gps'} disabled={false} press={() => setUnits('us-gps')}>
            US, metric airflow
          </Choice>
          <span className="text-soft">Yours, on this device; what is kept is the same.</span>
        </dd>
        <dt>Weights of causes and tests</dt>
        <dd>
          <Link to="/learned">Learned here</Link>: from the shop’s own proven jobs, used only once a lead turns it on.
        </dd>
        <dt>Rules of a place</dt>
        <dd>Which one holds is chosen above; rules of your own are brought in below, with procedures and drives.</dd>
        <dt>Who may do what</dt>
        <dd>
          <Link to="/people">People</Link>: roles, links to sign in, who is shut out. A lead’s page.
        </dd>
      </dl>
    </section>
  );
}

type Form = ReturnType<typeof useTypedForm<Typed, ShopSettingsRequest>>;

function Minutes({ lead, register, error }: { lead: boolean } & Pick<Form, 'register' | 'error'>) {
  return (
    <section className="card grid gap-3 p-4" aria-labelledby="minutes">
      <h2 id="minutes" className="card-title">
        Bench minutes
      </h2>
      <p className="m-0 text-soft">
        How long a test takes here. The next test is the one that tells most a minute; empty: the figure that is shown.
      </p>
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
