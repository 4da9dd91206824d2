import { ROUTES, WRITES } from '@just-balance/contract';
import { DecisionEntry } from '@just-balance/contract/service';
import { FAULT_BY_ID } from '@just-balance/core/catalogue';
import {
  CLEANABLE,
  type CleanablePart,
  chanceOfHolding,
  cleanablePart,
  cleaningsOf,
  cleanOrReplace,
  runState,
  SHIPPED_PROCEDURES,
  startingTerms,
  type Way,
} from '@just-balance/core/procedures';
import { chanceText, numberText } from '@just-balance/core/units';
import { useState } from 'react';
import { newId } from '../../data/api.ts';
import { useRead } from '../../data/reads.ts';
import { useAccount } from '../../data/session.tsx';
import { queueWrite } from '../../data/writes.ts';
import type { StationProps } from '../../job/frame/station.ts';
import { Field } from '../../ui/Field.tsx';
import { Press } from '../../ui/May.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { SentenceList } from '../../ui/preferences.tsx';
import { typed } from '../../ui/typed.ts';
import { useAction } from '../../ui/useAction.ts';
import { runsOf } from './useRun.ts';

const FIELDS = [
  ['ratePerHour', 'Shop rate, per hour'],
  ['partPrice', 'Price of the part'],
  ['solvent', 'Solvent'],
  ['cleanMinutes', 'Cleaning, hands on, min'],
  ['waitingMinutes', 'Drying and waiting, min'],
  ['waitingPaid', 'Share of the waiting that is paid, 0 to 1'],
  ['replaceMinutes', 'Replacing, min'],
  ['comebackCost', 'Cost of a comeback'],
] as const;

