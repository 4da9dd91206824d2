import { type JobView, VehicleChangeRequest, type VehicleView, WRITES } from '@just-balance/contract';
import { useEffect, useRef } from 'react';
import { write } from '../../data/writes.ts';
import { useAskVehicle } from '../../job/vehicle/useAskVehicle.ts';
import { VehicleAsked } from '../../job/vehicle/VehicleAsked.tsx';
import { cardOf, type VehicleForm, vehicleOf } from '../../job/vehicle/vehicleForm.ts';
import { Clashes } from '../../ui/Clashes.tsx';
import { onlyChanged } from '../../ui/merge.ts';
import { Problem } from '../../ui/Problem.tsx';
import { usePreferences } from '../../ui/preferences.tsx';
import { useTypedForm } from '../../ui/useTypedForm.ts';

/** The vehicle's whole card, at any time: everything is expected and weighed anew with what it says then. */
export function VehicleEditor({ job, close }: { job: JobView; close: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => dialog.current?.showModal(), []);
  const { units } = usePreferences();
  const form = useTypedForm<VehicleForm, VehicleChangeRequest, VehicleView>({
    dto: VehicleChangeRequest,
    keep: `${job.vehicle.id} card ${units}`,
    over: { now: job.vehicle, text: (v) => cardOf(v, units) },
    defaults: cardOf(job.vehicle, units),
    fields: { 'vehicle.boostTarget': 'boostKPa' },
    body: (f, stands) => {
      const { rev, id: _, ...card } = stands ?? job.vehicle;
      const of = (form: VehicleForm) => vehicleOf(card, form, units);
      return { rev, vehicle: onlyChanged(card, of(cardOf(card, units)), of(f)) };
    },
    send: async (body) => {
      await write(WRITES.changeVehicle(job.id), body);
      close();
    },
  });
  const { register, getValues, setValue, watch, submit, busy, trouble, error, rest } = form;
  const asked = useAskVehicle((card) => {
    for (const [k, v] of Object.entries(card)) setValue(k as keyof VehicleForm, v);
  });
  return (
    <dialog ref={dialog} className="modal modal-middle text-ink" onClose={close} aria-labelledby="vehicle-title">
      <form className="modal-box grid w-[min(680px,94vw)] max-w-none gap-3" onSubmit={submit} noValidate>
        <VehicleAsked
          asked={asked}
          adapter={job.adapter}
          register={register}
          error={error}
          get={(k) => getValues(k)}
          set={(k, text) => form.follow(k, text)}
          now={watch()}
        >
          <h2 id="vehicle-title" className="m-0 self-center text-xl font-bold">
            The vehicle
          </h2>
        </VehicleAsked>
        <Clashes clashes={form.clashes} settle={form.settle} />
        <Problem text={rest} trouble={trouble} />
        <div className="flex justify-end gap-4">
          <button
            type="button"
            className="btn"
            onClick={() => {
              form.forget();
              dialog.current?.close();
            }}
          >
            Cancel
          </button>
          <button type="submit" className="btn btn-primary" disabled={busy}>
            Keep the card
          </button>
        </div>
      </form>
    </dialog>
  );
}
