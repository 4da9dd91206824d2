import { decodeMonitors, type MonitorId } from '../../obd/index.ts';

/** Incomplete monitors of PID 01 as hex digits; null where it is not four bytes, or of a unit without such monitors. */
export function incompleteOf(hex: string): MonitorId[] | null {
  if (!/^[0-9a-f]{8}/i.test(hex)) return null;
  const bytes = Uint8Array.from([0, 2, 4, 6], (i) => Number.parseInt(hex.slice(i, i + 2), 16));
  // A transmission answers too: it has continuous monitors only.
  if (bytes[2] === 0) return null;
  return decodeMonitors(bytes).monitors.flatMap((m) => (m.state === 'incomplete' ? [m.id] : []));
}
