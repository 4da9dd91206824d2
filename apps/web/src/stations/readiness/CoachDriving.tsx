import { MONITORS, type MonitorId } from '@just-balance/core/obd';
import { type CoachNow, type CoachState, coachNow, startCheck, stepProgress } from '@just-balance/core/readiness';
import { numberText, type Said, said } from '@just-balance/core/units';
import { type ReactNode, useEffect, useRef } from 'react';
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
  children,
}: {
  drive: Drive;
  /** Which of the drives in a row it is, from 1. */
  number: number;
  open: readonly MonitorId[] | null;
  voice: boolean;
  /** The adapter is lost, or the vehicle says nothing. */
  silent: boolean;
  end: () => void;
  /** What else must be seen while it fills the screen. */
  children?: ReactNode;
}) {
  const { state } = drive;
  const now = coachNow(state, open, drive.car);
  const against = startCheck(state.procedure, drive.car, open).rows.filter((r) => r.state === 'no-go');
  const show = useShown();
  const { tones } = usePreferences();
  const say = useSay();
  const says = now.state !== 'driving' ? OVER[now.state] : silent ? 'Nothing from the car' : say(instruction(now));
  const side = now.side;
  const speed = now.channel === 'vss';
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
  const word = typeof says === 'string' ? (WORD[says] ?? null) : null;
  const at = now.step ? state.procedure.steps.indexOf(now.step) + 1 : done;
  const inHand = (now.step?.finishes ?? []).map((m) => MONITORS[m]).join(', ');
  return (
    <section
      className="fixed inset-0 z-50 grid grid-rows-[auto_1fr_auto] gap-3 overflow-y-auto bg-bench p-3 sm:px-6 sm:py-4"
      aria-label="Coach"
    >
      <p className="m-0 flex flex-wrap items-baseline justify-between gap-x-6 text-[1.05rem] text-soft">
        <span>
          {inHand && <strong className="text-ink">{inHand} · </strong>}
          step {at} of {state.procedure.steps.length} ·{' '}
          <strong className="text-caution">for the passenger. The driver watches the road; traffic law first.</strong>
          {(state.procedure.drives ?? 1) > 1 && ` Drive ${number} of ${state.procedure.drives}.`}
        </span>
        <span>{silent ? '○ nothing heard' : '● heard'}</span>
      </p>
      <div className="grid grid-cols-[minmax(0,1fr)_auto] gap-4">
        <div className="grid content-center gap-2">
          <h1
            className={`m-0 font-bold ${word ? 'text-[clamp(3.4rem,12vw,8.5rem)] leading-none' : 'text-[clamp(2.2rem,6vw,4rem)] leading-tight'}`}
          >
            <span aria-hidden>{word ?? says}</span>
            <span className="sr-only" aria-live="polite">
              {says}
            </span>
          </h1>
          {band && (
            <p className="m-0 text-[clamp(1.3rem,3vw,2.2rem)] text-soft">
              {word === 'Hold' ? '' : 'hold '}
              <strong className="text-ink">
                {band} {unit}
              </strong>
            </p>
          )}
          <p className="m-0">
            <span className="text-[clamp(4.5rem,17vw,11rem)] leading-none font-bold">
              {now.value === null ? '—' : text(now.value)}
            </span>{' '}
            <span className="text-[1.6rem] text-soft">{unit}</span>
          </p>
          <div className="grid max-w-[60ch] gap-2 text-[1.1rem]">
            {silent && <p className="m-0 font-[650] text-caution">Silence never counts as held.</p>}
            {now.step && <p className="m-0">{step}</p>}
            {now.lost && now.lost.heldS >= 1 && (
              <p className="m-0 font-[650]">
                {clock(now.lost.heldS)} lost at {clock(now.lost.lapse.atS)}: <Say text={now.lost.lapse.why} />.
              </p>
            )}
            {now.leftOut.map(({ step: out, why }) => (
              <p key={out.id} className="m-0 font-[650]">
                {out === now.step ? 'It may not count' : 'No longer in this drive'}:{' '}
                {(out.finishes ?? []).map((m) => MONITORS[m]).join(', ')}. <Say text={why} />.
              </p>
            ))}
            {against.length > 0 && (
              <p className="m-0 text-caution">
                Started all the same:{' '}
                {against.map((r) => (
                  <Say key={r.id} text={said`${r.why} `} />
                ))}
              </p>
            )}
          </div>
        </div>
        <Gauge now={now} text={text} more={speed ? 'faster' : 'more'} less={speed ? 'slower' : 'less'} />
      </div>
      <div className="grid gap-3">
        <div className="flex flex-wrap items-end justify-between gap-x-8 gap-y-2">
          <p className="m-0">
            <span className="figure text-[clamp(2.6rem,7vw,5rem)] leading-none font-bold">
              {now.leftS !== null
                ? clock(now.leftS)
                : now.until?.value != null
                  ? text2(now.until.value, now.until.unit)
                  : '…'}
            </span>{' '}
            <span className="text-[1.2rem] text-soft">
              {now.leftS !== null
                ? 'left in this step'
                : now.until
                  ? `${AWAITED[now.until.channel] ?? now.until.channel} now, until ${text2(now.until.bound, now.until.unit)}`
                  : 'this step'}
            </span>
          </p>
          <p className="m-0 min-w-52 flex-1 text-[1.05rem]">
            {now.next && <span className="block">then: {say(now.next.says)}</span>}
            <span className="block text-soft">
              {now.outsideS > 0
                ? `paused ${clock(now.outsideS)} while outside; lost after ${now.graceS} s`
                : now.driveLeftS !== null
                  ? `${clock(now.driveLeftS)} until the drive is over`
                  : ''}
            </span>
            {ticked.length > 0 && (
              <span className="block font-[650]">✓ {ticked.map((m) => MONITORS[m]).join(', ')} complete</span>
            )}
          </p>
          <button type="button" className="btn btn-lg" onClick={end}>
            End the drive
          </button>
        </div>
        <Steps state={state} inHand={now.step?.id ?? null} done={done} />
        {children}
      </div>
    </section>
  );
}

