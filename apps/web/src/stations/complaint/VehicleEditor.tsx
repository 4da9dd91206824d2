import { type JobView, VehicleChangeRequest, WRITES } from '@just-balance/contract';
import { useEffect, useRef } from 'react';
import { write } from '../../data/writes.ts';
import { useAskVehicle } from '../../job/vehicle/useAskVehicle.ts';
import { VehicleAsked } from '../../job/vehicle/VehicleAsked.tsx';
import { cardOf, type VehicleForm, vehicleOf } from '../../job/vehicle/vehicleForm.ts';
import { Problem } from '../../ui/Problem.tsx';
import { usePreferences } from '../../ui/preferences.tsx';
import { useTypedForm } from '../../ui/useTypedForm.ts';

/** The vehicle's whole card, at any time: everything is expected and weighed anew with what it says then. */
export function VehicleEditor({ job, close }: { job: JobView; close: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => dialog.current?.showModal(), []);
  const { units } = usePreferences();
  const { register, reset, getValues, setValue, watch, submit, busy, trouble, error, rest } = useTypedForm<
    VehicleForm,
    VehicleChangeRequest
  >({
    dto: VehicleChangeRequest,
    defaults: cardOf(job.vehicle, units),
    fields: { 'vehicle.boostTarget': 'boostKPa' },
    body: (f) => ({ rev: job.vehicle.rev, vehicle: vehicleOf(job.vehicle, f, units) }),
    send: async (body) => {
      await write(WRITES.changeVehicle(job.id), body);
      close();
    },
  });
  const asked = useAskVehicle((card) => reset({ ...getValues(), ...card }));
  return (
    <dialog ref={dialog} className="modal modal-middle text-ink" onClose={close} aria-labelledby="vehicle-title">
      <form className="modal-box grid w-[min(680px,94vw)] max-w-none gap-3" onSubmit={submit} noValidate>
        <VehicleAsked
          asked={asked}
          adapter={job.adapter}
          register={register}
          error={error}
          get={(k) => getValues(k)}
          set={(k, text) => setValue(k, text as never)}
          now={watch()}
        >
          <h2 id="vehicle-title" className="m-0 self-center text-xl font-bold">
            The vehicle
          </h2>
        </VehicleAsked>
        <Problem text={rest} trouble={trouble} />
        <div className="flex justify-end gap-4">
          <button type="button" className="btn" onClick={() => dialog.current?.close()}>
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
