import type { RecordView } from '@just-balance/contract';
import { type ClearedAnswer, clearedLately } from '@just-balance/core/readiness';
import { joined, said } from '@just-balance/core/units';
import { Fold } from '../../ui/Fold.tsx';
import { Quantity, Say } from '../../ui/preferences.tsx';

const VERDICT: Readonly<Record<ClearedAnswer['verdict'], string>> = {
  yes: 'Cleared not long ago',
  maybe: 'Perhaps cleared not long ago',
  no: 'Not cleared lately',
  unknown: 'Not known whether it was cleared lately',
};

const duration = (minutes: number) =>
  minutes < 120 ? `${Math.round(minutes)} min` : `${Math.round(minutes / 60).toLocaleString('en-US')} h`;

/** Counters since clearing, what they betray, and a battery as the other explanation. */
export function Cleared({ record, longPct }: { record: RecordView; longPct: readonly number[] }) {
  const { counters } = record;
  const answer = clearedLately({
    monitors: record.monitors,
    warmupsSinceClear: record.warmupsSinceClear,
    distanceSinceClearKm: record.distanceSinceClearKm,
    minutesSinceClear: counters.minutesSinceClear,
    stored: record.codes.filter((c) => c.state === 'stored').length,
    permanent: record.codes.filter((c) => c.state === 'permanent').length,
    longPct,
  });
  const facts: [string, React.ReactNode][] = [
    ['Warm-ups since clearing', record.warmupsSinceClear],
    [
      'Driven since clearing',
      record.distanceSinceClearKm === null ? null : (
        <Quantity key="km" value={record.distanceSinceClearKm} unit="km" digits={0} />
      ),
    ],
    ['Running since clearing', counters.minutesSinceClear === null ? null : duration(counters.minutesSinceClear)],
    ['Engine on in this drive', counters.runTimeS === null ? null : duration(counters.runTimeS / 60)],
    [
      'Driven with the lamp on',
      counters.lampDistanceKm === null ? null : (
        <Quantity key="lamp" value={counters.lampDistanceKm} unit="km" digits={0} />
      ),
    ],
    ['Running with the lamp on', counters.lampMinutes === null ? null : duration(counters.lampMinutes)],
  ];
  const permanent = record.codes.filter((c) => c.state === 'permanent');
  return (
    <section className="card grid gap-2 p-4" aria-label="Since codes were cleared">
      <h2 className="card-title">{VERDICT[answer.verdict]}</h2>
      {answer.reasons.length > 0 && (
        <p className="m-0">
          <Say text={said`${joined(answer.reasons, '; ')}.`} />
        </p>
      )}
      <dl className="m-0 grid grid-cols-[1fr_auto] gap-x-4 gap-y-1">
        {facts
          .filter(([, v]) => v !== null)
          .map(([name, v]) => (
            <div key={name} className="contents">
              <dt className="text-soft">{name}</dt>
              <dd className="figure m-0 text-right">{v}</dd>
            </div>
          ))}
        <dt className="text-soft">Permanent codes</dt>
        <dd className="figure m-0 text-right">{permanent.map((c) => c.code).join(', ') || 'none'}</dd>
      </dl>
      {answer.battery.length > 0 && (
        <Fold title="Or the battery was off">
          <ul className="m-0 pl-5">
            {answer.battery.map((b) => (
              <li key={b}>{b}</li>
            ))}
          </ul>
        </Fold>
      )}
      <Fold title="For a buyer, for an inspector">
        <p className="m-0">
          <strong className="font-[650]">Buyer:</strong> {answer.buyer}
        </p>
        <p className="m-0 mt-1">
          <strong className="font-[650]">Inspector:</strong> {answer.inspector}
        </p>
      </Fold>
    </section>
  );
}