/** Both ways as a sum, every term open to change; the technician decides, and the sum is kept with it. */
export function CleanOrReplacePanel({ job }: StationProps) {
  const { data: outcomes } = useRead(ROUTES.cleaningOutcomes);
  const likely = job.diagnoses
    .at(-1)
    ?.output.causes.map((c) => FAULT_BY_ID.get(c.fault)?.cleans)
    .find(Boolean);
  const [chosen, setPart] = useState<CleanablePart | null>(null);
  // Where something was cleaned here already the sum is of that again, whatever is likely by now.
  const [again] = CLEANABLE.flatMap(({ id }) => {
    const at = cleaningsOf(job, id).at(-1);
    return at === undefined ? [] : [{ id, at }];
  }).sort((a, b) => b.at - a.at);
  const part = chosen ?? again?.id ?? likely ?? 'airflow-sensor';
  const { over, open } = runsOf(job);
  const cleanings = over.filter((x) => x.run.procedure.id === cleanablePart(part).clean && !x.state.stopped);
  const source = cleanings.at(-1)?.state.source ?? null;
  const states = [...over.map((x) => x.state), ...(open ? [runState(open.procedure, open.events)] : [])];
  const stopped = states.filter((s) => s.stopped).at(-1)?.stopped ?? null;
  const [texts, setTexts] = useState<Record<string, string>>({});
  const [earlier, setEarlier] = useState('0');
  const { busy, trouble, run } = useAction();

  const { labour } = useAccount().shop.settings;
  const defaults = startingTerms(part, SHIPPED_PROCEDURES, labour);
  const termOf = (key: keyof typeof defaults) => {
    const text = texts[`${part} ${key}`];
    const value = text === undefined ? defaults[key] : Number(typed(text));
    return text !== undefined && (text.trim() === '' || !(value >= 0)) ? Number.NaN : value;
  };
  const own = outcomes?.find((o) => o.part === part) ?? { held: 0, failed: 0 };
  const before = Math.min(50, Math.max(0, Math.floor(Number(typed(earlier)) || 0))) + cleaningsOf(job, part).length;
  const state = {
    cleanings: before,
    distanceKm: job.vehicle.odometerKm ?? null,
    source: source?.source ?? null,
    sourceRepaired: source?.repaired ?? false,
  };
  const chance = chanceOfHolding(part, own, state);
  const terms = {
    ...(Object.fromEntries(FIELDS.map(([k]) => [k, termOf(k)])) as typeof defaults),
    chance: chance.value,
  };
  const valid = FIELDS.every(([k]) => Number.isFinite(terms[k])) && terms.waitingPaid <= 1;
  const sum = valid ? cleanOrReplace(terms, stopped?.if ?? null) : null;
  const decide = (way: 'clean' | 'replace') =>
    run(async () => {
      const data: DecisionEntry = Object.assign(new DecisionEntry(), {
        part,
        chosen: way,
        terms,
        state,
        reasons: [...sum!.reasons, ...chance.because].slice(0, 20),
      });
      await queueWrite('Decision', WRITES.addEntry(job.id), { id: newId(), kind: 'decision', data });
    });
  const decisions = job.entries.filter((e) => e.kind === 'decision' && !e.undone);
  return (
    <div className="grid items-start gap-6 lg:grid-cols-[minmax(0,1fr)_320px]">
      <div className="grid gap-4">
        <div className="flex flex-wrap gap-2" role="group" aria-label="Part">
          {CLEANABLE.map((c) => (
            <button
              key={c.id}
              type="button"
              aria-pressed={part === c.id}
              className={`btn ${part === c.id ? 'btn-neutral' : ''}`}
              onClick={() => setPart(c.id)}
            >
              {c.label}
            </button>
          ))}
        </div>
        {sum ? (
          <>
            <p className="m-0 text-[1.25rem] font-[650]">
              {sum.overruled
                ? 'Replace: a stop rule applies.'
                : sum.cheaper === 'equal'
                  ? 'Both ways cost about the same.'
                  : sum.cheaper === 'clean'
                    ? 'Cleaning is the cheaper way.'
                    : 'Replacing is the cheaper way.'}
            </p>
            <Bars clean={sum.clean} replace={sum.replace} />
            <ChanceBar chance={chance} even={sum.breakEven} />
            <SentenceList className="m-0 grid gap-1 pl-5" sentences={[...sum.reasons, ...chance.because]} />
            <p className="m-0 text-soft">
              Expected: the cost of each way weighed with its chance
              {labour ? `, in ${labour.currency}` : ', in this shop’s money'}.{' '}
              {labour
                ? 'The rate is the shop’s own, and the price where its list has the part; the rest are examples until changed.'
                : 'Prices and rates are examples until changed; the shop’s own are kept under Shop.'}
            </p>
            <div className="flex flex-wrap gap-3">
              <Press className="btn" disabled={busy || sum.overruled !== null} onClick={() => decide('clean')}>
                Decide: clean
              </Press>
              <Press className="btn" disabled={busy} onClick={() => decide('replace')}>
                Decide: replace
              </Press>
            </div>
          </>
        ) : (
          <p role="alert" className="m-0 font-[550] text-caution">
            Every term is a number of 0 or more; the paid share is at most 1.
          </p>
        )}
        <Problem trouble={trouble} />
        {decisions.length > 0 && (
          <section>
            <h2 className="card-title">Decided</h2>
            <ul className="m-0 mt-1 list-none p-0">
              {decisions.map((d) =>
                d.kind === 'decision' ? (
                  <li key={d.id}>
                    {cleanablePart(d.data.part).label}: <strong className="font-[650]">{d.data.chosen}</strong>, at a
                    chance of {chanceText(d.data.terms.chance)} · {d.by}
                  </li>
                ) : null,
              )}
            </ul>
          </section>
        )}
      </div>
      <fieldset className="m-0 grid gap-3 border-0 p-0">
        <legend className="card-title p-0">The terms</legend>
        {FIELDS.map(([key, label]) => (
          <Field key={key} label={label} error={Number.isFinite(terms[key]) ? undefined : 'a number of 0 or more'}>
            {(aria) => (
              <input
                className="input figure"
                inputMode="decimal"
                value={texts[`${part} ${key}`] ?? String(defaults[key])}
                onChange={(e) => setTexts({ ...texts, [`${part} ${key}`]: e.target.value })}
                {...aria}
              />
            )}
          </Field>
        ))}
        <Field label="Cleanings before this job">
          {(aria) => (
            <input
              className="input figure"
              inputMode="numeric"
              value={earlier}
              onChange={(e) => setEarlier(e.target.value)}
              {...aria}
            />
          )}
        </Field>
      </fieldset>
    </div>
  );
}

