import { PLANS } from '@just-balance/core/link';
import { newId } from '../data/api.ts';
import { offlineStore, uploader } from '../data/offlineRecordings.ts';
import { shopClock } from '../data/shopClock.ts';
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
    offsetMs: () => shopClock.offsetMs,
    every: (f, ms) => {
      const timer = setInterval(f, ms);
      return () => clearInterval(timer);
    },
    deflate: async (bytes) => {
      const stream = new Blob([new Uint8Array(bytes)]).stream().pipeThrough(new CompressionStream('deflate'));
      return new Uint8Array(await new Response(stream).arrayBuffer());
    },
    flush: () => void uploader.flush(),
  });
  takeLink(link);
  return link;
}

export { beginRun, planOf } from '@just-balance/core/capture';
