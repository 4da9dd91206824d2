import { MONITORS, type MonitorId } from '@just-balance/core/obd';
import { type CoachNow, coachNow, startCheck } from '@just-balance/core/readiness';
import { numberText, type Said, said } from '@just-balance/core/units';
import { useEffect, useRef } from 'react';
import type { Drive } from '../../sessions/CoachSession.ts';
import { clock } from '../../ui/figures.ts';
import { Say, usePreferences, useSay, useShown } from '../../ui/preferences.tsx';
import { speak } from '../../ui/speech.ts';
import { playTone } from '../../ui/tone.ts';

/** One instruction, as a passenger reads it at a glance. */
export function instruction(now: CoachNow): Said {
  if (now.channel === null) return now.step?.says ?? '';
  const speed = now.channel === 'vss';
  // It stands: what is to be done is said of the pedal.
  if (now.standing && !speed && now.side !== 'unknown')
    return now.side === 'inside' ? 'Hold it' : now.side === 'under' ? 'A little more pedal' : 'Ease off the pedal';
  if (now.side === 'unknown') return 'Nothing heard';
  if (now.side === 'inside') return now.high === 0.5 && now.low === null ? 'Stand still' : 'Hold it';
  if (now.side === 'over')
    return now.high === 0.5 ? 'Stop where it is safe' : speed ? 'A little slower' : 'A little less';
  if (speed && (now.value ?? 0) < 0.7 * (now.low ?? 0)) return 'Up to speed, with the traffic';
  return speed ? 'A little faster' : 'A little more';
}

const OVER: Readonly<Record<Exclude<CoachNow['state'], 'driving'>, string>> = {
  'all-done': 'All done',
  over: 'Time is over',
  'no-time': 'Too little time is left',
};

