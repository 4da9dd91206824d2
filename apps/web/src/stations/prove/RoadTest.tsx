import { CAUTIONS, PRECEDENCE } from '@just-balance/core/procedures';
import { ROAD_TEST, type RoadTest as Road, roadSamples, roadTest } from '@just-balance/core/proof';
import { signed } from '@just-balance/core/units';
import { Printer } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import type { StationProps } from '../../job/frame/station.ts';
import { newestReadings } from '../../job/judgement/figures.ts';
import { Cautions } from '../../job/work/Cautions.tsx';
import { Quantity, useShown } from '../../ui/preferences.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';

const STEP = 'prove:road-load';
const MINUTES = [1, 2, 5] as const;

/** The sheet of the road test: what the passenger watches live, and the same on paper where there is no link. */
export function RoadTest({ job, live }: StationProps) {
  const [minutes, setMinutes] = useState<number>(MINUTES[0]);
  const banks = job.vehicle.banks ?? 1;
  const petrol = job.vehicle.fuel !== 'diesel';
  const now = roadTest(roadSamples(live.traces, banks), minutes * 60);
  const before = newestReadings(job, 'before').find((r) => r.reading.at === 'road-load')?.reading;
  return (
    <>
      <section className="card flex flex-row flex-wrap items-center justify-between gap-4 p-4 no-print">
        <div>
          <h1 className="m-0 text-xl font-bold">Road test</h1>
          <p className="m-0">Two people. The driver watches the road; the passenger holds the tablet and reads.</p>
        </div>
        <div className="flex flex-wrap items-end gap-4">
          {petrol && (
            <label className="field w-32">
              Time to hold
              <select className="select" value={minutes} onChange={(e) => setMinutes(Number(e.target.value))}>
                {MINUTES.map((m) => (
                  <option key={m} value={m}>
                    {m} min
                  </option>
                ))}
              </select>
            </label>
          )}
          <button type="button" className="btn btn-lg" onClick={() => window.print()}>
            <Printer aria-hidden size={20} />
            Print the sheet
          </button>
          <Link className="btn btn-primary btn-lg" to={`/jobs/${job.id}/prove`}>
            Back to Prove
          </Link>
        </div>
      </section>
      <Cautions job={job} step={STEP} />
      {petrol && live.link?.state === 'ready' && <Passenger now={now} live={live} banks={banks} />}
      {petrol && live.link?.state !== 'ready' && (
        <p className="m-0 text-soft no-print">
          No adapter is connected: take the sheet along, or connect on Readings. Network does not reach the road.
        </p>
      )}
      <section className="card grid gap-3 p-4" aria-label="Sheet for the passenger">
        <h2 className="card-title">
          {job.vehicle.label}
          {job.vehicle.note ? `, ${job.vehicle.note}` : ''}: sheet for the passenger
        </h2>
        <ol className="m-0 list-decimal pl-6">
          <li>Engine warm, loads off, windows and lights as at the first readings.</li>
          <li>
            Level road, steady speed, highest gear that runs easily
            {before?.rpm === undefined ? '' : `, near ${before.rpm.toLocaleString('en-US')} rpm as before the repair`}
            {before?.vssKmh === undefined ? '' : <Near kmh={before.vssKmh} />}. Law and traffic first.
          </li>
          {petrol ? (
            <li>
              Write down, read nothing aloud. Total is short term plus long term, with its sign. Stable is inside ±
              {ROAD_TEST.insidePct} % without a break for {minutes} min; ±{ROAD_TEST.aimPct} % is the aim.
            </li>
          ) : (
            <li>
              A diesel has no trims to hold: write down airflow and pressure at the same gear and pedal as before.
            </li>
          )}
          <li>A full-load pull only where it is safe and lawful, or on a dynamometer.</li>
        </ol>
        <Table banks={banks} petrol={petrol} />
        <p className="m-0 hidden print:block">{CAUTIONS.find((c) => c.id === 'road-test')!.text}</p>
        <p className="m-0 text-[0.93rem] text-soft">{PRECEDENCE}</p>
      </section>
    </>
  );
}

