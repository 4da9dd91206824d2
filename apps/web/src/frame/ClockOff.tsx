import { counted } from '@just-balance/core/units';
import { ClockAlert } from 'lucide-react';
import { useClockOff } from '../data/shopClock.ts';

const MINUTE_MS = 60_000;

/** A device whose clock is off says so once: what it times goes by the shop's. */
export function ClockOff() {
  const off = useClockOff();
  if (off === 0) return null;
  return (
    <p role="status" className="card m-0 flex flex-row items-center gap-2 border-2 border-dashed px-4 py-3 no-print">
      <ClockAlert size={19} aria-hidden />
      <span>
        This device’s clock is {spanInWords(Math.abs(off))} {off > 0 ? 'behind' : 'ahead of'} the shop’s. Times kept
        here are the shop’s.
      </span>
    </p>
  );
}

function spanInWords(ms: number): string {
  const minutes = Math.round(ms / MINUTE_MS);
  if (minutes < 120) return counted(minutes, 'minute');
  const hours = Math.round(minutes / 60);
  return hours < 48 ? counted(hours, 'hour') : counted(Math.round(hours / 24), 'day');
}
