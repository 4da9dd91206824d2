import { HandRecordRequest, type JobView, RecordChangeRequest, type RecordView, WRITES } from '@just-balance/contract';
import { decodeMonitors, encodeMonitors, MONITORS, type MonitorId, type MonitorState } from '@just-balance/core/obd';
import { metricOf, shown } from '@just-balance/core/units';
import { newId } from '../../data/api.ts';
import { queueWrite, write } from '../../data/writes.ts';
import { Clashes } from '../../ui/Clashes.tsx';
import { Field } from '../../ui/Field.tsx';
import { Fold } from '../../ui/Fold.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { usePreferences } from '../../ui/preferences.tsx';
import { SignedField } from '../../ui/SignedField.tsx';
import { typed } from '../../ui/typed.ts';
import { asTyped, useFollowUnits } from '../../ui/useFollowUnits.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';

const LISTS = [
  { name: 'stored', label: 'Stored codes' },
  { name: 'pending', label: 'Pending codes' },
  { name: 'permanent', label: 'Permanent codes' },
] as const;

/** Values of a freeze frame that tools show, by the channel they are. */
const FROZEN = [
  { name: 'rpm', label: 'Engine speed', unit: 'rpm', digits: 0 },
  { name: 'vss', label: 'Road speed', unit: 'km/h', digits: 0 },
  { name: 'load', label: 'Calculated load', unit: '%', digits: 1 },
  { name: 'ect', label: 'Coolant', unit: '°C', digits: 0 },
  { name: 'iat', label: 'Intake air', unit: '°C', digits: 0 },
  { name: 'map', label: 'Manifold pressure', unit: 'kPa', digits: 0 },
  { name: 'maf', label: 'Airflow', unit: 'g/s', digits: 1 },
  { name: 'tp', label: 'Throttle, absolute', unit: '%', digits: 1 },
  { name: 'stft1', label: 'Short-term trim, bank 1', unit: '%', digits: 1 },
  { name: 'ltft1', label: 'Long-term trim, bank 1', unit: '%', digits: 1 },
  { name: 'stft2', label: 'Short-term trim, bank 2', unit: '%', digits: 1 },
  { name: 'ltft2', label: 'Long-term trim, bank 2', unit: '%', digits: 1 },
] as const;

const COUNTERS = [
  { name: 'warmupsSinceClear', label: 'Warm-ups since clear', unit: '' },
  { name: 'distanceSinceClearKm', label: 'Distance since clear', unit: 'km' },
  { name: 'minutesSinceClear', label: 'Minutes since clear', unit: 'min' },
  { name: 'lampDistanceKm', label: 'Distance with the lamp on', unit: 'km' },
] as const;

/** The monitors an engine of this ignition may have, in the order of the standard. */
function monitorsOf(fuel: string): MonitorId[] {
  const ignition = fuel === 'diesel' ? 'compression' : 'spark';
  const bytes = encodeMonitors({ lampOn: false, codeCount: 0, ignition, monitors: [] });
  return decodeMonitors(bytes).monitors.map((m) => m.id);
}

const codes = (s: string) =>
  s
    .toUpperCase()
    .split(/[\s,;]+/)
    .filter(Boolean);

type Text = Record<string, string>;
interface Typed extends Text {
  stored: string;
  pending: string;
  permanent: string;
  lamp: 'on' | 'off';
}

const frozenIn = (r: RecordView | undefined, name: string) => r?.freezeFrame.find((f) => f.name === name)?.value;
const countersOf = (r: RecordView | undefined): Record<string, number | null | undefined> => ({
  ...r?.counters,
  warmupsSinceClear: r?.warmupsSinceClear,
  distanceSinceClearKm: r?.distanceSinceClearKm,
});

