import { type JobView, VehicleChangeRequest } from '@just-balance/contract';
import type { VehicleIdentity } from '@just-balance/core/link';
import { useEffect, useRef, useState } from 'react';
import { api } from '../../data/api.ts';
import { ofJob } from '../../data/ofJob.ts';
import { fromVehicle } from '../../job/fromVehicle.ts';
import { VehicleFields } from '../../job/VehicleFields.tsx';
import { cardOf, type VehicleForm, vehicleOf } from '../../job/vehicleForm.ts';
import { Problem } from '../../ui/Problem.tsx';
import { usePreferences } from '../../ui/preferences.tsx';
import { useAction } from '../../ui/useAction.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';

/** The vehicle's whole card, at any time: everything is expected and weighed anew with what it says then. */
export function VehicleEditor({ job, close }: { job: JobView; close: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null);
  useEffect(() => dialog.current?.showModal(), []);
  const { units } = usePreferences();
  const [heard, setHeard] = useState<string | null>(null);
  const asking = useAction();
  const { register, reset, getValues, setValue, watch, submit, busy, trouble, error, rest } = useTypedForm<
    VehicleForm,
    VehicleChangeRequest
  >({
    dto: VehicleChangeRequest,
    defaults: cardOf(job.vehicle, units),
    fields: { 'vehicle.boostTarget': 'boostKPa' },
    body: (f) => ({ rev: job.vehicle.rev, vehicle: vehicleOf(job.vehicle, f, units) }),
    send: async (body) => {
      await ofJob(job.id).put('/vehicle', body);
      close();
    },
  });
  const ask = () =>
    asking.run(async () => {
      const said = await api.post<VehicleIdentity>('/adapters/identify', { adapter: job.adapter });
      const { card, words } = fromVehicle(said);
      reset({ ...getValues(), ...card });
      setHeard(words);
    });
  return (
    <dialog ref={dialog} className="modal modal-middle text-ink" onClose={close} aria-labelledby="vehicle-title">
      <form className="modal-box grid w-[min(680px,94vw)] max-w-none gap-3" onSubmit={submit} noValidate>
        <div className="flex flex-wrap items-center justify-between gap-3">
          <h2 id="vehicle-title" className="m-0 text-xl font-bold">
            The vehicle
          </h2>
          <button type="button" className="btn" disabled={!job.adapter || asking.busy} onClick={ask}>
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
          set={(k, text) => setValue(k, text as never)}
          now={watch()}
        />
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
