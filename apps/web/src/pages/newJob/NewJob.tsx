import {
  type AdapterView,
  type BayView,
  COMPLAINTS,
  type JobSummary,
  NewJobRequest,
  type VehicleRequest,
  type VehicleView,
} from '@just-balance/contract';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import useSWR from 'swr';
import { CalculatorCard } from '../../calculators/CalculatorCard.tsx';
import { api, newId } from '../../data/api.ts';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { SymptomPicker } from '../../job/SymptomPicker.tsx';
import { Combobox } from '../../ui/Combobox.tsx';
import { Field } from '../../ui/Field.tsx';
import { Fold } from '../../ui/Fold.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useTypedForm } from '../../ui/useTypedForm.ts';

interface Form {
  label: string;
  note: string;
  year: string;
  vin: string;
  odometerKm: string;
  fuel: 'petrol' | 'diesel';
  metering: 'maf' | 'speed-density' | 'both';
  displacementL: string;
  cylinders: string;
  banks: '1' | '2';
  story: string;
  baroKPa: string;
  airC: string;
  adapter: string;
}

const EMPTY: Form = {
  label: '',
  note: '',
  year: '',
  vin: '',
  odometerKm: '',
  fuel: 'petrol',
  metering: 'maf',
  displacementL: '',
  cylinders: '4',
  banks: '1',
  story: '',
  baroKPa: '',
  airC: '',
  adapter: '',
};
const number = (s: string) => (s.trim() === '' ? undefined : Number(s.replace(',', '.')));

/** What was typed over what is known of the vehicle already. */
function vehicleOf(base: Partial<VehicleRequest>, f: Form): VehicleRequest {
  const { id: _, rev: __, ...known } = base as Partial<VehicleView>;
  return {
    ...known,
    label: f.label.trim(),
    fuel: f.fuel,
    metering: f.metering,
    displacementL: number(f.displacementL) ?? Number.NaN,
    cylinders: number(f.cylinders) ?? Number.NaN,
    banks: f.banks === '2' ? 2 : 1,
    ...(f.note.trim() ? { note: f.note.trim() } : {}),
    ...(f.vin.trim() ? { vin: f.vin.trim().toUpperCase() } : {}),
    ...(number(f.year) !== undefined ? { year: number(f.year)! } : {}),
    ...(number(f.odometerKm) !== undefined ? { odometerKm: number(f.odometerKm)! } : {}),
  };
}