/** Codes, lamp, monitors, counters and freeze frame as a tool without an adapter shows them; typed anew or put right. */
export function HandRecord({
  job,
  record,
  phase,
  done,
}: {
  job: JobView;
  /** One that was typed, to be put right. */
  record?: RecordView;
  phase: 'before' | 'after';
  done: () => void;
}) {
  const { units } = usePreferences();
  const unitOf = (unit: string) => shown(0, unit, 0, units).unit;
  const figure = (v: number | null | undefined, unit: string) =>
    v === null || v === undefined ? '' : asTyped(shown(v, unit, 0, units).value, 2);
  const metric = (text: string | undefined, unit: string, before?: unknown) => {
    if (!text?.trim()) return undefined;
    // What nobody touched stays as it was read, however it was rounded to be shown.
    if (typeof before === 'number' && text === figure(before, unit)) return before;
    return Math.round(metricOf(Number(typed(text)), unit, units) * 1000) / 1000;
  };
  const monitors = monitorsOf(job.vehicle.fuel);
  const frozen = FROZEN.filter((f) => job.vehicle.banks === 2 || !f.name.endsWith('2'));
  const body = (t: Typed, stands: RecordView | undefined) => {
    const counters = countersOf(stands);
    const states = Object.fromEntries(monitors.flatMap((m) => (t[`m_${m}`] ? [[m, t[`m_${m}`] as MonitorState]] : [])));
    const frame = [
      ...(t.f_code?.trim() ? [{ name: 'freezeDtc', value: t.f_code.trim().toUpperCase(), unit: '' }] : []),
      ...frozen.flatMap((f) => {
        const v = metric(t[`f_${f.name}`], f.unit, frozenIn(stands, f.name));
        return v === undefined ? [] : [{ name: f.name, value: v, unit: f.unit }];
      }),
      // What the form has no field for stays as it was.
      ...(stands?.freezeFrame ?? []).filter((f) => f.name !== 'freezeDtc' && !frozen.some((x) => x.name === f.name)),
    ];
    return {
      phase: stands?.phase ?? phase,
      stored: codes(t.stored),
      pending: codes(t.pending),
      permanent: codes(t.permanent),
      lampOn: t.lamp === 'on',
      ...(Object.keys(states).length > 0 ? { monitors: states } : {}),
      ...(frame.length > 0 ? { freezeFrame: frame } : {}),
      ...Object.fromEntries(
        COUNTERS.flatMap((c) => {
          const v = metric(t[c.name], c.unit, counters[c.name]);
          return v === undefined ? [] : [[c.name, v]];
        }),
      ),
      ...(stands ? { rev: stands.rev } : { id: newId() }),
    };
  };
  const asText = (r: RecordView | undefined): Typed => {
    const listed = (state: string) =>
      (r?.codes ?? [])
        .filter((c) => c.state === state)
        .map((c) => c.code)
        .join(' ');
    const counters = countersOf(r);
    return {
      stored: listed('stored'),
      pending: listed('pending'),
      permanent: listed('permanent'),
      lamp: r?.lampOn ? 'on' : 'off',
      ...Object.fromEntries(
        monitors.map((m) => [`m_${m}`, r?.monitors?.monitors.find((x) => x.id === m)?.state ?? '']),
      ),
      f_code: String(frozenIn(r, 'freezeDtc') ?? ''),
      ...Object.fromEntries(
        frozen.map((f) => {
          const v = frozenIn(r, f.name);
          return [`f_${f.name}`, typeof v === 'number' ? figure(v, f.unit) : ''];
        }),
      ),
      ...Object.fromEntries(COUNTERS.map((c) => [c.name, figure(counters[c.name], c.unit)])),
    } as Typed;
  };
  const form = useTypedForm<Typed, HandRecordRequest | RecordChangeRequest, RecordView>({
    dto: record ? RecordChangeRequest : HandRecordRequest,
    keep: `${record ? record.id : `${job.id} ${phase}`} record ${units}`,
    ...(record ? { over: { now: record, text: asText } } : {}),
    defaults: asText(record),
    body: body as (t: Typed, stands: RecordView | undefined) => HandRecordRequest,
    check: (t) =>
      Object.fromEntries(
        [...frozen.map((f) => `f_${f.name}`), ...COUNTERS.map((c) => c.name)].flatMap((k) =>
          t[k]?.trim() && Number.isNaN(Number(typed(t[k]))) ? [[k, `“${t[k]}” is not a number`]] : [],
        ),
      ),
    send: async (b) => {
      if (record) await write(WRITES.changeRecord(job.id, record.id), b as RecordChangeRequest);
      else await queueWrite('Record by hand', WRITES.recordByHand(job.id), b as HandRecordRequest);
      done();
    },
  });
  const { register, submit, watch, setValue, getValues, busy, trouble, error, rest } = form;
  useFollowUnits(
    Object.fromEntries([
      ...frozen.map((f) => [`f_${f.name}`, unitOf(f.unit)]),
      ...COUNTERS.map((c) => [c.name, unitOf(c.unit)]),
    ]),
    (k) => getValues(k),
    (k, text) => form.follow(k, text),
  );
  const now = watch();
  const withUnit = (label: string, unit: string) => (unit ? `${label}, ${unitOf(unit)}` : label);
  return (
    <form className="card grid gap-3 p-4" onSubmit={submit} noValidate aria-label="Record by hand">
      <h2 className="card-title">{record ? 'Put the record right' : 'What your tool shows'}</h2>
      <div className="grid gap-3 md:grid-cols-4">
        {LISTS.map((l) => (
          <Field key={l.name} label={l.label} error={error(l.name)}>
            {(aria) => <input className="input" autoComplete="off" {...register(l.name)} {...aria} />}
          </Field>
        ))}
        <label className="field">
          The lamp is
          <select className="select" {...register('lamp')}>
            <option value="off">off</option>
            <option value="on">on</option>
          </select>
        </label>
      </div>
      <p className="m-0 text-[0.9rem] text-soft">Several codes: with a space or a comma between them.</p>
      <Fold title="Monitors" open={record?.monitors != null}>
        <button
          type="button"
          className="btn mb-3"
          onClick={() => {
            // What the car was said not to have stays so.
            for (const m of monitors) if (getValues(`m_${m}`) !== 'unsupported') setValue(`m_${m}`, 'complete');
          }}
        >
          All complete
        </button>
        <div className="grid gap-3 sm:grid-cols-2 lg:grid-cols-4">
          {monitors.map((m) => (
            <label key={m} className="field">
              {MONITORS[m]}
              <select className="select" {...register(`m_${m}`)}>
                <option value="">not read</option>
                <option value="complete">complete</option>
                <option value="incomplete">incomplete</option>
                <option value="unsupported">this car has none</option>
              </select>
            </label>
          ))}
        </div>
      </Fold>
      <Fold title="Freeze frame" open={(record?.freezeFrame.length ?? 0) > 0}>
        <div className="grid gap-3 sm:grid-cols-2 lg:grid-cols-4">
          <Field label="The code it was stored with" error={error('f_code')}>
            {(aria) => <input className="input" autoComplete="off" {...register('f_code')} {...aria} />}
          </Field>
          {frozen.map((f) => (
            <SignedField
              key={f.name}
              name={`f_${f.name}`}
              label={withUnit(f.label, f.unit)}
              value={now[`f_${f.name}`] ?? ''}
              set={(v) => setValue(`f_${f.name}`, v)}
              error={error(`f_${f.name}`)}
            />
          ))}
        </div>
      </Fold>
      <Fold title="Counters" open={record?.warmupsSinceClear != null}>
        <div className="grid gap-3 sm:grid-cols-2 lg:grid-cols-4">
          {COUNTERS.map((c) => (
            <Field key={c.name} label={withUnit(c.label, c.unit === 'min' ? '' : c.unit)} error={error(c.name)}>
              {(aria) => <input className="input" inputMode="decimal" {...register(c.name)} {...aria} />}
            </Field>
          ))}
        </div>
      </Fold>
      <Clashes clashes={form.clashes} settle={form.settle} />
      <Problem text={rest} trouble={trouble} />
      <div className="flex justify-end gap-4">
        <button
          type="button"
          className="btn"
          onClick={() => {
            form.forget();
            done();
          }}
        >
          Cancel
        </button>
        <button type="submit" className="btn btn-primary" disabled={busy}>
          Keep this record
        </button>
      </div>
    </form>
  );
}
