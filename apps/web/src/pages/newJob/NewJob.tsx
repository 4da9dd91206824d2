import {
  type AdapterView,
  type BayView,
  COMPLAINTS,
  type JobSummary,
  NewJobRequest,
  type VehicleRequest,
  type VehicleView,
} from '@just-balance/contract';
import type { VehicleIdentity } from '@just-balance/core/link';
import { metricOf, shown } from '@just-balance/core/units';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import useSWR from 'swr';
import { CalculatorCard } from '../../calculators/CalculatorCard.tsx';
import { api, newId } from '../../data/api.ts';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { fromVehicle } from '../../job/fromVehicle.ts';
import { SymptomPicker } from '../../job/SymptomPicker.tsx';
import { VehicleFields } from '../../job/VehicleFields.tsx';
import { cardOf, EMPTY_VEHICLE, type VehicleForm, vehicleOf } from '../../job/vehicleForm.ts';
import { Combobox } from '../../ui/Combobox.tsx';
import { Field } from '../../ui/Field.tsx';
import { Fold } from '../../ui/Fold.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { usePreferences } from '../../ui/preferences.tsx';
import { SignedField } from '../../ui/SignedField.tsx';
import { typed } from '../../ui/typed.ts';
import { useAction } from '../../ui/useAction.ts';
import { asTyped, useFollowUnits } from '../../ui/useFollowUnits.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';

interface Form extends VehicleForm {
  story: string;
  baroKPa: string;
  airC: string;
  adapter: string;
}

const EMPTY: Form = { ...EMPTY_VEHICLE, story: '', baroKPa: '', airC: '', adapter: '' };
/** What the day is like, in the units shown. */
const DAY = { baroKPa: 'kPa', airC: '°C' } as const;

