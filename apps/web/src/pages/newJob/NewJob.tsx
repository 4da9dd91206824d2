import {
  type BayView,
  COMPLAINTS,
  NewJobRequest,
  ROUTES,
  type VehicleRequest,
  type VehicleView,
  WRITES,
} from '@just-balance/contract';
import { complaintLabel } from '@just-balance/core/case';
import { midSentence } from '@just-balance/core/units';
import { useDeferredValue, useEffect, useRef, useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { api, newId } from '../../data/api.ts';
import { useRead } from '../../data/reads.ts';
import { useAccount } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { DayFields, type DayForm, dayOf, dayText, EMPTY_DAY } from '../../job/record/DayFields.tsx';
import { SymptomPicker } from '../../job/record/SymptomPicker.tsx';
import { useAskVehicle } from '../../job/vehicle/useAskVehicle.ts';
import { VehicleAsked } from '../../job/vehicle/VehicleAsked.tsx';
import { cardOf, EMPTY_VEHICLE, type VehicleForm, vehicleOf } from '../../job/vehicle/vehicleForm.ts';
import { Combobox } from '../../ui/Combobox.tsx';
import { WithDock } from '../../ui/Dock.tsx';
import { Field } from '../../ui/Field.tsx';
import { May } from '../../ui/May.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Plate } from '../../ui/Plate.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { usePreferences } from '../../ui/preferences.tsx';
import { useTypedForm } from '../../ui/useTypedForm.ts';

import { KnownHere } from './KnownHere.tsx';

interface Form extends VehicleForm, DayForm {
  story: string;
  adapter: string;
}

const EMPTY: Form = { ...EMPTY_VEHICLE, ...EMPTY_DAY, story: '', adapter: '' };

/** A job starts with the vehicle in front of you: by hand, from the shop's list, or a simulated bay. */
export function NewJob() {
  return (
    <Frame title="New job" subtitle="the vehicle in front of you" side={<HouseNav current="board" />}>
      <May
        otherwise={
          <NextStep
            title="This account looks at jobs, and opens none"
            why="The lead of the shop can give it another role, under People."
          >
            <Link className="btn btn-primary btn-lg" to="/">
              To the board
            </Link>
          </NextStep>
        }
      >
        <NewJobForm />
      </May>
    </Frame>
  );
}

function NewJobForm() {
  const { data: newest } = useRead(ROUTES.vehicles);
  // The newest are there at once; any other is found by its words, plate and VIN too.
  const [words, setWords] = useState('');
  const sought = useDeferredValue(words.trim());
  const { data: found } = useRead(sought === '' ? null : ROUTES.vehiclesLike(sought), {
    keepPreviousData: true,
  });
  const vehicles = newest && [...newest, ...(found ?? []).filter((f) => !newest.some((v) => v.id === f.id))];
  const { data: bays } = useRead(ROUTES.bays);
  const { data: adapters } = useRead(ROUTES.adapters);
  const [known, setKnown] = useState<VehicleView | null>(null);
  const [base, setBase] = useState<Partial<VehicleRequest>>({});
  const [symptoms, setSymptoms] = useState<string[]>([]);
  const { units } = usePreferences();
  const { shop } = useAccount();
  const navigate = useNavigate();
  const form = useTypedForm<Form, NewJobRequest>({
    dto: NewJobRequest,
    // Where the shop stands, unless something better is known of the day.
    defaults: { ...EMPTY, ...dayText(shop.settings.place ?? {}, units) },
    fields: { 'vehicle.boostTarget': 'boostKPa' },
    body: (f) => ({
      id: newId(),
      vehicleId: known?.id ?? newId(),
      vehicle: vehicleOf(base, f, units),
      complaint: { story: f.story, symptoms, recentWork: [] },
      ambient: dayOf(f, units),
      ...(f.adapter ? { adapter: f.adapter } : {}),
    }),
    send: async (body) => {
      const { id } = await api.send(WRITES.newJob, body);
      navigate(`/jobs/${id}`);
    },
  });
  const { register, submit, reset, getValues, setValue, watch, busy, trouble, error, rest } = form;
  const asked = useAskVehicle((card) => reset({ ...getValues(), ...card }));

  const fill = (v: VehicleRequest, extra: Partial<Form>) => {
    setBase(v);
    asked.forget();
    reset({ ...getValues(), ...cardOf(v, units), ...extra });
  };
  // From a practice bay: its car, once the bays are known.
  const [search] = useSearchParams();
  const wanted = bays?.find((b) => String(b.bay) === search.get('bay'));
  const taken = useRef(false);
  const fromBay = (b: BayView) => {
    setKnown(null);
    fill(b.vehicle, { adapter: `sim:${b.bay}`, ...dayText({ baroKPa: b.baroKPa, airC: b.airC }, units) });
  };
  useEffect(() => {
    if (!wanted || taken.current) return;
    taken.current = true;
    fromBay(wanted);
  });
  const adapter = watch('adapter');

  const [plate, label] = [watch('plate').trim().toUpperCase(), watch('label').trim()];
  const does = symptoms.map((id) => midSentence(complaintLabel(id))).join(', ');
  return (
    <WithDock
      label="Next step"
      dock={
        <>
          <div className="flex min-w-60 flex-1 items-center gap-4">
            <Plate of={plate} className="text-[1.1rem]" />
            <div className="min-w-0">
              <h1 className="m-0 text-[1.35rem] leading-tight font-bold">
                {label ? [label, does].filter(Boolean).join(': ') : 'Say what it is and what is wrong'}
              </h1>
              <p className="m-0 text-[0.95rem] text-soft">
                Displacement, metering and banks make the expected values; the rest can follow.
              </p>
              <Problem text={rest} trouble={trouble} />
            </div>
          </div>
          <button type="submit" form="new-job" className="btn btn-primary btn-xl max-sm:w-full" disabled={busy}>
            Open the job
          </button>
        </>
      }
    >
      <form id="new-job" className="grid gap-3 lg:grid-cols-2" onSubmit={submit} noValidate>
        <section className="card grid content-start gap-3 p-4">
          <h2 className="card-title">Vehicle</h2>
          {((bays?.length ?? 0) > 0 || (vehicles?.length ?? 0) > 0) && (
            <div className="flex flex-wrap items-end gap-2">
              {vehicles && vehicles.length > 0 && (
                <Combobox
                  className="basis-full"
                  label="A vehicle known here"
                  placeholder="Name, colour, plate"
                  findIn={(v) => [v.label, v.note, v.plate, v.plate?.replace(/[^\p{L}\p{N}]/gu, ''), v.vin].join(' ')}
                  search={setWords}
                  all={vehicles}
                  textOf={(v) => [v.label, v.note, v.plate].filter(Boolean).join(', ')}
                  keyOf={(v) => v.id}
                  chosen={known}
                  choose={(v) => {
                    setKnown(v);
                    if (v) fill(v, {});
                  }}
                />
              )}
              {known && (
                <div className="basis-full">
                  <KnownHere key={known.id} vehicle={known.id} />
                </div>
              )}
              {bays?.map((b) => (
                <button key={b.bay} type="button" className="btn" onClick={() => fromBay(b)}>
                  Bay {b.bay}, simulated: {b.vehicle.label}
                </button>
              ))}
            </div>
          )}
          <VehicleAsked
            asked={asked}
            adapter={adapter}
            register={register}
            error={error}
            get={(k) => getValues(k)}
            set={(k, text) => setValue(k, text)}
            now={watch()}
          >
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
          </VehicleAsked>
        </section>
        <section className="card grid content-start gap-3 p-4">
          <h2 className="card-title">Complaint and surroundings</h2>
          <Field label="Who noticed what, and when" error={error('story')}>
            {(aria) => <textarea className="textarea" {...register('story')} {...aria} />}
          </Field>
          <SymptomPicker all={COMPLAINTS} chosen={symptoms} change={setSymptoms} />
          <DayFields value={watch()} set={(k, text) => setValue(k, text)} error={(k) => error(k)} />
        </section>
      </form>
    </WithDock>
  );
}