/** A job starts with the vehicle in front of you: by hand, from the shop's list, or a simulated bay. */
export function NewJob() {
  const { data: vehicles } = useSWR<VehicleView[]>('/vehicles');
  const { data: bays } = useSWR<BayView[]>('/bays');
  const { data: adapters } = useSWR<AdapterView[]>('/adapters');
  const [known, setKnown] = useState<VehicleView | null>(null);
  const [base, setBase] = useState<Partial<VehicleRequest>>({});
  const [symptoms, setSymptoms] = useState<string[]>([]);
  const navigate = useNavigate();
  const { register, submit, reset, getValues, busy, trouble, error, rest } = useTypedForm<Form, NewJobRequest>({
    dto: NewJobRequest,
    defaults: EMPTY,
    body: (f) => ({
      id: newId(),
      vehicleId: known?.id ?? newId(),
      vehicle: vehicleOf(base, f),
      complaint: { story: f.story, symptoms, recentWork: [] },
      ambient: {
        ...(number(f.baroKPa) !== undefined ? { baroKPa: number(f.baroKPa)! } : {}),
        ...(number(f.airC) !== undefined ? { airC: number(f.airC)! } : {}),
      },
      ...(f.adapter ? { adapter: f.adapter } : {}),
    }),
    send: async (body) => {
      const { id } = await api.post<JobSummary>('/jobs', body);
      navigate(`/jobs/${id}`);
    },
  });

  const fill = (v: VehicleRequest, extra: Partial<Form>) => {
    setBase(v);
    reset({
      ...getValues(),
      label: v.label,
      note: v.note ?? '',
      year: v.year ? String(v.year) : '',
      vin: v.vin ?? '',
      odometerKm: v.odometerKm ? String(v.odometerKm) : '',
      fuel: v.fuel,
      metering: v.metering,
      displacementL: String(v.displacementL),
      cylinders: String(v.cylinders),
      banks: v.banks === 2 ? '2' : '1',
      ...extra,
    });
  };

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
                    fill(b.vehicle, { adapter: `sim:${b.bay}`, baroKPa: String(b.baroKPa), airC: String(b.airC) });
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
          <div className="grid grid-cols-2 gap-3">
            <Field label="What you call it" className="col-span-2" error={error('label')}>
              {(aria) => <input className="input" {...register('label')} {...aria} required />}
            </Field>
            <Field label="Note (colour, plate)" error={error('note')}>
              {(aria) => <input className="input" {...register('note')} {...aria} />}
            </Field>
            <Field label="Model year" error={error('year')}>
              {(aria) => <input className="input" inputMode="numeric" {...register('year')} {...aria} />}
            </Field>
            <Field label="Displacement, L" error={error('displacementL')}>
              {(aria) => <input className="input" inputMode="decimal" {...register('displacementL')} {...aria} />}
            </Field>
            <Field label="Cylinders" error={error('cylinders')}>
              {(aria) => <input className="input" inputMode="numeric" {...register('cylinders')} {...aria} />}
            </Field>
            <Field label="Banks" error={error('banks')}>
              {(aria) => (
                <select className="select" {...register('banks')} {...aria}>
                  <option value="1">1</option>
                  <option value="2">2</option>
                </select>
              )}
            </Field>
            <Field label="Fuel" error={error('fuel')}>
              {(aria) => (
                <select className="select" {...register('fuel')} {...aria}>
                  <option value="petrol">Petrol</option>
                  <option value="diesel">Diesel</option>
                </select>
              )}
            </Field>
            <Field label="Air is metered by" className="col-span-2" error={error('metering')}>
              {(aria) => (
                <select className="select" {...register('metering')} {...aria}>
                  <option value="maf">Mass airflow sensor</option>
                  <option value="speed-density">Manifold pressure (speed-density)</option>
                  <option value="both">Both</option>
                </select>
              )}
            </Field>
            <Field label="VIN, if at hand" error={error('vin')}>
              {(aria) => <input className="input" {...register('vin')} {...aria} autoComplete="off" />}
            </Field>
            <Field label="Distance, km" error={error('odometerKm')}>
              {(aria) => <input className="input" inputMode="numeric" {...register('odometerKm')} {...aria} />}
            </Field>
          </div>
        </section>
        <section className="card grid content-start gap-3 p-4">
          <h2 className="card-title">Complaint and surroundings</h2>
          <Field label="Who noticed what, and when" error={error('story')}>
            {(aria) => <textarea className="textarea" {...register('story')} {...aria} />}
          </Field>
          <SymptomPicker all={COMPLAINTS} chosen={symptoms} change={setSymptoms} />
          <div className="grid grid-cols-2 gap-3">
            <Field label="Station pressure, kPa" error={error('baroKPa')}>
              {(aria) => <input className="input" inputMode="decimal" {...register('baroKPa')} {...aria} />}
            </Field>
            <Field label="Outside air, °C" error={error('airC')}>
              {(aria) => <input className="input" inputMode="decimal" {...register('airC')} {...aria} />}
            </Field>
          </div>
          <Fold title="Station pressure from the elevation">
            <CalculatorCard id="altitude" start={{ vacuumKPa: 0 }} />
          </Fold>
          <Field label="Adapter" error={error('adapter')}>
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
          <Problem text={rest} trouble={trouble} />
          <button type="submit" className="btn btn-primary btn-lg" disabled={busy}>
            Open the job
          </button>
        </section>
      </form>
    </Frame>
  );
}
