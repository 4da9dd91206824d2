import { type LearnedView, ROUTES } from '@just-balance/contract';
import { pointLabel } from '@just-balance/core/case';
import { faultLabel, TEST_BY_ID } from '@just-balance/core/catalogue';
import { QUANTITY_LABEL, QUANTITY_UNIT } from '@just-balance/core/expected';
import { CLEANABLE, dirtSource } from '@just-balance/core/procedures';
import {
  type LearnedChance,
  type LearningChoice,
  PRIOR_STRENGTH,
  type Share,
  TEST_STRENGTH,
} from '@just-balance/core/shop';
import { counted, midSentence } from '@just-balance/core/units';
import { Download } from 'lucide-react';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { Bars } from '../../charts/Bars.tsx';
import { api } from '../../data/api.ts';
import { useRead } from '../../data/reads.ts';
import { useAccount, useMay, useSession } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useShown } from '../../ui/preferences.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { useAction } from '../../ui/useAction.ts';

const SHOWN_CAUSES = 12;
const MOST_IDS = 150;
const pct = (v: number) => `${(100 * v).toFixed(v < 0.1 ? 1 : 0)} %`;
const between = (s: Share) => `${pct(s.low)} to ${pct(s.high)}`;

/** What the shop's own proven jobs teach: every figure with its count, its interval, and the jobs behind it. */
export function LearnedPage() {
  const account = useAccount();
  const { data, error, mutate } = useRead(ROUTES.learned);
  const l = data?.learned;
  return (
    <Frame title={account.shop.name} subtitle="what the shop has learned" side={<HouseNav current="learned" />}>
      {error && <NextStep tone="trouble" title="It could not be worked out" why={String(error.message)} />}
      {l && (
        <NextStep
          title={
            l.proven === 0
              ? 'Nothing is learned yet'
              : `${counted(l.proven, 'proven job')} of ${l.jobs.toLocaleString('en-US')} teach`
          }
          why={
            l.proven === 0
              ? 'A job teaches once its repair is proven by the same readings again.'
              : 'A job that came back teaches no cause. One that misleads can be left out of everything.'
          }
        >
          <a className="btn btn-lg" href="/api/learned/settings?use=priors,tests" download="settings.json">
            <Download size={19} aria-hidden /> Settings file
          </a>
        </NextStep>
      )}
      {data && <Use data={data} changed={mutate} />}
      {l && l.proven > 0 && (
        <>
          <Causes l={l} />
          <Tests l={l} />
          <Figures l={l} />
        </>
      )}
      {l && <Work l={l} />}
      {data && <LeftOut data={data} changed={mutate} />}
    </Frame>
  );
}

/** The jobs behind a figure, in the logbook. */
function JobsBehind({ jobs, children }: { jobs: readonly string[]; children?: ReactNode }) {
  if (jobs.length === 0) return null;
  return (
    <Link className="underline" to={`/logbook?ids=${jobs.slice(-MOST_IDS).join(',')}`}>
      {children ?? counted(jobs.length, 'job')}
    </Link>
  );
}

const CHOICES = [
  {
    id: 'knownGood',
    label: 'Known-good figures',
    why: 'Expected values show the band of proven engines of the same family, and say so.',
  },
  {
    id: 'priors',
    label: 'Causes',
    why: `What is proven here moves the starting weights; ours count as ${PRIOR_STRENGTH} jobs.`,
  },
  {
    id: 'tests',
    label: 'Tests',
    why: `How often a test was right here moves what its results weigh; ours count as ${TEST_STRENGTH} results, and no chance moves by more than three times.`,
  },
] as const;

/** What of it is used, by the lead's choice; taken away again it leaves nothing behind. */
function Use({ data, changed }: { data: LearnedView; changed: () => Promise<unknown> }) {
  const lead = useMay('lead');
  const { refresh } = useSession();
  const { busy, trouble, run } = useAction();
  const set = (id: keyof LearningChoice, on: boolean) =>
    run(async () => {
      const { rev, settings } = await api.get(ROUTES.settings);
      await api.put(ROUTES.settings, { rev, settings: { ...settings, learning: { ...settings.learning, [id]: on } } });
      await changed();
      await refresh();
    });
  return (
    <section className="card grid gap-3 p-4" aria-labelledby="use">
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h2 id="use" className="card-title">
          Used in the weighing
        </h2>
        <span className="text-soft">
          {data.inUse ? `from ${counted(data.inUse.jobs, 'proven job')}` : 'nothing: our own starting figures alone'}
        </span>
      </div>
      <div className="grid gap-3 md:grid-cols-3">
        {CHOICES.map((c) => (
          <label key={c.id} className="flex min-h-12 items-start gap-3">
            <input
              type="checkbox"
              className="toggle mt-1"
              checked={data.choice[c.id] === true}
              disabled={!lead || busy}
              onChange={(e) => void set(c.id, e.target.checked)}
            />
            <span>
              <span className="font-[650]">{c.label}</span>
              <span className="block text-[0.93rem] text-soft">{c.why}</span>
            </span>
          </label>
        ))}
      </div>
      {!lead && <p className="m-0 text-soft">Chosen by the lead.</p>}
      <Problem trouble={trouble} />
    </section>
  );
}

