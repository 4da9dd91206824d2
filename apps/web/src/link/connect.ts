import type { JobView, VehicleView } from '@just-balance/contract';
import { capturePoint, type GuidedSetup, guidedSetup } from '@just-balance/core/capture';
import { stationPressure } from '@just-balance/core/expected';
import { PLANS, type PollingPlan } from '@just-balance/core/link';
import { newId } from '../data/api.ts';
import { offlineStore, uploader } from '../data/offlineRecordings.ts';
import { takeLink } from './atDevice.ts';
import { DeviceLink } from './DeviceLink.ts';
import { nowUs, SerialLink } from './SerialLink.ts';
import type { SerialPort } from './serial.ts';

/** The adapter at this port becomes the link of this device, for this job. */
export function connectDevice(jobId: string, port: SerialPort): DeviceLink {
  const link = new DeviceLink(jobId, {
    store: offlineStore,
    shell: (handlers) => new SerialLink(port, PLANS.mixture, handlers),
    newId,
    nowUs,
    every: (f, ms) => {
      const timer = setInterval(f, ms);
      return () => clearInterval(timer);
    },
    flush: () => void uploader.flush(),
  });
  takeLink(link);
  return link;
}

/** A guided capture of this job at a point, as the server would set it up. Null: no such point. */
export function setupOf(
  job: JobView & { vehicle: VehicleView },
  at: string,
): { setup: GuidedSetup | null; plan: PollingPlan } {
  const point = capturePoint(at);
  if (!point) return { setup: null, plan: PLANS.road };
  const { vehicle } = job;
  return {
    setup: guidedSetup(point, {
      banks: vehicle.banks ?? 1,
      metered: vehicle.metering !== 'speed-density',
      fuel: vehicle.fuel,
      baroKPa: stationPressure(job.ambient).baroKPa,
    }),
    plan: PLANS[point.plan],
  };
}