/** What is said, as one word at a glance; what has none is read whole. */
const WORD: Readonly<Record<string, string>> = {
  'Hold it': 'Hold',
  'A little faster': 'Faster',
  'A little slower': 'Slower',
  'A little more': 'More',
  'A little less': 'Less',
  'A little more pedal': 'More pedal',
  'Ease off the pedal': 'Less pedal',
};

/** How far each step has come, by the time it takes. */
function Steps({ state, inHand, done }: { state: CoachState; inHand: string | null; done: number }) {
  const steps = state.procedure.steps.map((p, i) => {
    const { heldS, neededS } = stepProgress(p, state.steps[i]!);
    return { id: p.id, seconds: neededS ?? SHORT_S, share: state.steps[i]!.done ? 1 : heldS / (neededS ?? SHORT_S) };
  });
  return (
    <div>
      <div className="flex h-6 w-full gap-1" aria-hidden>
        {steps.map((p) => (
          <span
            key={p.id}
            className="block overflow-hidden rounded bg-rule"
            style={{ flexGrow: p.seconds, flexBasis: '1.5rem' }}
          >
            <span
              className={`block h-full ${p.id === inHand ? 'bg-act' : 'bg-success'}`}
              style={{ width: `${100 * Math.min(1, Math.max(0, p.share))}%` }}
            />
          </span>
        ))}
      </div>
      <p className="m-0 mt-1">
        {done} of {steps.length} steps done
      </p>
    </div>
  );
}
/** A step that something else ends is drawn as if it took so long, s. */
const SHORT_S = 60;

/** What a step waits for, in words. */
const AWAITED: Readonly<Record<string, string>> = {
  ect: 'coolant',
  rpm: 'engine speed',
  vss: 'speed',
  iat: 'intake air',
};

/** The band and where one is, drawn upright, its edges named. */
function Gauge({ now, text, more, less }: { now: CoachNow; text: (v: number) => string; more: string; less: string }) {
  if (now.low === null && (now.high === null || now.high === 0.5)) return null;
  const low = now.low ?? 0;
  const high = now.high ?? low * 1.5;
  const width = Math.max(1, high - low);
  const [from, to] = [Math.max(0, low - 1.2 * width), high + 1.2 * width];
  const y = (v: number) => (400 * (to - Math.min(to, Math.max(from, v)))) / (to - from);
  return (
    <svg className="block h-full max-h-[60vh] min-h-48 w-28 sm:w-44" viewBox="0 0 160 400" aria-hidden>
      <rect x="60" y="0" width="52" height="400" rx="14" fill="var(--color-rule)" />
      <rect
        x="60"
        y={y(high)}
        width="52"
        height={y(low) - y(high)}
        fill="var(--color-band)"
        stroke="var(--color-band-edge)"
        strokeWidth="3"
      />
      <g fill="var(--color-soft)" fontSize="20" textAnchor="middle">
        <text x="86" y="26">
          {more}
        </text>
        <text x="86" y="388">
          {less}
        </text>
      </g>
      <g fill="var(--color-ink)" fontSize="24">
        {now.high !== null && (
          <text x="120" y={y(high) + 8}>
            {text(now.high)}
          </text>
        )}
        {now.low !== null && (
          <text x="120" y={y(low) + 8}>
            {text(now.low)}
          </text>
        )}
      </g>
      {now.value !== null && (
        <g fill="var(--color-ink)">
          <rect x="54" y={y(now.value) - 5} width="64" height="10" />
          <path d={`M14 ${y(now.value) - 24} L54 ${y(now.value)} L14 ${y(now.value) + 24} Z`} />
        </g>
      )}
    </svg>
  );
}
