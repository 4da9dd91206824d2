import { type Channel, indexAt, type Level, reduce } from '@just-balance/core/series';
import { useGesture } from '@use-gesture/react';
import {
  Chart,
  type ChartConfiguration,
  LinearScale,
  LineController,
  LineElement,
  type Plugin,
  PointElement,
} from 'chart.js';
import { scaleLinear } from 'd3-scale';
import { useEffect, useRef } from 'react';
import { clock, signed } from '../ui/figures.ts';
import { usePreferences, useShown } from '../ui/preferences.tsx';
import { panned, type Range, zoomed } from './range.ts';

Chart.register(LineController, LineElement, PointElement, LinearScale);

export interface TraceStrip {
  channel: Channel;
  levels: readonly Level[];
  label: string;
  digits: number;
  low: number | null;
  high: number | null;
  /** What it should read at each moment, where physics says; drawn dashed. */
  expected: { time: Float64Array; value: Float64Array; levels: readonly Level[] } | null;
}

interface Props {
  strips: readonly TraceStrip[];
  range: Range;
  all: Range;
  cursor: number | null;
  marks: readonly { at: string; from: number; to: number; label: string }[];
  gaps: readonly { from: number; to: number }[];
  setRange: (change: (r: Range) => Range) => void;
  setCursor: (t: number | null) => void;
}

/** Min/max pairs drawn per strip: two points each. */
const BUCKETS = 400;
const AXIS_PX = 26;
const TOP_PX = 22;
const LEFT_PX = 52;
const ROW_PX = 84;

/** What the plugin draws with, changed in place: the chart itself is made once. */
interface Scene {
  strips: readonly TraceStrip[];
  shown: { low: number | null; high: number | null }[];
  cursor: number | null;
  marks: Props['marks'];
  gaps: Props['gaps'];
}

function colour(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(name).trim();
}

function scenery(scene: { current: Scene }): Plugin<'line'> {
  return {
    id: 'scenery',
    beforeDatasetsDraw({ ctx, chartArea: a, scales }) {
      const x = scales.x!;
      const s = scene.current;
      ctx.save();
      ctx.beginPath();
      ctx.rect(a.left, 0, a.width, a.bottom);
      ctx.clip();
      s.strips.forEach((_, i) => {
        const y = scales[`y${i}`];
        const { low, high } = s.shown[i] ?? { low: null, high: null };
        if (!y || low === null || high === null) return;
        const top = Math.max(y.top, y.getPixelForValue(high));
        const bottom = Math.min(y.bottom, y.getPixelForValue(low));
        ctx.fillStyle = colour('--band');
        if (bottom > top) ctx.fillRect(a.left, top, a.width, bottom - top);
      });
      ctx.font = '12px "Atkinson Hyperlegible Next Variable"';
      for (const g of s.gaps) {
        const from = x.getPixelForValue(g.from);
        const to = x.getPixelForValue(g.to);
        ctx.strokeStyle = colour('--soft');
        ctx.globalAlpha = 0.5;
        ctx.beginPath();
        for (let p = from - a.height; p < to; p += 9) {
          ctx.moveTo(Math.max(p, from), p < from ? a.bottom - (from - p) : a.bottom);
          ctx.lineTo(Math.min(p + a.height, to), a.bottom - Math.min(a.height, to - p));
        }
        ctx.stroke();
        ctx.globalAlpha = 1;
        ctx.fillStyle = colour('--ink');
        ctx.fillText('no signal', from + 4, a.top - 8);
      }
      let labelled = Number.NEGATIVE_INFINITY;
      for (const m of s.marks) {
        const from = x.getPixelForValue(m.from);
        const to = x.getPixelForValue(m.to);
        if (to < a.left || from > a.right) continue;
        ctx.fillStyle = colour('--act');
        ctx.globalAlpha = 0.1;
        ctx.fillRect(from, a.top, Math.max(2, to - from), a.height);
        ctx.globalAlpha = 1;
        ctx.fillRect(from, a.top - 3, Math.max(2, to - from), 3);
        const at = Math.max(from, a.left);
        if (at < labelled) continue;
        ctx.fillText(m.label, at, a.top - 8);
        labelled = at + ctx.measureText(m.label).width + 8;
      }
      ctx.restore();
    },
    afterDatasetsDraw({ ctx, chartArea: a, scales }) {
      const t = scene.current.cursor;
      if (t === null) return;
      const at = scales.x!.getPixelForValue(t);
      if (at < a.left || at > a.right) return;
      ctx.save();
      ctx.strokeStyle = colour('--act');
      ctx.lineWidth = 1.5;
      ctx.beginPath();
      ctx.moveTo(at, a.top);
      ctx.lineTo(at, a.bottom);
      ctx.stroke();
      ctx.restore();
    },
  };
}

