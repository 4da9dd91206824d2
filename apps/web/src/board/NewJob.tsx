import type { AdapterView, BayView, JobSummary, VehicleRequest, VehicleView } from '@just-balance/contract';
import { COMPLAINTS } from '@just-balance/contract';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { useNavigate } from 'react-router';
import useSWR from 'swr';
import { CalculatorCard } from '../calculators/CalculatorCard.tsx';
import { SymptomPicker } from '../complaint/SymptomPicker.tsx';
import { api, newId } from '../shared/api.ts';
import { Frame, HouseNav } from '../shared/Frame.tsx';
import { NextStep } from '../shared/NextStep.tsx';
import { Problem } from '../shared/Problem.tsx';
import { useAction } from '../shared/useAction.ts';

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

/** A job starts with the vehicle in front of you: by hand, from the shop's list, or a simulated bay. */
export function NewJob() {
  const { register, handleSubmit, reset, getValues } = useForm<Form>({ defaultValues: EMPTY });
  const { data: vehicles } = useSWR<VehicleView[]>('/vehicles', api.get);
  const { data: bays } = useSWR<BayView[]>('/bays', api.get);
  const { data: adapters } = useSWR<AdapterView[]>('/adapters', api.get);
  const [known, setKnown] = useState<VehicleView | null>(null);
  const [base, setBase] = useState<Partial<VehicleRequest>>({});
  const [symptoms, setSymptoms] = useState<string[]>([]);
  const { busy, problem, run } = useAction();
  const navigate = useNavigate();

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

  const create = (f: Form) =>
    run(async () => {
      const vehicle: VehicleRequest = {
        ...base,
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
      delete (vehicle as Partial<VehicleView>).id;
      delete (vehicle as Partial<VehicleView>).rev;
      const id = newId();
      await api.post<JobSummary>('/jobs', {
        id,
        vehicleId: known?.id ?? newId(),
        vehicle,
        complaint: { story: f.story, symptoms, recentWork: [] },
        ambient: {
          ...(number(f.baroKPa) !== undefined ? { baroKPa: number(f.baroKPa) } : {}),
          ...(number(f.airC) !== undefined ? { airC: number(f.airC) } : {}),
        },
        ...(f.adapter ? { adapter: f.adapter } : {}),
      });
      navigate(`/jobs/${id}`);
    });

  return (
    <Frame title="New job" subtitle="the vehicle in front of you" side={<HouseNav current="board" />}>
      <NextStep
        title="Say what it is and what is wrong"
        why="Displacement, metering and banks make the expected values; the rest helps later."
      />
      <form className="grid gap-3 lg:grid-cols-2" onSubmit={handleSubmit(create)} noValidate>
        <section className="sheet grid content-start gap-3 p-4">
          <h2 className="sheet-title">Vehicle</h2>
          {((bays?.length ?? 0) > 0 || (vehicles?.length ?? 0) > 0) && (
            <div className="flex flex-wrap gap-2">
              {bays?.map((b) => (
                <button
                  key={b.bay}
                  type="button"
                  className="press"
                  onClick={() => {
                    setKnown(null);
                    fill(b.vehicle, { adapter: `sim:${b.bay}`, baroKPa: String(b.baroKPa), airC: String(b.airC) });
                  }}
                >
                  Bay {b.bay}, simulated: {b.vehicle.label}
                </button>
              ))}
              {vehicles && vehicles.length > 0 && (
                <label className="field min-w-52 flex-1">
                  <span className="sr-only">A vehicle known here</span>
                  <select
                    value={known?.id ?? ''}
                    onChange={(e) => {
                      const v = vehicles.find((x) => x.id === e.target.value);
                      if (v) {
                        setKnown(v);
                        fill(v, {});
                      }
                    }}
                  >
                    <option value="">A vehicle known here…</option>
                    {vehicles.map((v) => (
                      <option key={v.id} value={v.id}>
                        {v.label}
                        {v.note ? `, ${v.note}` : ''}
                      </option>
                    ))}
                  </select>
                </label>
              )}
            </div>
          )}
          <div className="grid grid-cols-2 gap-3">
            <label className="field col-span-2">
              What you call it
              <input {...register('label')} required />
            </label>
            <label className="field">
              Note (colour, plate)
              <input {...register('note')} />
            </label>
            <label className="field">
              Model year
              <input inputMode="numeric" {...register('year')} />
            </label>
            <label className="field">
              Displacement, L
              <input inputMode="decimal" {...register('displacementL')} />
            </label>
            <label className="field">
              Cylinders
              <input inputMode="numeric" {...register('cylinders')} />
            </label>
            <label className="field">
              Banks
              <select {...register('banks')}>
                <option value="1">1</option>
                <option value="2">2</option>
              </select>
            </label>
            <label className="field">
              Fuel
              <select {...register('fuel')}>
                <option value="petrol">Petrol</option>
                <option value="diesel">Diesel</option>
              </select>
            </label>
            <label className="field col-span-2">
              Air is metered by
              <select {...register('metering')}>
                <option value="maf">Mass airflow sensor</option>
                <option value="speed-density">Manifold pressure (speed-density)</option>
                <option value="both">Both</option>
              </select>
            </label>
            <label className="field">
              VIN, if at hand
              <input {...register('vin')} autoComplete="off" />
            </label>
            <label className="field">
              Distance, km
              <input inputMode="numeric" {...register('odometerKm')} />
            </label>
          </div>
        </section>
        <section className="sheet grid content-start gap-3 p-4">
          <h2 className="sheet-title">Complaint and surroundings</h2>
          <label className="field">
            Who noticed what, and when
            <textarea {...register('story')} />
          </label>
          <SymptomPicker all={COMPLAINTS} chosen={symptoms} change={setSymptoms} />
          <div className="grid grid-cols-2 gap-3">
            <label className="field">
              Station pressure, kPa
              <input inputMode="decimal" {...register('baroKPa')} />
            </label>
            <label className="field">
              Outside air, °C
              <input inputMode="decimal" {...register('airC')} />
            </label>
          </div>
          <details>
            <summary className="inline-flex min-h-12 cursor-pointer items-center text-soft">
              Station pressure from the elevation
            </summary>
            <CalculatorCard id="altitude" start={{ vacuumKPa: 0 }} />
          </details>
          <label className="field">
            Adapter
            <select {...register('adapter')}>
              <option value="">None: readings by hand</option>
              {adapters?.map((a) => (
                <option key={a.address} value={a.address}>
                  {a.label}
                </option>
              ))}
            </select>
          </label>
          <Problem text={problem} />
          <button type="submit" className="press press-act press-big" disabled={busy}>
            Open the job
          </button>
        </section>
      </form>
    </Frame>
  );
}