type L = LearnedView['learned'];

function Causes({ l }: { l: L }) {
  const shown = l.causes.filter((c) => c.count > 0).slice(0, SHOWN_CAUSES);
  const most = Math.max(0.1, ...shown.map((c) => c.high)) * 100;
  return (
    <section className="card grid gap-3 p-4" aria-labelledby="causes">
      <h2 id="causes" className="card-title">
        What it was, in the end
      </h2>
      <div className="grid items-start gap-4 xl:grid-cols-2">
        <Bars
          label="Share of each proven cause, with ours dashed"
          unit="share of jobs, % (line: 95 % interval; dashed: our own)"
          most={Math.ceil(most / 5) * 5}
          bars={shown.map((c) => ({
            label: faultLabel(c.fault),
            value: 100 * c.mean,
            low: 100 * c.low,
            high: 100 * c.high,
            against: 100 * c.ours,
          }))}
        />
        <Rows
          label="Proven causes"
          head={['Cause', 'Proven', 'Share (95 %)', 'Ours']}
          rows={shown.map((c) => [
            faultLabel(c.fault),
            <JobsBehind key="j" jobs={c.jobs} />,
            `${pct(c.mean)} (${between(c)})`,
            pct(c.ours),
          ])}
        />
      </div>
    </section>
  );
}

const CHANCE = (c: LearnedChance) => (c.yes + c.no === 0 ? '—' : `${pct(c.mean)} (${between(c)})`);

function Tests({ l }: { l: L }) {
  return (
    <section className="card grid gap-3 p-4" aria-labelledby="tests">
      <h2 id="tests" className="card-title">
        How far tests were right
      </h2>
      <Rows
        label="Tests"
        head={['Test', 'Found what was there', 'chance (95 %)', 'ours', 'Alarmed for nothing', 'chance (95 %)', 'ours']}
        rows={[...l.tests]
          .sort((a, b) => b.hits.jobs.length + b.alarms.yes - a.hits.jobs.length - a.alarms.yes)
          .map((t) => [
            TEST_BY_ID.get(t.test)?.label ?? t.test,
            t.hits.jobs.length > 0 ? (
              <JobsBehind key="h" jobs={t.hits.jobs}>{`${t.hits.yes} of ${t.hits.yes + t.hits.no}`}</JobsBehind>
            ) : (
              '—'
            ),
            CHANCE(t.hits),
            t.hits.ours > 0 ? pct(t.hits.ours) : '—',
            t.alarms.yes > 0 ? (
              <JobsBehind key="a" jobs={t.alarms.jobs.slice(t.alarms.no)}>
                {`${t.alarms.yes} of ${t.alarms.yes + t.alarms.no}`}
              </JobsBehind>
            ) : (
              `0 of ${t.alarms.no}`
            ),
            CHANCE(t.alarms),
            t.alarms.ours > 0 ? pct(t.alarms.ours) : '—',
          ])}
      />
    </section>
  );
}

function Figures({ l }: { l: L }) {
  const show = useShown();
  if (l.figures.length === 0)
    return (
      <section className="card p-4">
        <h2 className="card-title">Known good</h2>
        <p className="m-0 text-soft">Four proven jobs of one engine family are needed for a band.</p>
      </section>
    );
  return (
    <section className="card grid gap-3 p-4" aria-labelledby="figures">
      <h2 id="figures" className="card-title">
        Known good, by engine family
      </h2>
      <Rows
        label="Known-good figures"
        head={['Engine family', 'Reading', 'Figure', 'Middle', 'Band (95 % of the next)', 'From']}
        rows={l.figures.map((f) => {
          const text = (v: number) => {
            const s = show(v, QUANTITY_UNIT[f.quantity], 2);
            return s.value.toFixed(s.digits);
          };
          return [
            f.family,
            pointLabel(f.at as Parameters<typeof pointLabel>[0]),
            `${QUANTITY_LABEL[f.quantity]}, ${show(0, QUANTITY_UNIT[f.quantity], 0).unit}`,
            text(f.middle),
            `${text(Math.max(0, f.low))} to ${text(f.high)}`,
            <JobsBehind key="j" jobs={f.jobs} />,
          ];
        })}
      />
    </section>
  );
}

