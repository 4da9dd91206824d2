import type { JobView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { readingOfStretch } from '@just-balance/core/capture';
import { OPERATING_POINTS, type OperatingPoint, pointLabel } from '@just-balance/core/case';
import { stationPressure } from '@just-balance/core/expected';
import type { Series } from '@just-balance/core/series';
import { useMemo, useState } from 'react';
import { ReadingLine, readingLines } from '../capture/KeptReading.tsx';
import type { Range } from '../charts/range.ts';
import { newId } from '../data/api.ts';
import { queueWrite } from '../data/writes.ts';
import { clock } from '../ui/figures.ts';
import { Press } from '../ui/May.tsx';
import { Problem } from '../ui/Problem.tsx';
import { Say, useShown } from '../ui/preferences.tsx';
import { useAction } from '../ui/useAction.ts';

/** Channels a reading is made of: what is not drawn has to be there too. */
export const FOR_THE_CASE = [
  'rpm',
  'maf',
  'map',
  'ect',
  'iat',
  'baro',
  'vss',
  'vbat',
  'fuelLevel',
  'tpRel',
  'stft1',
  'ltft1',
  'stft2',
  'ltft2',
  'fuelSys1',
  'fuelSys2',
  'o2s11',
  'o2s12',
  'o2s21',
  'o2s22',
  'lambda11',
  'lambda21',
] as const;

/** The part shown as a reading: its figures, oxygen verdicts and peaks reach the judgement with one press. */
export function IntoTheCase({
  job,
  captureId,
  phase,
  series,
  range,
  at: likely,
}: {
  job: JobView;
  captureId: string;
  phase: 'before' | 'after';
  series: Series;
  range: Range;
  /** The operating point the part shown is marked as. */
  at: OperatingPoint | null;
}) {
  const [chosen, setChosen] = useState<OperatingPoint | null>(null);
  const at = chosen ?? likely ?? 'hold-2500';
  const show = useShown();
  const { busy, trouble, run } = useAction();
  const [kept, setKept] = useState(false);
  const made = useMemo(() => {
    try {
      const engine = {
        banks: job.vehicle.banks ?? 1,
        metered: job.vehicle.metering !== 'speed-density',
        fuel: job.vehicle.fuel,
        turbo: job.vehicle.induction === 'turbo',
        baroKPa: stationPressure(job.ambient).baroKPa,
      } as const;
      return { ...readingOfStretch(series, engine, at, range.from, range.to), problem: null };
    } catch (e) {
      return { reading: null, flags: [], problem: (e as Error).message };
    }
  }, [job.vehicle, job.ambient, series, at, range.from, range.to]);
  const put = () =>
    run(async () => {
      if (!made.reading) return;
      await queueWrite(`Reading from a recording, ${pointLabel(at)}`, WRITES.addReading(job.id), {
        id: newId(),
        phase,
        reading: made.reading,
        stretch: {
          captureId,
          fromS: range.from,
          toS: range.to,
          ...(made.flags.length > 0 ? { doubtful: made.flags.join('; ').slice(0, 200) } : {}),
        },
      });
      setKept(true);
    });
  return (
    <section className="card grid gap-3 p-4" aria-label="Into the case">
      <h2 className="card-title">The part shown as a reading</h2>
      <div className="flex flex-wrap items-end gap-3">
        <label className="field w-52">
          Operating point
          <select
            className="select"
            value={at}
            onChange={(e) => {
              setChosen(e.target.value as OperatingPoint);
              setKept(false);
            }}
          >
            {OPERATING_POINTS.filter((p) => p !== 'boost' || job.vehicle.induction === 'turbo').map((p) => (
              <option key={p} value={p}>
                {pointLabel(p)}
              </option>
            ))}
          </select>
        </label>
        <Press className="btn btn-primary" disabled={busy || !made.reading} onClick={put}>
          Put it into the case
        </Press>
        <span className="figure text-soft">
          {clock(range.from)}–{clock(range.to)}
        </span>
      </div>
      {made.reading && (
        <p className="m-0 text-[0.93rem]">
          <ReadingLine lines={readingLines(made.reading, job.vehicle.banks ?? 1, show)} />
        </p>
      )}
      {made.flags.map((f) => (
        <p key={f} className="m-0 font-[550] text-caution">
          <Say text={`Doubtful: ${f}.`} />
        </p>
      ))}
      {made.problem && <p className="m-0 text-soft">{made.problem.charAt(0).toUpperCase() + made.problem.slice(1)}.</p>}
      {kept && (
        <p role="status" className="m-0">
          It stands with the readings, marked in this recording.
        </p>
      )}
      <Problem trouble={trouble} />
    </section>
  );
}
