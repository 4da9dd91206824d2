import { Usb } from 'lucide-react';
import { Problem } from '../ui/Problem.tsx';
import { useAction } from '../ui/useAction.ts';
import { disconnectDevice, useDeviceLink } from './atDevice.ts';
import { connecting } from './deviceLive.ts';
import { choosePort, whyNoSerial } from './serial.ts';

/** An adapter plugged into this device: the road has no network of the shop. */
export function DeviceAdapter({ jobId, detail }: { jobId: string; detail: string | undefined }) {
  const own = useDeviceLink(jobId);
  const { busy, trouble, run } = useAction();
  const why = whyNoSerial();
  return (
    <div className="grid gap-2" role="group" aria-label="Adapter at this device">
      <p className="m-0 text-[0.93rem] text-soft">
        For the road: an slcan adapter at this device itself. What it records is kept here second by second and goes up
        when the shop is in reach.
      </p>
      {why ? (
        <p className="m-0">{why}</p>
      ) : own ? (
        <div className="flex flex-wrap items-center gap-3">
          <span className="min-w-40 flex-1">{detail ?? ''}</span>
          <button type="button" className="btn" disabled={busy} onClick={() => run(disconnectDevice)}>
            Disconnect it
          </button>
        </div>
      ) : (
        <button
          type="button"
          className="btn justify-self-start"
          disabled={busy}
          onClick={() =>
            run(async () => {
              const port = await choosePort();
              const { connectDevice } = await connecting();
              connectDevice(jobId, port);
            })
          }
        >
          <Usb size={18} aria-hidden /> Connect an adapter at this device
        </button>
      )}
      <Problem trouble={trouble} />
    </div>
  );
}