const SHADES = ['var(--ink)', 'var(--soft)', 'var(--ghost)', 'var(--caution)'];

/** Both ways on one scale, each made of its terms. */
function Bars({ clean, replace }: { clean: Way; replace: Way }) {
  const most = Math.max(clean.cost, replace.cost, 1);
  return (
    <div className="grid gap-3">
      {[
        { name: 'Clean', way: clean },
        { name: 'Replace', way: replace },
      ].map(({ name, way }) => (
        <div key={name} className="grid gap-1">
          <p className="m-0 flex items-baseline justify-between gap-3">
            <span className="font-[650]">{name}</span>
            <span>
              <span className="figure text-[1.2rem] font-bold">{numberText(way.cost, 0)}</span>
              <span className="text-soft"> · {numberText(way.minutes, 0)} min</span>
            </span>
          </p>
          <div
            className="flex h-7 overflow-hidden rounded-field border border-rule"
            role="img"
            aria-label={`${name}: ${numberText(way.cost, 0)}, made of ${way.parts.map((p) => `${p.name} ${numberText(p.cost, 0)}`).join(', ')}`}
          >
            {way.parts.map((p, i) => (
              <span
                key={p.name}
                style={{
                  width: `${(100 * p.cost) / most}%`,
                  background: SHADES[p.name === 'if it does not hold' ? 3 : p.name === 'part' ? 1 : i],
                }}
              />
            ))}
          </div>
          <p className="m-0 flex flex-wrap gap-x-4 text-[0.9rem] text-soft">
            {way.parts
              .filter((p) => p.cost > 0)
              .map((p) => (
                <span key={p.name}>
                  {p.name} <span className="figure">{numberText(p.cost, 0)}</span>
                </span>
              ))}
          </p>
        </div>
      ))}
    </div>
  );
}

/** The chance with its interval on a line from never to always, and where both ways cost the same. */
function ChanceBar({ chance, even }: { chance: { value: number; low: number; high: number }; even: number | null }) {
  const x = (p: number) => 10 + 380 * p;
  const words = `Chance that cleaning holds: ${chanceText(chance.value)}, between ${chanceText(chance.low)} and ${chanceText(chance.high)}${even === null ? '' : `; both ways cost the same at ${chanceText(even)}`}`;
  return (
    <figure className="m-0 block">
      <svg viewBox="0 0 400 62" className="w-full max-w-[560px]" role="img" aria-label={words}>
        <line x1={10} x2={390} y1={24} y2={24} stroke="var(--rule)" strokeWidth="3" />
        <line
          x1={x(chance.low)}
          x2={x(chance.high)}
          y1={24}
          y2={24}
          stroke="var(--ink)"
          strokeWidth="6"
          strokeLinecap="round"
        />
        <circle cx={x(chance.value)} cy={24} r={8} fill="var(--ink)" />
        {even !== null && (
          <>
            <line x1={x(even)} x2={x(even)} y1={6} y2={42} stroke="var(--act)" strokeWidth="3" strokeDasharray="4 3" />
            <text
              x={x(even)}
              y={56}
              textAnchor={even > 0.8 ? 'end' : even < 0.2 ? 'start' : 'middle'}
              fontSize="12"
              fill="var(--act)"
            >
              even at {chanceText(even)}
            </text>
          </>
        )}
        <text x={10} y={56} fontSize="12" fill="var(--soft)">
          {even !== null && even < 0.3 ? '' : 'never'}
        </text>
        <text x={390} y={56} textAnchor="end" fontSize="12" fill="var(--soft)">
          {even !== null && even > 0.7 ? '' : 'always'}
        </text>
      </svg>
      <figcaption className="text-[0.93rem] text-soft">
        Chance that cleaning holds <span className="figure font-[650] text-ink">{chanceText(chance.value)}</span>, nine
        tenths between {chanceText(chance.low)} and {chanceText(chance.high)}
      </figcaption>
    </figure>
  );
}