/** The drive under way: for the passenger, at a glance. */
export function Driving({
  drive,
  number,
  open,
  voice,
  silent,
  end,
}: {
  drive: Drive;
  /** Which of the drives in a row it is, from 1. */
  number: number;
  open: readonly MonitorId[] | null;
  voice: boolean;
  /** The adapter is lost, or the vehicle says nothing. */
  silent: boolean;
  end: () => void;
}) {
  const { state } = drive;
  const now = coachNow(state, open, drive.car);
  const against = startCheck(state.procedure, drive.car, open).rows.filter((r) => r.state === 'no-go');
  const show = useShown();
  const { tones } = usePreferences();
  const say = useSay();
  const says = now.state !== 'driving' ? OVER[now.state] : silent ? 'Nothing from the car' : say(instruction(now));
  const side = now.side;
  useEffect(() => {
    if (tones && (side === 'under' || side === 'over')) playTone('trouble');
  }, [tones, side]);
  const done = state.steps.filter((s) => s.done).length;
  const counted = useRef(done);
  useEffect(() => {
    if (tones && done > counted.current) playTone('kept');
    counted.current = done;
  }, [tones, done]);
  const step = say(now.step?.says ?? '');
  useEffect(() => {
    if (voice && step) speak(step);
  }, [voice, step]);
  // Not at once: a band that is touched and left again would be all that is heard.
  useEffect(() => {
    if (!voice) return;
    const timer = setTimeout(() => speak(says), 1500);
    return () => clearTimeout(timer);
  }, [voice, says]);
  const ticked = (open ?? []).filter((m) => state.after && !state.after.includes(m));
  const text = (v: number) => numberText(show(v, now.unit ?? '', 0).value, 0);
  const text2 = (v: number, u: string) => {
    const x = show(v, u, 0);
    return `${numberText(x.value, 0)} ${x.unit}`;
  };
  const unit = now.unit ? show(0, now.unit, 0).unit : '';
  const band =
    now.high === 0.5 && now.low === null
      ? ''
      : now.low !== null && now.high !== null
        ? `${text(now.low)}–${text(now.high)}`
        : now.low !== null
          ? `${text(now.low)} or more`
          : now.high !== null
            ? `${text(now.high)} or less`
            : '';
  return (
    <section className="grid min-h-[70vh] content-between gap-6 p-2" aria-label="Coach">
      <div className="flex flex-wrap items-center justify-between gap-4">
        <p className="m-0 font-[650] text-caution">
          For the passenger. The driver watches the road; traffic law first.
          {(state.procedure.drives ?? 1) > 1 && ` Drive ${number} of ${state.procedure.drives}.`}
        </p>
        <button type="button" className="btn btn-lg" onClick={end}>
          End the drive
        </button>
      </div>
      <div className="flex flex-wrap items-end justify-between gap-6">
        <div>
          <h1 className="m-0 text-[clamp(2.2rem,6vw,4rem)] leading-tight font-bold" aria-live="polite">
            {says}
          </h1>
          {band && (
            <p className="m-0 text-[clamp(1.3rem,3vw,2rem)] text-soft">
              hold{' '}
              <strong className="text-ink">
                {band} {unit}
              </strong>
            </p>
          )}
          {silent && <p className="m-0 font-[650] text-caution">Silence never counts as held.</p>}
          {now.step && <p className="m-0 mt-2 max-w-[60ch]">{step}</p>}
          {now.lost && now.lost.heldS >= 1 && (
            <p className="m-0 mt-2 max-w-[60ch] font-[650]">
              {clock(now.lost.heldS)} lost at {clock(now.lost.lapse.atS)}: <Say text={now.lost.lapse.why} />.
            </p>
          )}
          {now.leftOut.map(({ step: out, why }) => (
            <p key={out.id} className="m-0 mt-2 max-w-[60ch] font-[650]">
              {out === now.step ? 'Nothing counts' : 'No longer in this drive'}:{' '}
              {(out.finishes ?? []).map((m) => MONITORS[m]).join(', ')}. <Say text={why} />.
            </p>
          ))}
          {against.length > 0 && (
            <p className="m-0 mt-2 max-w-[60ch] text-caution">
              Started all the same:{' '}
              {against.map((r) => (
                <Say key={r.id} text={said`${r.why} `} />
              ))}
            </p>
          )}
        </div>
        <p className="m-0 text-right">
          <span className="text-[clamp(5rem,16vw,11rem)] leading-none font-bold">
            {now.value === null ? '—' : text(now.value)}
          </span>
          <span className="block text-[1.2rem] text-soft">{unit}</span>
        </p>
      </div>
      <Gauge now={now} />
      <div className="grid gap-4 border-t-2 border-rule pt-4 sm:grid-cols-3">
        <p className="m-0">
          <span className="block text-soft">
            {now.leftS !== null
              ? 'left in this step'
              : now.until
                ? `${AWAITED[now.until.channel] ?? now.until.channel} now, until ${text2(now.until.bound, now.until.unit)}`
                : 'this step'}
          </span>
          <span className="figure text-[clamp(2rem,5vw,3.6rem)] leading-none font-bold">
            {now.leftS !== null
              ? clock(now.leftS)
              : now.until?.value != null
                ? text2(now.until.value, now.until.unit)
                : '…'}
          </span>
        </p>
        <p className="m-0 self-end">
          {now.next && <span className="block">next: {say(now.next.says)}</span>}
          <span className="block text-soft">
            {now.outsideS > 0
              ? `paused ${clock(now.outsideS)} while outside; lost after ${now.graceS} s`
              : now.driveLeftS !== null
                ? `${clock(now.driveLeftS)} until the drive is over`
                : ''}
          </span>
        </p>
        <p className="m-0 self-end sm:text-right">
          <strong className="block font-[650]">
            {done} of {state.procedure.steps.length} steps done
          </strong>
          <span className="block text-soft">
            {(now.step?.finishes ?? []).map((m) => MONITORS[m]).join(', ')}
            {(now.step?.finishes ?? []).length > 0 ? ' in hand' : ''}
          </span>
          {ticked.length > 0 && (
            <span className="block font-[650]">✓ {ticked.map((m) => MONITORS[m]).join(', ')} complete</span>
          )}
        </p>
      </div>
    </section>
  );
}

/** What a step waits for, in words. */
const AWAITED: Readonly<Record<string, string>> = {
  ect: 'coolant',
  rpm: 'engine speed',
  vss: 'speed',
  iat: 'intake air',
};

/** The band and where one is, drawn. */
function Gauge({ now }: { now: CoachNow }) {
  if (now.low === null && (now.high === null || now.high === 0.5)) return null;
  const low = now.low ?? 0;
  const high = now.high ?? low * 1.5;
  const width = Math.max(1, high - low);
  const [from, to] = [Math.max(0, low - 1.5 * width), high + 1.25 * width];
  const x = (v: number) => `${(100 * Math.min(to, Math.max(from, v) - from)) / (to - from)}%`;
  return (
    <svg className="block h-16 w-full" aria-hidden>
      <rect x="0" y="20" width="100%" height="24" rx="8" fill="var(--color-rule)" />
      <rect
        x={x(low)}
        y="14"
        width={`${(100 * width) / (to - from)}%`}
        height="36"
        rx="8"
        fill="var(--color-band)"
        stroke="var(--color-band-edge)"
        strokeWidth="3"
      />
      {now.value !== null && (
        <line
          x1={x(now.value)}
          x2={x(now.value)}
          y1="4"
          y2="60"
          stroke="var(--color-ink)"
          strokeWidth="8"
          strokeLinecap="round"
        />
      )}
    </svg>
  );
}
