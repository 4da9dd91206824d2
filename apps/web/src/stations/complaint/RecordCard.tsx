import type { JobView, RecordView } from '@just-balance/contract';
import { pointLabel } from '@just-balance/core/case';
import { QUANTITY_LABEL, QUANTITY_UNIT } from '@just-balance/core/expected';
import { MONITORS } from '@just-balance/core/obd';
import { clearedLately } from '@just-balance/core/readiness';
import { counted, joined, midSentence, numberText, said } from '@just-balance/core/units';
import { Fragment, useState } from 'react';
import { cardFacts, inUnits } from '../../job/vehicle/cardFacts.ts';
import { SensorMap } from '../../job/vehicle/SensorMap.tsx';
import { channelLabel } from '../../recordings/importing/channels.ts';
import { Fold } from '../../ui/Fold.tsx';
import { later } from '../../ui/later.tsx';
import { Press } from '../../ui/May.tsx';
import { Quantity, Say, useShown } from '../../ui/preferences.tsx';
import { Table } from '../../ui/Table.tsx';
import { VehicleChanges } from './VehicleChanges.tsx';

const VehicleEditor = later(async () => (await import('./VehicleEditor.tsx')).VehicleEditor);

/** What the engine is, and which sensors it was found to have. */
export function VehicleCard({ job, record }: { job: JobView; record: RecordView | undefined }) {
  const [open, setOpen] = useState(false);
  const show = useShown();
  const v = job.vehicle;
  const facts = cardFacts(v, show, record);
  // What service information was entered for elsewhere: with where it came from.
  for (const k of job.known)
    if (k.layer === 'entered')
      facts.push([
        `${QUANTITY_LABEL[k.quantity]}, ${midSentence(pointLabel(k.at))}`,
        `${inRange(k.low, k.high, QUANTITY_UNIT[k.quantity], show)}, ${k.source}`,
      ]);
  for (const e of job.entries)
    if (e.kind === 'value' && !e.undone)
      facts.push([
        e.data.quantity,
        `${inUnits(show, e.data.value, e.data.unit)}${e.data.source ? `, ${e.data.source}` : ''}`,
      ]);
  return (
    <section className="card p-4">
      <div className="flex items-center justify-between gap-3">
        <h2 className="card-title">Vehicle</h2>
        <Press className="btn" onClick={() => setOpen(true)}>
          Change the card
        </Press>
      </div>
      {open && <VehicleEditor job={job} close={() => setOpen(false)} />}
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
      {v.rev > 1 && <VehicleChanges vehicle={v} />}
    </section>
  );
}

function inRange(low: number, high: number, unit: string, show: ReturnType<typeof useShown>): string {
  const [a, b] = [show(low, unit, 1), show(high, unit, 1)];
  return `${numberText(a.value, a.digits)} to ${numberText(b.value, b.digits)} ${b.unit}`;
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
export function RecordCard({ record, correct }: { record: RecordView; correct?: () => void }) {
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
  const hasCounters = record.warmupsSinceClear !== null || record.distanceSinceClearKm !== null;
  return (
    <section className="card grid gap-3 p-4">
      <div className="flex items-center justify-between gap-3">
        <h2 className="card-title">
          On record, {record.source === 'link' ? 'read from the vehicle' : 'entered by hand'}
        </h2>
        {record.source === 'hand' && correct && (
          <Press className="btn" onClick={correct}>
            Put it right
          </Press>
        )}
      </div>
      <Table
        caption="Codes"
        rows={record.codes}
        keyOf={(c) => `${c.code}${c.state}`}
        empty="No codes: stored, pending or permanent."
        columns={[
          { head: 'Code', cellClass: 'figure font-bold', cell: (c) => c.code },
          { head: 'State', cell: (c) => c.state },
          { head: 'Says', cell: (c) => c.text },
        ]}
      />
      <dl className="stats m-0 flex flex-wrap">
        <Stat title="Lamp" value={record.lampOn ? 'on' : 'off'} />
        {hasCounters && (
          <>
            <Stat title="Warm-ups since clear" value={record.warmupsSinceClear} />
            <Stat title="Since clear" value={record.distanceSinceClearKm} unit="km" />
          </>
        )}
      </dl>
      {cleared.verdict === 'yes' && (
        <p className="m-0 font-[550] text-caution">
          <Say text={said`Cleared not long ago: ${joined(cleared.reasons, '; ')}.`} />
        </p>
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
        <Fold title={`Freeze frame, ${counted(record.freezeFrame.length, 'value')}`}>
          <ul className="figure m-0 mt-1 grid list-none gap-1 p-0 text-[0.9rem]">
            {record.freezeFrame.map((f) => (
              <li key={f.name} className="flex justify-between gap-4">
                <span>{f.name === 'freezeDtc' ? 'Stored with' : channelLabel(f.name)}</span>
                <span>
                  {typeof f.value === 'number' ? (
                    <Quantity value={f.value} unit={f.unit} digits={Number.isInteger(f.value) ? 0 : 1} />
                  ) : (
                    `${f.value} ${f.unit}`
                  )}
                </span>
              </li>
            ))}
          </ul>
        </Fold>
      )}
    </section>
  );
}
