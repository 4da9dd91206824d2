import {
  airWindows,
  type BeforeCondition,
  boundsText,
  type DriveProcedure,
  decidedBy,
  type ForecastPoint,
  lastStart,
  type PlanCondition,
} from '@just-balance/core/readiness';
import { Say, useSay } from '../../ui/preferences.tsx';
import { type Axis, axisOf, timeOn } from './axis.ts';
import { CALLED } from './words.ts';

/**
 * All conditions of a start on one axis of time, from now on: hatched while one does not hold, plain where it does, the
 * earliest start through all of them. The table beside it says the same.
 */
export function PlanAxis({
  earliest,
  minutes,
  procedure,
  counts,
  forecast,
  now,
}: {
  /** The earliest start, where one may be named. */
  earliest: string | null;
  minutes: number | null;
  procedure: DriveProcedure;
  /** The conditions that a step needs which is open. */
  counts: readonly PlanCondition[];
  forecast: readonly ForecastPoint[];
  now: Date;
}) {
  const say = useSay();
  const axis = axisOf(now, earliest);
  const decides = decidedBy(counts, earliest);
  const last = lastStart(counts, earliest, minutes);
  const start = earliest === null ? null : axis.at(earliest);
  const said = counts.map((c) => `${CALLED[c.id]}: ${say(c.why)}`).join(' ');
  return (
    <figure className="card m-0 p-4" role="img" aria-label={`When each condition holds. ${said}`}>
      <div aria-hidden className="relative grid gap-2">
        <Row name={<span className="text-soft">now {timeOn(now)}</span>}>
          <div className="relative h-10">
            {axis.ticks.map((t) => (
              <span
                key={t.at}
                className="figure absolute bottom-0 -translate-x-1/2 text-center text-[0.87rem] whitespace-nowrap text-soft"
                style={{ left: `${t.at}%` }}
              >
                {t.day && (start === null || Math.abs(t.at - start) > 18) && (
                  <strong className="block font-[650] text-ink">{t.day}</strong>
                )}
                {t.hour}
              </span>
            ))}
          </div>
        </Row>
        {counts.map((c) => {
          const bounds = procedure.before.find((b) => b.id === c.id);
          return (
            <Row
              key={c.id}
              name={
                <>
                  <span className="font-[650]">{CALLED[c.id]}</span>{' '}
                  {decides.includes(c) && <span className="badge badge-primary">decides</span>}
                  {bounds && (
                    <span className="block text-[0.87rem] text-soft">
                      <Say text={boundsText(bounds)} />
                    </span>
                  )}
                </>
              }
            >
              <Track axis={axis} condition={c} bounds={bounds} forecast={forecast} now={now} />
            </Row>
          );
        })}
        {start !== null && (
          <Row name={<span className="font-[650]">Start</span>}>
            <div className="relative h-11">
              <span
                className="absolute inset-y-0 flex items-center overflow-hidden rounded-field bg-act px-2 font-[650] whitespace-nowrap text-on-act"
                style={{ left: `${start}%`, right: `${last ? 100 - axis.at(last) : 0}%` }}
              >
                {last
                  ? `${timeOn(new Date(earliest!))} to ${timeOn(new Date(last), new Date(earliest!))}`
                  : `from ${timeOn(new Date(earliest!))}`}
              </span>
            </div>
          </Row>
        )}
        {start !== null && (
          <div className="pointer-events-none absolute inset-0 grid grid-cols-[9.5rem_minmax(0,1fr)] gap-3 max-sm:grid-cols-[6.5rem_minmax(0,1fr)]">
            <span />
            <div className="relative">
              <span className="absolute inset-y-0 w-[3px] -translate-x-1/2 bg-act" style={{ left: `${start}%` }} />
              <span
                className="figure absolute top-0 rounded-field bg-act px-2 font-bold text-on-act"
                style={{ left: `${start}%`, transform: `translateX(-${start}%)` }}
              >
                {timeOn(new Date(earliest!))}
              </span>
            </div>
          </div>
        )}
      </div>
    </figure>
  );
}

function Row({ name, children }: { name: React.ReactNode; children: React.ReactNode }) {
  return (
    <div className="grid grid-cols-[9.5rem_minmax(0,1fr)] items-center gap-3 max-sm:grid-cols-[6.5rem_minmax(0,1fr)]">
      <div className="min-w-0 leading-tight">{name}</div>
      {children}
    </div>
  );
}