function Work({ l }: { l: L }) {
  const cleaned = l.cleanings.map((c) => [
    CLEANABLE.find((x) => x.id === c.part)?.label ?? c.part,
    c.source ? midSentence(dirtSource(c.source)?.label ?? c.source) : 'source not found',
    <JobsBehind key="j" jobs={c.jobs}>{`${c.held} of ${c.held + c.failed} held`}</JobsBehind>,
    `${pct(c.mean)} (${between(c)})`,
  ]);
  const minutes = l.procedures.map((p) => [
    p.title,
    <JobsBehind key="j" jobs={p.jobs}>{`${p.n}`}</JobsBehind>,
    `${p.median.toFixed(0)} (${p.low.toFixed(0)} to ${p.high.toFixed(0)})`,
    String(p.advised),
  ]);
  return (
    <>
      <section className="card grid gap-3 p-4" aria-labelledby="first-time">
        <h2 id="first-time" className="card-title">
          Fixed the first time
        </h2>
        <p className="m-0 text-[1.1rem]">
          {l.firstTime ? (
            <>
              <strong className="figure font-bold">{pct(l.firstTime.mean)}</strong> ({between(l.firstTime)}):{' '}
              {l.firstTime.fixed} stayed away,{' '}
              <JobsBehind jobs={l.firstTime.jobs}>{`${l.firstTime.back} came back`}</JobsBehind>
              {l.firstTime.back === 0 && 'none came back'}.
            </>
          ) : (
            <span className="text-soft">No proven job has been handed over yet.</span>
          )}
        </p>
        {l.minutesToCause && (
          <p className="m-0">
            From the first reading to the repair:{' '}
            <strong className="figure">{l.minutesToCause.median.toFixed(0)} min</strong>, half of them between{' '}
            {l.minutesToCause.low.toFixed(0)} and {l.minutesToCause.high.toFixed(0)} (
            {counted(l.minutesToCause.n, 'job')}).
          </p>
        )}
      </section>
      {cleaned.length > 0 && (
        <section className="card grid gap-3 p-4" aria-labelledby="cleanings">
          <h2 id="cleanings" className="card-title">
            Did cleaning hold?
          </h2>
          <Rows label="Cleanings" head={['Part', 'Dirt from', 'Held', 'Chance (95 %)']} rows={cleaned} />
        </section>
      )}
      {minutes.length > 0 && (
        <section className="card grid gap-3 p-4" aria-labelledby="minutes">
          <h2 id="minutes" className="card-title">
            Minutes of procedures
          </h2>
          <Bars
            label="Median minutes of each procedure, with the advised ones dashed"
            unit="minutes (line: middle half; dashed: advised)"
            bars={l.procedures
              .slice(0, SHOWN_CAUSES)
              .map((p) => ({ label: p.title, value: p.median, low: p.low, high: p.high, against: p.advised }))}
          />
          <Rows label="Minutes" head={['Procedure', 'Done', 'Median (middle half)', 'Advised']} rows={minutes} />
        </section>
      )}
      <section className="card grid gap-3 p-4" aria-labelledby="breaks">
        <h2 id="breaks" className="card-title">
          What breaks drives
        </h2>
        {l.breaks.length > 0 ? (
          <Bars
            label="How many drives each condition broke"
            unit={`of ${counted(l.drives, 'drive')}`}
            bars={l.breaks.slice(0, SHOWN_CAUSES).map((b) => ({ label: b.what.replaceAll('-', ' '), value: b.count }))}
          />
        ) : (
          <p className="m-0 text-soft">No drive is on record.</p>
        )}
        <ul className="m-0 flex list-none flex-wrap gap-x-5 p-0">
          {l.breaks.map((b) => (
            <li key={b.what}>
              {b.what.replaceAll('-', ' ')}: <JobsBehind jobs={b.jobs} />
            </li>
          ))}
        </ul>
      </section>
    </>
  );
}

function LeftOut({
  data,
  changed,
}: {
  data: LearnedView;
  changed: (now: LearnedView, o: { revalidate: boolean }) => Promise<unknown>;
}) {
  const lead = useMay('lead');
  const { busy, trouble, run } = useAction();
  if (data.leftOut.length === 0 && !lead) return null;
  const takeIn = (job: string) =>
    run(async () => {
      await changed(await api.put<LearnedView>(`/learned/jobs/${job}`, { leftOut: false }), { revalidate: false });
    });
  return (
    <section className="card grid gap-2 p-4" aria-labelledby="left-out">
      <h2 id="left-out" className="card-title">
        Left out
      </h2>
      {data.leftOut.length === 0 && (
        <p className="m-0 text-soft">No job is left out. The lead leaves one out at its hand-over.</p>
      )}
      <ul className="m-0 grid list-none gap-2 p-0">
        {data.leftOut.map((j) => (
          <li key={j.job} className="flex flex-wrap items-center justify-between gap-3">
            <Link to={`/jobs/${j.job}`}>{j.label}</Link>
            {lead && (
              <button type="button" className="btn" disabled={busy} onClick={() => takeIn(j.job)}>
                Take it in again
              </button>
            )}
          </li>
        ))}
      </ul>
      <Problem trouble={trouble} />
    </section>
  );
}

function Rows({ label, head, rows }: { label: string; head: string[]; rows: ReactNode[][] }) {
  return (
    <Scrolls label={label}>
      <table className="table [&_td]:px-2 [&_th]:px-2">
        <thead>
          <tr>
            {head.map((h, i) => (
              <th key={i} scope="col">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((r, i) => (
            <tr key={i}>
              {r.map((c, k) => (
                <td key={k} className={k === 0 ? '' : 'whitespace-nowrap'}>
                  {c}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </Scrolls>
  );
}
