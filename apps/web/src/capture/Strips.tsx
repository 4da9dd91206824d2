import type { CaptureStatus, JobView } from '@just-balance/contract';
import type { CapturePoint } from '@just-balance/core/capture';
import { numberText, signed } from '@just-balance/core/units';
import type { ChartOptions } from 'chart.js';
import { useEffect, useRef, useState } from 'react';
import { Plot, useChartTheme } from '../charts/Plot.tsx';
import { useLimits } from '../data/limits.ts';
import type { JobLive } from '../data/live.tsx';
import { useShown } from '../ui/preferences.tsx';
import { rangeOf, type Strip, stripsOf } from './liveStrips.ts';

const WINDOW_S = 60;

/** At most five strips over their expected bands, with time and value axes. */
export function Strips({
  live,
  job,
  point,
  status,
}: {
  live: JobLive;
  job: JobView;
  point: CapturePoint;
  status: CaptureStatus | null;
}) {
  const limits = useLimits();
  const number = (v: number | string | undefined) => (typeof v === 'number' ? v : undefined);
  const strips = stripsOf(job, status?.at === 'free' ? null : point, limits, {
    rpm: number(live.values.rpm),
    mapKPa: number(live.values.map),
    iatC: number(live.values.iat),
  });
  const goodFrom = status?.state === 'capturing' ? status.goodS : null;
  if ([...live.traces.values()].every((t) => t.length === 0)) {
    return (
      <p className="m-0 py-6 text-soft">
        No live values yet. Start a reading: the adapter connects by itself and its values run here.
      </p>
    );
  }
  return (
    <div>
      {strips.map((s, i) => (
        <StripRow key={s.id} strip={s} live={live} goodS={goodFrom} axis={i === strips.length - 1} />
      ))}
    </div>
  );
}

function StripRow({ strip, live, goodS, axis }: { strip: Strip; live: JobLive; goodS: number | null; axis: boolean }) {
  const show = useShown();
  const points = strip.read(live);
  const last = points.at(-1);
  const shownLast = last && show(last.v, strip.unit, strip.digits);
  const rate = live.link?.rates[strip.rate];
  const low = strip.low === null ? null : show(strip.low, strip.unit, strip.digits);
  const high = strip.high === null ? null : show(strip.high, strip.unit, strip.digits);
  const calm = useCalm(
    shownLast ? (strip.unit === '%' ? signed(shownLast.value) : numberText(shownLast.value, shownLast.digits)) : '—',
  );
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-3 border-b border-rule py-1 last:border-b-0 sm:grid-cols-[minmax(110px,150px)_minmax(0,1fr)_minmax(84px,120px)]">
      <div>
        <div className="leading-tight font-[650]">{strip.label}</div>
        {rate !== undefined && (
          <div className="figure text-[0.8rem] text-soft">{rate < 10 ? rate.toFixed(1) : rate.toFixed(0)}/s</div>
        )}
        {low && high && (
          <div className="text-[0.85rem] text-soft">
            expected{' '}
            <span className="figure">
              {numberText(low.value, low.digits)}
              {low.value < 0 ? ' to ' : '–'}
              {numberText(high.value, high.digits)}
            </span>
          </div>
        )}
      </div>
      <div className="order-last col-span-2 min-w-0 sm:order-none sm:col-span-1">
        <Trace
          points={points.map((p) => ({ t: p.t, v: show(p.v, strip.unit, strip.digits).value }))}
          low={low?.value ?? null}
          high={high?.value ?? null}
          span={show(strip.span, strip.unit, 1).value - show(0, strip.unit, 1).value}
          goodS={goodS}
          axis={axis}
          label={strip.label}
        />
      </div>
      <div className="text-right">
        <span className="figure text-[1.8rem] font-bold">{calm}</span>{' '}
        <span className="text-soft">{shownLast?.unit ?? strip.unit}</span>
      </div>
    </div>
  );
}

/** Live figures change at most twice a second. */
function useCalm(text: string): string {
  const [shownText, setShown] = useState(text);
  const at = useRef(0);
  useEffect(() => {
    const wait = Math.max(0, 450 - (performance.now() - at.current));
    const timer = setTimeout(() => {
      at.current = performance.now();
      setShown(text);
    }, wait);
    return () => clearTimeout(timer);
  }, [text]);
  return shownText;
}

interface TraceProps {
  points: { t: number; v: number }[];
  low: number | null;
  high: number | null;
  span: number;
  goodS: number | null;
  axis: boolean;
  label: string;
}

function Trace({ points, low, high, span, goodS, axis, label }: TraceProps) {
  const theme = useChartTheme();
  const end = points.at(-1)?.t ?? 0;
  const visible = points.filter((p) => p.t >= end - WINDOW_S).map((p) => ({ x: p.t - end, y: p.v }));
  const [min, max] = rangeOf(
    visible.map((p) => p.y),
    { low, high, span },
  );
  const data = {
    datasets: [{ label, data: visible, borderColor: theme.colour.ink, borderWidth: 2, pointRadius: 0, tension: 0 }],
  };
  const tick = theme.tick();
  const annotations = [
    ...(low !== null && high !== null ? [theme.band(Math.max(low, min), Math.min(high, max))] : []),
    ...(goodS !== null && goodS > 0 ? [theme.mark(-goodS, 0), theme.line({ xMin: -goodS, xMax: -goodS }, 2)] : []),
  ];
  const options: ChartOptions<'line'> = {
    scales: {
      x: {
        type: 'linear',
        min: -WINDOW_S,
        max: 0,
        display: axis,
        // The last words stand inside: outside they would make this strip narrower than those above it.
        ticks: {
          ...tick,
          align: 'inner',
          stepSize: 15,
          callback: (v) => (v === 0 ? 'now' : `${numberText(Number(v))} s`),
        },
        grid: { display: false },
      },
      y: {
        type: 'linear',
        min,
        max,
        ticks: {
          ...tick,
          callback: (v) => numberText(Math.round(10 * Number(v)) / 10),
        },
        grid: { color: theme.colour.rule },
        afterBuildTicks: (s) => {
          s.ticks = [min, min < 0 && max > 0 ? 0 : (min + max) / 2, max].map((value) => ({ value }));
        },
        afterFit: (s) => {
          s.width = 46;
        },
      },
    },
  };
  return (
    <div className={axis ? 'h-[84px]' : 'h-[64px]'}>
      <Plot type="line" data={data} options={options} annotations={annotations} label={`${label}, the last minute`} />
    </div>
  );
}