/** A job starts with the vehicle in front of you: by hand, from the shop's list, or a simulated bay. */
export function NewJob() {
  const { data: vehicles } = useSWR<VehicleView[]>('/vehicles');
  const { data: bays } = useSWR<BayView[]>('/bays');
  const { data: adapters } = useSWR<AdapterView[]>('/adapters');
  const [known, setKnown] = useState<VehicleView | null>(null);
  const [base, setBase] = useState<Partial<VehicleRequest>>({});
  const [symptoms, setSymptoms] = useState<string[]>([]);
  const [heard, setHeard] = useState<string | null>(null);
  const { units } = usePreferences();
  const asking = useAction();
  const navigate = useNavigate();
  const day = (f: Form, key: keyof typeof DAY) => {
    if (f[key].trim() === '') return {};
    const v = metricOf(Number(typed(f[key])), DAY[key], units);
    return { [key]: units === 'metric' ? v : Math.round(v * 100) / 100 };
  };
  const form = useTypedForm<Form, NewJobRequest>({
    dto: NewJobRequest,
    defaults: EMPTY,
    fields: { 'vehicle.boostTarget': 'boostKPa' },
    body: (f) => ({
      id: newId(),
      vehicleId: known?.id ?? newId(),
      vehicle: vehicleOf(base, f, units),
      complaint: { story: f.story, symptoms, recentWork: [] },
      ambient: { ...day(f, 'baroKPa'), ...day(f, 'airC') },
      ...(f.adapter ? { adapter: f.adapter } : {}),
    }),
    send: async (body) => {
      const { id } = await api.post<JobSummary>('/jobs', body);
      navigate(`/jobs/${id}`);
    },
  });
  const { register, submit, reset, getValues, setValue, watch, busy, trouble, error, rest } = form;

  const fill = (v: VehicleRequest, extra: Partial<Form>) => {
    setBase(v);
    setHeard(null);
    reset({ ...getValues(), ...cardOf(v, units), ...extra });
  };
  const unitOf = (key: keyof typeof DAY) => shown(0, DAY[key], 0, units).unit;
  useFollowUnits(
    { baroKPa: unitOf('baroKPa'), airC: unitOf('airC') },
    (k) => getValues(k as keyof Form) as string,
    (k, text) => setValue(k as keyof Form, text),
  );
  const dayText = (v: number, key: keyof typeof DAY) => {
    const s = shown(v, DAY[key], 2, units);
    return asTyped(s.value, s.digits);
  };
  const adapter = watch('adapter');
  const ask = () =>
    asking.run(async () => {
      const said = await api.post<VehicleIdentity>('/adapters/identify', { adapter });
      const { card, words } = fromVehicle(said);
      reset({ ...getValues(), ...card });
      setHeard(words);
    });

  return (
    <Frame title="New job" subtitle="the vehicle in front of you" side={<HouseNav current="board" />}>
      <NextStep
        title="Say what it is and what is wrong"
        why="Displacement, metering and banks make the expected values; the rest helps later."
      />
      <form className="grid gap-3 lg:grid-cols-2" onSubmit={submit} noValidate>
        <section className="card grid content-start gap-3 p-4">
          <h2 className="card-title">Vehicle</h2>
          {((bays?.length ?? 0) > 0 || (vehicles?.length ?? 0) > 0) && (
            <div className="flex flex-wrap items-end gap-2">
              {bays?.map((b) => (
                <button
                  key={b.bay}
                  type="button"
                  className="btn"
                  onClick={() => {
                    setKnown(null);
                    fill(b.vehicle, {
                      adapter: `sim:${b.bay}`,
                      baroKPa: dayText(b.baroKPa, 'baroKPa'),
                      airC: dayText(b.airC, 'airC'),
                    });
                  }}
                >
                  Bay {b.bay}, simulated: {b.vehicle.label}
                </button>
              ))}
              {vehicles && vehicles.length > 0 && (
                <Combobox
                  className="basis-full"
                  label="A vehicle known here"
                  placeholder="Name, colour, plate"
                  all={vehicles}
                  textOf={(v) => (v.note ? `${v.label}, ${v.note}` : v.label)}
                  keyOf={(v) => v.id}
                  chosen={known}
                  choose={(v) => {
                    setKnown(v);
                    if (v) fill(v, {});
                  }}
                />
              )}
            </div>
          )}
          <div className="flex flex-wrap items-end gap-3">
            <Field className="min-w-56 flex-1" label="Adapter" error={error('adapter')}>
              {(aria) => (
                <select className="select" {...register('adapter')} {...aria}>
                  <option value="">None: readings by hand</option>
                  {adapters?.map((a) => (
                    <option key={a.address} value={a.address}>
                      {a.label}
                    </option>
                  ))}
                </select>
              )}
            </Field>
            <button type="button" className="btn" disabled={!adapter || asking.busy} onClick={ask}>
              {asking.busy ? 'Asking…' : 'Read from the vehicle'}
            </button>
          </div>
          <Problem trouble={asking.trouble} />
          {heard && (
            <p role="status" className="m-0">
              {heard}
            </p>
          )}
          <VehicleFields
            register={register}
            error={error}
            get={(k) => getValues(k)}
            set={(k, text) => setValue(k, text)}
            now={watch()}
          />
        </section>
        <section className="card grid content-start gap-3 p-4">
          <h2 className="card-title">Complaint and surroundings</h2>
          <Field label="Who noticed what, and when" error={error('story')}>
            {(aria) => <textarea className="textarea" {...register('story')} {...aria} />}
          </Field>
          <SymptomPicker all={COMPLAINTS} chosen={symptoms} change={setSymptoms} />
          <div className="grid grid-cols-2 gap-3">
            <Field label={`Station pressure, ${unitOf('baroKPa')}`} error={error('baroKPa')}>
              {(aria) => <input className="input" inputMode="decimal" {...register('baroKPa')} {...aria} />}
            </Field>
            <SignedField
              label={`Outside air, ${unitOf('airC')}`}
              value={watch('airC')}
              set={(v) => setValue('airC', v)}
              error={error('airC')}
            />
          </div>
          <Fold title="What station pressure is, and how to work it out">
            <p className="m-0 mb-2 text-soft">
              The pressure of the air where you stand. A weather report gives it reduced to sea level: on a hill that is
              too much, and every expected airflow with it.
            </p>
            <CalculatorCard id="altitude" start={{ vacuumKPa: 0 }} />
          </Fold>
          <Problem text={rest} trouble={trouble} />
          <button type="submit" className="btn btn-primary btn-lg" disabled={busy}>
            Open the job
          </button>
        </section>
      </form>
    </Frame>
  );
}
