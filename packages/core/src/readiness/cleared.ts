import type { MonitorStatus } from '../obd/index.ts';
import { figure, type Said, said } from '../units/index.ts';

/** What a vehicle tells of when its memory was last emptied. */
export interface ClearingSigns {
  monitors: MonitorStatus | null;
  warmupsSinceClear: number | null;
  distanceSinceClearKm: number | null;
  minutesSinceClear: number | null;
  stored: number;
  permanent: number;
  /** Long-term trims as read, %; empty where none were. */
  longPct: readonly number[];
}

/** Whether codes were cleared lately, for whoever buys, inspects or repairs the car. */
export interface ClearedAnswer {
  /** `yes`: several signs agree; `maybe`: one; `no`: counters say otherwise; `unknown`: nothing was read. */
  verdict: 'yes' | 'maybe' | 'no' | 'unknown';
  reasons: Said[];
  /** What speaks for a battery that was off, and what to look at then. */
  battery: string[];
  buyer: string;
  inspector: string;
}

/** Few warm-ups, few kilometres, little time, several once-a-drive monitors open. [house], of the order of the trade. */
const FEW_WARMUPS = 5;
const FEW_KM = 80;
const FEW_MINUTES = 120;
const SEVERAL_OPEN = 2;

const n = (count: number, one: string) => `${count} ${one}${count === 1 ? '' : 's'}`;

/** Whether codes were cleared, or the battery was off, not long ago: with its reasons. Common practice, no source. */
export function clearedLately(s: ClearingSigns): ClearedAnswer {
  const signs: Said[] = [];
  const against: Said[] = [];
  const say = (v: number | null, low: boolean, text: Said) => {
    if (v === null) return;
    (low ? signs : against).push(text);
  };
  const warm = s.warmupsSinceClear;
  say(warm, warm !== null && warm < FEW_WARMUPS, `${n(warm ?? 0, 'warm-up')} since`);
  const km = s.distanceSinceClearKm;
  say(km, km !== null && km < FEW_KM, said`${figure(Math.round(km ?? 0), 'km')} since`);
  const minutes = s.minutesSinceClear;
  say(
    minutes,
    minutes !== null && minutes < FEW_MINUTES,
    `${(minutes ?? 0) < FEW_MINUTES ? n(Math.round(minutes ?? 0), 'minute') : n(Math.round((minutes ?? 0) / 60), 'hour')} of running since`,
  );
  const open = s.monitors?.monitors.filter((m) => m.state === 'incomplete').length ?? 0;
  if (open >= SEVERAL_OPEN) signs.push(`${open} monitors open`);
  if (s.permanent > 0 && s.stored === 0)
    signs.push(
      `${n(s.permanent, 'permanent code')} and none stored: stored codes were taken away, permanent ones stay`,
    );
  const counted = warm !== null || km !== null || minutes !== null;
  const young = (warm !== null && warm < FEW_WARMUPS) || (km !== null && km < FEW_KM);
  const verdict =
    !counted && s.monitors === null
      ? 'unknown'
      : signs.length >= 2 && (young || !counted)
        ? 'yes'
        : signs.length > 0
          ? 'maybe'
          : 'no';
  const zeroTrims = s.longPct.length > 0 && s.longPct.every((v) => v === 0);
  return {
    verdict,
    reasons: signs.length > 0 ? signs : against,
    battery:
      verdict === 'no' || verdict === 'unknown'
        ? []
        : [
            ...(zeroTrims ? ['Long-term trims read exactly 0: the learnt memory is gone as well.'] : []),
            'A battery that was off, or went flat, looks the same: ask, and look at the clock and the radio.',
            'Then find which: battery at rest, charging voltage with loads on, current draw an hour after locking.',
          ],
    buyer:
      verdict === 'no'
        ? 'Nothing speaks for codes erased lately.'
        : 'Open monitors mean erased codes until shown otherwise: drive it until they are complete before paying.',
    inspector:
      verdict === 'no'
        ? 'The counters go back far enough.'
        : 'The counters are young: a station may ask for more driving, even where the rule allows what is open.',
  };
}