function Near({ kmh }: { kmh: number }) {
  return (
    <>
      {' '}
      and <Quantity value={kmh} unit="km/h" digits={0} />
    </>
  );
}

const SAID: Readonly<Record<Road['verdict'], string>> = {
  waiting: 'not held yet',
  holding: 'holding',
  stable: `stable inside ±${ROAD_TEST.insidePct} %`,
  'stable within the aim': `stable inside ±${ROAD_TEST.aimPct} %, the aim`,
};

/** One glance: the totals, whether they are inside, how long is held. */
function Passenger({ now, live, banks }: { now: Road; live: StationProps['live']; banks: number }) {
  const value = (channel: string) => {
    const v = live.values[channel];
    return typeof v === 'number' ? v : undefined;
  };
  const vss = value('vss');
  return (
    <section className="card grid gap-4 p-5 no-print" aria-label="For the passenger">
      <div className="flex flex-wrap items-end gap-x-10 gap-y-3">
        {Array.from({ length: banks }, (_, i) => i + 1).map((b) => {
          const short = value(`stft${b}`);
          const total = short === undefined ? null : short + (value(`ltft${b}`) ?? 0);
          return (
            <p key={b} className="m-0">
              <span className="block text-soft">{banks === 2 ? `Total trim, bank ${b}` : 'Total trim'}</span>
              <span className="figure text-[3.4rem] leading-none font-bold">
                {total === null ? '—' : `${signed(total)} %`}
              </span>
            </p>
          );
        })}
        <p className="m-0">
          <span className="block text-soft">Road speed</span>
          <span className="text-[2rem] leading-none font-bold">
            {vss === undefined ? '—' : <Quantity value={vss} unit="km/h" digits={0} />}
          </span>
        </p>
      </div>
      <progress
        className="progress progress-primary h-4 w-full"
        max={now.neededS}
        value={Math.min(now.neededS, Math.max(now.heldS, now.bestS))}
        aria-label="Held"
      />
      <p className="m-0 flex flex-wrap items-center gap-3 text-[1.15rem]">
        <span className={`badge badge-lg ${now.verdict.startsWith('stable') ? 'badge-success' : 'badge-outline'}`}>
          {SAID[now.verdict]}
        </span>
        <span>
          <span className="figure">{Math.floor(now.heldS)}</span> of {now.neededS} s
        </span>
        {now.waitsFor && <span className="text-soft">waits for {now.waitsFor}</span>}
      </p>
      <p className="sr-only" role="status">
        {SAID[now.verdict]}
      </p>
    </section>
  );
}

/** To be filled in by hand. */
function Table({ banks, petrol }: { banks: number; petrol: boolean }) {
  const show = useShown();
  const trims = Array.from({ length: banks }, (_, i) => (banks === 2 ? `, bank ${i + 1}` : '')).flatMap((b) => [
    `STFT${b}, %`,
    `LTFT${b}, %`,
    `Total${b}, %`,
  ]);
  const columns = [
    'Minute',
    `Speed, ${show(0, 'km/h', 0).unit}`,
    'rpm',
    ...(petrol ? trims : [`MAF, ${show(0, 'g/s', 1).unit}`, `MAP, ${show(0, 'kPa', 0).unit}`]),
    'What was noticed',
  ];
  return (
    <Scrolls label="Table to fill in">
      <table className="table">
        <thead>
          <tr>
            {columns.map((c) => (
              <th key={c} scope="col">
                {c}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {[1, 2, 3, 4, 5, 6].map((m) => (
            <tr key={m} className="h-11">
              <th scope="row">{m}</th>
              {columns.slice(1).map((c) => (
                <td key={c} className="border-l border-rule" />
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </Scrolls>
  );
}
