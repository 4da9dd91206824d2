import type { JobView, RecordView } from '@just-balance/contract';
import { MONITORS, modelYear } from '@just-balance/core/obd';
import { clearedLately } from '@just-balance/core/readiness';
import { Fragment } from 'react';
import { SensorMap } from '../../job/SensorMap.tsx';
import { Fold } from '../../ui/Fold.tsx';
import { Quantity } from '../../ui/preferences.tsx';

/** What the engine is, and which sensors it was found to have. */
export function VehicleCard({ job, record }: { job: JobView; record: RecordView | undefined }) {
  const v = job.vehicle;
  const vin = record?.vin ?? v.vin;
  const year = vin ? modelYear(vin, new Date().getFullYear() + 1) : null;
  const facts: [string, string][] = [
    [
      'Engine',
      `${v.displacementL} L, ${v.cylinders} cylinders, ${v.banks === 2 ? 'two banks' : 'one bank'}, ${v.fuel}`,
    ],
    [
      'Air',
      v.metering === 'maf'
        ? 'airflow sensor'
        : v.metering === 'both'
          ? 'airflow and pressure sensor'
          : 'pressure sensor (speed-density)',
    ],
    ['Induction', `${v.induction === 'turbo' ? 'turbo' : 'naturally aspirated'}, ${v.injection ?? 'port'} injection`],
    ...(vin
      ? [
          [
            'VIN',
            `${vin}${record?.vin && v.vin && record.vin !== v.vin ? `, entered as ${v.vin}` : ''}${year === null ? '' : `, model year ${year} by its tenth character`}`,
          ] as [string, string],
        ]
      : []),
    ...(record?.sensors
      ? [
          [
            'Oxygen sensors',
            record.sensors.map((s) => `bank ${s.bank} sensor ${s.sensor}${s.wide ? ' (wide-band)' : ''}`).join(', ') ||
              'none reported',
          ] as [string, string],
        ]
      : []),
  ];
  return (
    <section className="card p-4">
      <h2 className="card-title">Vehicle</h2>
      <dl className="m-0 mt-2 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
        {facts.map(([k, t]) => (
          <Fragment key={k}>
            <dt className="text-soft">{k}</dt>
            <dd className={`m-0 ${k === 'VIN' ? 'figure' : ''}`}>{t}</dd>
          </Fragment>
        ))}
      </dl>
      {v.fuel === 'petrol' && (
        <Fold title="Which sensor is which">
          <SensorMap job={job} />
        </Fold>
      )}
    </section>
  );
}

function Stat({ title, value, unit }: { title: string; value: number | string | null; unit?: 'km' }) {
  return (
    <div className="stat w-auto border-none py-1 pr-6 pl-0">
      <dt className="stat-title text-[0.9rem] text-soft">{title}</dt>
      <dd className="stat-value figure m-0 text-[1.35rem]">
        {typeof value === 'number' && unit ? <Quantity value={value} unit={unit} digits={0} /> : (value ?? '—')}
      </dd>
    </div>
  );
}

/** Codes, lamp and monitors as they stood. */
export function RecordCard({ record }: { record: RecordView }) {
  const open = record.monitors?.monitors.filter((m) => m.state === 'incomplete') ?? [];
  const cleared = clearedLately({
    monitors: record.monitors,
    warmupsSinceClear: record.warmupsSinceClear,
    distanceSinceClearKm: record.distanceSinceClearKm,
    minutesSinceClear: record.counters.minutesSinceClear,
    stored: record.codes.filter((c) => c.state === 'stored').length,
    permanent: record.codes.filter((c) => c.state === 'permanent').length,
    longPct: [],
  });
  const counted = record.warmupsSinceClear !== null || record.distanceSinceClearKm !== null;
  return (
    <section className="card grid gap-3 p-4">
      <h2 className="card-title">
        On record, {record.source === 'link' ? 'read from the vehicle' : 'entered by hand'}
      </h2>
      <table className="table">
        <caption className="sr-only">Codes</caption>
        <thead>
          <tr>
            <th scope="col">Code</th>
            <th scope="col">State</th>
            <th scope="col">Says</th>
          </tr>
        </thead>
        <tbody>
          {record.codes.map((c) => (
            <tr key={`${c.code}${c.state}`}>
              <td className="figure font-bold">{c.code}</td>
              <td>{c.state}</td>
              <td>{c.text ?? 'maker code: a generic reader may mislead'}</td>
            </tr>
          ))}
          {record.codes.length === 0 && (
            <tr>
              <td colSpan={3}>No codes: stored, pending or permanent.</td>
            </tr>
          )}
        </tbody>
      </table>
      <dl className="stats m-0 flex flex-wrap">
        <Stat title="Lamp" value={record.lampOn ? 'on' : 'off'} />
        {counted && (
          <>
            <Stat title="Warm-ups since clear" value={record.warmupsSinceClear} />
            <Stat title="Since clear" value={record.distanceSinceClearKm} unit="km" />
          </>
        )}
      </dl>
      {cleared.verdict === 'yes' && (
        <p className="m-0 font-[550] text-caution">Cleared not long ago: {cleared.reasons.join('; ')}.</p>
      )}
      <dl className="m-0 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
        <dt className="text-soft">Monitors</dt>
        <dd className="m-0">
          {record.monitors
            ? open.length === 0
              ? 'all complete'
              : `open: ${open.map((m) => MONITORS[m.id]).join(', ')}`
            : 'not read'}
        </dd>
      </dl>
      {record.freezeFrame.length > 0 && (
        <Fold title={<>Freeze frame, {record.freezeFrame.length} values</>}>
          <ul className="figure m-0 mt-1 grid list-none gap-1 p-0 text-[0.9rem]">
            {record.freezeFrame.map((f) => (
              <li key={f.name} className="flex justify-between gap-4">
                <span>{f.name}</span>
                <span>
                  {typeof f.value === 'number' ? Math.round(f.value * 100) / 100 : f.value} {f.unit}
                </span>
              </li>
            ))}
          </ul>
        </Fold>
      )}
    </section>
  );
}
