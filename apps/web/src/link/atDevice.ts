import { useSyncExternalStore } from 'react';
import type { DeviceLink } from './DeviceLink.ts';

let link: DeviceLink | null = null;
const listeners = new Set<() => void>();
const told = () => {
  for (const f of listeners) f();
};

/** The link of this device, to whichever job it belongs; null while none is connected. */
export const deviceLink = () => link;

const subscribe = (f: () => void) => {
  listeners.add(f);
  return () => listeners.delete(f);
};

/** A reload opens the same port for the same job again. */
const REMEMBERED = 'jb-own-link';

/** The job whose port a reload opens again. */
export const remembered = () => sessionStorage.getItem(REMEMBERED);

/** From now on this is the link of the device; one before it lets go. */
export function takeLink(next: DeviceLink): void {
  sessionStorage.setItem(REMEMBERED, next.jobId);
  void link?.close();
  link = next;
  told();
}

export async function disconnectDevice(): Promise<void> {
  sessionStorage.removeItem(REMEMBERED);
  const closing = link;
  link = null;
  await closing?.close();
  told();
}

/** This device's link where it belongs to this job. */
export function useDeviceLink(jobId: string): DeviceLink | null {
  const own = useSyncExternalStore(subscribe, deviceLink);
  return own?.jobId === jobId ? own : null;
}