/** At most six strips over one time axis: one canvas, one cursor; wheel, pinch, drag and keys move through it. */
export function TraceChart({ strips, range, all, cursor, marks, gaps, setRange, setCursor }: Props) {
  const show = useShown();
  const { theme, units } = usePreferences();
  const canvas = useRef<HTMLCanvasElement>(null);
  const chart = useRef<Chart<'line', { x: number; y: number }[]> | null>(null);
  const scene = useRef<Scene>({ strips, shown: [], cursor, marks, gaps });
  const count = strips.length;

  useEffect(() => {
    const tick = { color: colour('--soft'), font: { size: 11, family: 'Atkinson Hyperlegible Mono Variable' } };
    const y = Object.fromEntries(
      Array.from({ length: count }, (_, i) => [
        `y${i}`,
        {
          type: 'linear' as const,
          stack: 'strips',
          stackWeight: 1,
          weight: count - i,
          offset: false,
          ticks: { ...tick, maxTicksLimit: 3, autoSkip: false },
          grid: { color: colour('--rule') },
          border: { color: colour('--soft') },
          afterFit: (s: { width: number }) => {
            s.width = LEFT_PX;
          },
        },
      ]),
    );
    const config: ChartConfiguration<'line', { x: number; y: number }[]> = {
      type: 'line',
      data: {
        datasets: [false, true].flatMap((expected) =>
          Array.from({ length: count }, (_, i) => ({
            data: [],
            yAxisID: `y${i}`,
            borderColor: colour(expected ? '--band-edge' : '--ink'),
            borderWidth: expected ? 1.6 : 1.4,
            borderDash: expected ? [5, 4] : [],
            pointRadius: 0,
            tension: 0,
          })),
        ),
      },
      options: {
        animation: false,
        responsive: true,
        maintainAspectRatio: false,
        parsing: false,
        normalized: true,
        events: [],
        layout: { padding: { top: TOP_PX, right: 2 } },
        scales: {
          x: {
            type: 'linear',
            min: 0,
            max: 1,
            ticks: { ...tick, maxTicksLimit: 8, maxRotation: 0, callback: (v) => clock(Number(v)) },
            grid: { color: colour('--rule') },
            afterFit: (s) => {
              s.height = AXIS_PX;
            },
          },
          ...(y as object),
        },
      },
      plugins: [scenery(scene)],
    };
    chart.current = new Chart(canvas.current!, config);
    return () => {
      chart.current?.destroy();
      chart.current = null;
    };
  }, [count, theme]);

  useEffect(() => {
    const c = chart.current;
    if (!c) return;
    performance.mark('jb-redraw');
    const shown: Scene['shown'] = [];
    strips.forEach((s, i) => {
      const drawn = reduce(
        { time: s.channel.time, value: s.channel.value, levels: s.levels },
        range.from,
        range.to,
        BUCKETS,
      );
      const zero = show(0, s.channel.unit, 2).value;
      const one = show(1, s.channel.unit, 2).value - zero;
      const data: { x: number; y: number }[] = [];
      let least = Number.POSITIVE_INFINITY;
      let most = Number.NEGATIVE_INFINITY;
      for (let k = 0; k < drawn.time.length; k++) {
        const low = zero + one * drawn.min[k]!;
        const high = zero + one * drawn.max[k]!;
        data.push({ x: drawn.time[k]!, y: low });
        if (high !== low) data.push({ x: drawn.time[k]!, y: high });
        if (low < least) least = low;
        if (high > most) most = high;
      }
      const low = s.low === null ? null : zero + one * s.low;
      const high = s.high === null ? null : zero + one * s.high;
      shown.push({ low, high });
      if (!(least <= most)) [least, most] = [low ?? 0, high ?? 1];
      const span = Math.max(most - least, 10 ** -s.digits * 4);
      const wide = low !== null && high !== null && high - low < 4 * span;
      const [min, max] = scaleLinear()
        .domain([Math.min(least - 0.05 * span, wide ? low : least), Math.max(most + 0.05 * span, wide ? high : most)])
        .nice(3)
        .domain() as [number, number];
      const y = c.config.options!.scales![`y${i}`]! as {
        min: number;
        max: number;
        ticks: object;
        afterBuildTicks: unknown;
      };
      y.min = min;
      y.max = max;
      y.afterBuildTicks = (axis: { ticks: { value: number }[] }) => {
        axis.ticks = [min, min < 0 && max > 0 ? 0 : (min + max) / 2, max].map((value) => ({ value }));
      };
      (y.ticks as { callback: unknown }).callback = (v: number, k: number) =>
        // Neighbours share a border: the top figure of one would print over the lowest of the other.
        k === 0 && i < count - 1 ? '' : v.toLocaleString('en-US', { maximumFractionDigits: s.digits });
      c.data.datasets[i]!.data = data;
      const e = s.expected && reduce(s.expected, range.from, range.to, BUCKETS / 2);
      c.data.datasets[count + i]!.data = e
        ? Array.from(e.time, (t, k) => ({ x: t, y: zero + one * ((e.min[k]! + e.max[k]!) / 2) }))
        : [];
    });
    scene.current = { strips, shown, cursor: scene.current.cursor, marks, gaps };
    const x = c.config.options!.scales!.x!;
    x.min = range.from;
    x.max = range.to;
    c.update('none');
    performance.measure('jb-redraw', 'jb-redraw');
  }, [strips, range, marks, gaps, show, count, units, theme]);

  useEffect(() => {
    scene.current.cursor = cursor;
    chart.current?.draw();
  }, [cursor]);

  const timeAt = (clientX: number) => {
    const box = canvas.current!.getBoundingClientRect();
    const share = (clientX - box.left - LEFT_PX) / Math.max(1, box.width - LEFT_PX - 2);
    return range.from + Math.min(1, Math.max(0, share)) * (range.to - range.from);
  };
  const width = () => Math.max(1, (canvas.current?.getBoundingClientRect().width ?? 1) - LEFT_PX);
  const area = useRef<HTMLDivElement>(null);
  useGesture(
    {
      onDrag: ({ delta: [dx], pinching, cancel, tap, xy: [px] }) => {
        if (pinching) return cancel();
        if (tap) setCursor(timeAt(px));
        else if (dx !== 0) setRange((r) => panned(r, -dx / width(), all));
        return undefined;
      },
      // Fingers, a trackpad, or the wheel with Control held: the library makes one pinch of them.
      onPinch: ({ origin: [ox], offset: [scale], memo = 1 }) => {
        setRange((r) => zoomed(r, memo / scale, timeAt(ox), all));
        return scale;
      },
      // The wheel alone scrolls the page; sideways, or with Shift, it moves through time.
      onWheel: ({ event, delta: [dx, dy], ctrlKey }) => {
        if (ctrlKey) return;
        const by = event.shiftKey && dx === 0 ? dy : dx;
        if (by !== 0) setRange((r) => panned(r, by / width(), all));
      },
      onMove: ({ xy: [px], event }) => {
        if (event.pointerType === 'mouse') setCursor(timeAt(px));
      },
    },
    {
      target: area,
      eventOptions: { passive: false },
      drag: { filterTaps: true, axis: 'x', pointer: { touch: true } },
      pinch: { from: () => [1, 0], scaleBounds: { min: 0.001, max: 1000 } },
    },
  );
  const onKeyDown = (e: React.KeyboardEvent) => {
    const middle = cursor ?? (range.from + range.to) / 2;
    const step = (range.to - range.from) / 100;
    const actions: Record<string, () => void> = {
      ArrowLeft: () => (e.shiftKey ? setCursor(middle - step) : setRange((r) => panned(r, -0.1, all))),
      ArrowRight: () => (e.shiftKey ? setCursor(middle + step) : setRange((r) => panned(r, 0.1, all))),
      '+': () => setRange((r) => zoomed(r, 0.7, middle, all)),
      '=': () => setRange((r) => zoomed(r, 0.7, middle, all)),
      '-': () => setRange((r) => zoomed(r, 1 / 0.7, middle, all)),
      '0': () => setRange(() => all),
      Home: () => setRange((r) => panned(r, -1e6, all)),
      End: () => setRange((r) => panned(r, 1e6, all)),
    };
    const action = actions[e.key];
    if (!action) return;
    e.preventDefault();
    e.stopPropagation();
    action();
  };
  return (
    <div className="grid grid-cols-[minmax(96px,150px)_minmax(0,1fr)_minmax(76px,110px)] gap-x-2">
      <ul className="m-0 grid list-none p-0" style={{ paddingTop: TOP_PX, paddingBottom: AXIS_PX }}>
        {strips.map((s) => (
          <li key={s.channel.id} className="self-center leading-tight font-[650] break-words">
            {s.label}
          </li>
        ))}
      </ul>
      <div
        ref={area}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the keys of the chart need a place to land
        tabIndex={0}
        role="group"
        aria-label="Traces over time. Arrow keys move, plus and minus zoom, 0 shows all, shift with arrows moves the cursor. The figures stand in the table below."
        className="relative cursor-crosshair touch-pan-y rounded-md select-none"
        style={{ height: TOP_PX + AXIS_PX + ROW_PX * Math.max(1, count) }}
        onKeyDown={onKeyDown}
        onMouseLeave={() => setCursor(null)}
      >
        <canvas ref={canvas} aria-hidden />
      </div>
      <ul
        className="m-0 grid list-none p-0 text-right"
        style={{ paddingTop: TOP_PX, paddingBottom: AXIS_PX }}
        aria-hidden
      >
        {strips.map((s) => {
          const v = at(s.channel, cursor ?? range.to);
          const f = v === null ? null : show(v, s.channel.unit, s.digits);
          return (
            <li key={s.channel.id} className="self-center leading-tight">
              <span className="figure text-[1.35rem] font-bold">
                {f === null
                  ? '—'
                  : s.channel.unit === '%' && s.channel.id.startsWith('t')
                    ? signed(f.value)
                    : f.value.toFixed(f.digits)}
              </span>{' '}
              <span className="text-soft">{show(0, s.channel.unit, 0).unit}</span>
            </li>
          );
        })}
      </ul>
    </div>
  );
}

/** The value that stood at a moment. */
function at(c: Channel, t: number): number | null {
  const i = indexAt(c.time, t + 1e-9) - 1;
  return i >= 0 ? c.value[i]! : null;
}