/** Stretches of the axis, percent, in which a condition holds; of the air all that the forecast has. */
function holding(axis: Axis, c: PlanCondition, forecast: readonly ForecastPoint[], bounds?: BeforeCondition) {
  if (c.id === 'ambient' && forecast.length > 1) {
    const all = (bounds && airWindows(bounds, forecast, axis.nowMs)?.windows) ?? [];
    return all.map((w) => [axis.atMs(w.from), w.to === null ? 100 : axis.atMs(w.to)] as const);
  }
  if (c.state === 'holds') return [[0, c.holdsUntil === null ? 100 : axis.at(c.holdsUntil)] as const];
  if (c.state !== 'not-yet' || c.holdsFrom === null) return [];
  return [[axis.at(c.holdsFrom), c.holdsUntil === null ? 100 : axis.at(c.holdsUntil)] as const];
}

/** One condition along the axis. */
function Track({
  axis,
  condition: c,
  bounds,
  forecast,
  now,
}: {
  axis: Axis;
  condition: PlanCondition;
  bounds: BeforeCondition | undefined;
  forecast: readonly ForecastPoint[];
  now: Date;
}) {
  const stretches = holding(axis, c, forecast, bounds);
  const air = c.id === 'ambient' && forecast.length > 1;
  const from = c.state === 'not-yet' && c.holdsFrom !== null ? axis.at(c.holdsFrom) : 0;
  const known = c.state !== 'unknown';
  const time = (iso: string) => timeOn(new Date(iso), now);
  const reached = forecast.map((p) => axis.at(p.at));
  const [begins, over] = air ? [Math.min(...reached), Math.max(...reached)] : [0, 100];
  const up = air && 'top-4';
  return (
    <div
      className={`relative overflow-hidden rounded-field border ${air ? 'h-20' : 'h-11'} ${known ? 'hatched border-rule' : 'border-dashed border-soft'}`}
      style={{ '--hatch': 'var(--rule)' } as never}
    >
      {stretches.map(([a, b]) => (
        <span
          key={a}
          className="absolute inset-y-0 border-x border-band-edge bg-band"
          style={{ left: `${a}%`, right: `${100 - b}%` }}
        />
      ))}
      {/* What no forecast reaches is not known. */}
      {begins > 0 && <span className="absolute inset-y-0 left-0 bg-sheet" style={{ right: `${100 - begins}%` }} />}
      {over < 100 && <span className="absolute inset-y-0 right-0 bg-sheet" style={{ left: `${over}%` }} />}
      {air && <Air axis={axis} forecast={forecast} />}
      {c.state === 'unknown' && <Label>not known</Label>}
      {c.state === 'never' && <Label up={up}>not by waiting</Label>}
      {c.state === 'not-yet' && from > NEAR && <Label up={up}>not yet</Label>}
      {c.state === 'holds' && <Label up={up}>{c.holdsUntil ? `holds until ${time(c.holdsUntil)}` : 'holds'}</Label>}
      {c.state === 'not-yet' && c.holdsFrom && from < 100 && (
        <Label at={from} up={up}>
          from {time(c.holdsFrom)}
          {c.holdsUntil ? ` to ${time(c.holdsUntil)}` : ''}
        </Label>
      )}
    </div>
  );
}

/** What begins this near to the left edge, percent, has no room for a word before it. */
const NEAR = 28;

/** A label on a plain ground; one that begins far to the right ends there. */
function Label({ at = 0, up = false, children }: { at?: number; up?: string | false; children: React.ReactNode }) {
  return (
    <span
      className={`absolute -translate-y-1/2 rounded bg-sheet px-1.5 text-[0.93rem] whitespace-nowrap ${up || 'top-1/2'}`}
      style={at > 60 ? { right: `calc(${100 - at}% + 0.4rem)` } : { left: `calc(${at}% + 0.4rem)` }}
    >
      {children}
    </span>
  );
}

/** The air as it was forecast, across its row. */
function Air({ axis, forecast }: { axis: Axis; forecast: readonly ForecastPoint[] }) {
  const temps = forecast.map((p) => p.airC);
  const [low, high] = [Math.min(...temps) - 1, Math.max(...temps) + 1];
  const path = forecast
    .toSorted((a, b) => Date.parse(a.at) - Date.parse(b.at))
    .map((p) => `${axis.at(p.at, false)},${100 - (100 * (p.airC - low)) / (high - low)}`)
    .join(' ');
  return (
    <svg viewBox="0 0 100 100" preserveAspectRatio="none" className="absolute inset-0 h-full w-full">
      <title>Air as forecast</title>
      <polyline
        points={path}
        fill="none"
        stroke="var(--ink)"
        strokeWidth="2.5"
        vectorEffect="non-scaling-stroke"
        strokeLinejoin="round"
      />
    </svg>
  );
}
