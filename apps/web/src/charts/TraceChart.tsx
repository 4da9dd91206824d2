import { type Channel, indexAt, type Level, reduce } from '@just-balance/core/series';
import { numberText, signed } from '@just-balance/core/units';
import { useGesture } from '@use-gesture/react';
import type { ChartData, ChartOptions } from 'chart.js';
import { scaleLinear } from 'd3-scale';
import { useEffect, useMemo, useRef } from 'react';
import { clock } from '../ui/figures.ts';
import { useShown } from '../ui/preferences.tsx';
import { Plot, useChartTheme } from './Plot.tsx';
import { axisTicks, panned, type Range, zoomed } from './range.ts';

export interface TraceStrip {
  channel: Channel;
  levels: readonly Level[];
  /** Where it has no sample, by its own rhythm. */
  gaps: readonly { from: number; to: number }[];
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
/** On a phone: over the traces, and nothing that a finger could hit. */
const OVER = 'max-sm:pointer-events-none max-sm:absolute max-sm:inset-y-0 max-sm:z-10';

/** At most six strips over one time axis: one canvas, one cursor; wheel, pinch, drag and keys move through it. */
export function TraceChart({ strips, range, all, cursor, marks, gaps, setRange, setCursor }: Props) {
  const show = useShown();
  const theme = useChartTheme();
  const canvas = useRef<HTMLDivElement>(null);
  const drawn = useMemo(() => {
    performance.mark('jb-redraw');
    return strips.map((s) => drawnStrip(s, range, show));
  }, [strips, range, show]);
  const data = useMemo((): ChartData<'line', { x: number; y: number }[]> => {
    const line = (i: number, points: { x: number; y: number }[], expected: boolean) => ({
      label: `${expected ? 'expected ' : ''}${i}`,
      data: points,
      yAxisID: `y${i}`,
      borderColor: expected ? theme.colour.bandEdge : theme.colour.ink,
      borderWidth: expected ? 1.6 : 1.4,
      borderDash: expected ? [5, 4] : [],
      // Hollow where the line ends at a gap; one figure for all where there is none, which draws much faster.
      pointRadius:
        expected || points.every((p) => !Number.isNaN(p.y))
          ? 0
          : points.map((p, k) => (endsAtGap(points, k) && !Number.isNaN(p.y) ? 3 : 0)),
      pointBackgroundColor: 'transparent',
      tension: 0,
    });
    return {
      datasets: [...drawn.map((d, i) => line(i, d.points, false)), ...drawn.map((d, i) => line(i, d.expected, true))],
    };
  }, [drawn, theme]);
  const options = useMemo((): ChartOptions<'line'> => {
    const tick = theme.tick();
    return {
      layout: { padding: { top: TOP_PX, right: 2 } },
      scales: {
        x: {
          type: 'linear',
          min: range.from,
          max: range.to,
          ticks: { ...tick, maxTicksLimit: 8, maxRotation: 0, callback: (v) => clock(Number(v)) },
          grid: { color: theme.colour.rule },
          afterFit: (s) => {
            s.height = AXIS_PX;
          },
        },
        ...Object.fromEntries(
          drawn.map(({ min, max, ticks }, i) => [
            `y${i}`,
            {
              type: 'linear' as const,
              stack: 'strips',
              stackWeight: 1,
              weight: drawn.length - i,
              offset: false,
              min,
              max,
              ticks: {
                ...tick,
                maxTicksLimit: 3,
                autoSkip: false,
                // Neighbours share a border: the top figure of one would print over the lowest of the other.
                callback: (_: number | string, k: number) =>
                  k === 0 && i < drawn.length - 1 ? '' : (ticks[k]?.text ?? ''),
              },
              grid: { color: theme.colour.rule },
              border: { color: theme.colour.soft },
              afterBuildTicks: (axis: { ticks: { value: number }[] }) => {
                axis.ticks = ticks.map(({ value }) => ({ value }));
              },
              afterFit: (s: { width: number }) => {
                s.width = LEFT_PX;
              },
            },
          ]),
        ),
      },
    };
  }, [drawn, range, theme]);
  const annotations = useMemo(() => {
    const within = (m: { from: number; to: number }) => m.to >= range.from && m.from <= range.to;
    const clipped = (m: { from: number; to: number }) =>
      [Math.max(m.from, range.from), Math.min(m.to, range.to)] as const;
    let labelled = Number.NEGATIVE_INFINITY;
    return [
      ...drawn.flatMap(({ band, min, max }, i) =>
        band && band.low < max && band.high > min
          ? [theme.band(Math.max(band.low, min), Math.min(band.high, max), `y${i}`)]
          : [],
      ),
      ...strips.flatMap((s, i) =>
        s.gaps
          .filter((g) => within(g) && !gaps.some((all) => all.from <= g.to && all.to >= g.from))
          .map((g) => theme.gap(...clipped(g), false, `y${i}`)),
      ),
      ...gaps.filter(within).flatMap((g) => drawn.map((_, i) => theme.gap(...clipped(g), i === 0, `y${i}`))),
      ...marks.filter(within).flatMap((m) => {
        const [from, to] = clipped(m);
        // A label as long as its words, about, in the time shown: the next one inside it stays unnamed.
        const fits = from >= labelled;
        if (fits) labelled = from + (m.label.length * 7.5 * (range.to - range.from)) / 640;
        const top = drawn[0]?.max ?? 0;
        return [
          ...drawn.map((_, i) => theme.mark(from, to, i === 0 && fits ? m.label : undefined, `y${i}`)),
          theme.line({ xMin: from, xMax: to, yMin: top, yMax: top }, 3, 'y0'),
        ];
      }),
    ];
  }, [drawn, strips, range, marks, gaps, theme]);
  // After the plot's own effect: what a move through the recording costs, for the bench.
  useEffect(() => void performance.measure('jb-redraw', 'jb-redraw'), [data]);

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
    // Beside the traces where there is room; on a phone over them, at the top of each strip.
    <div className="relative grid grid-cols-[minmax(0,1fr)] gap-x-2 sm:grid-cols-[minmax(96px,150px)_minmax(0,1fr)_minmax(76px,110px)]">
      <ul
        className={`m-0 grid list-none p-0 max-sm:left-14 ${OVER}`}
        style={{ paddingTop: TOP_PX, paddingBottom: AXIS_PX }}
      >
        {strips.map((s) => (
          <li
            key={s.channel.id}
            className="self-center leading-tight font-[650] break-words max-sm:self-start max-sm:justify-self-start max-sm:bg-sheet/80 max-sm:px-1 max-sm:text-[0.85rem]"
          >
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
        style={{ height: TOP_PX + AXIS_PX + ROW_PX * Math.max(1, strips.length) }}
        onKeyDown={onKeyDown}
        onMouseLeave={() => setCursor(null)}
      >
        <div ref={canvas} className="absolute inset-0">
          <Plot type="line" data={data} options={options} annotations={annotations} />
        </div>
        {cursor !== null && cursor >= range.from && cursor <= range.to && (
          <span
            aria-hidden
            className="pointer-events-none absolute w-[1.5px] bg-act"
            style={{
              top: TOP_PX,
              bottom: AXIS_PX,
              left: `calc(${LEFT_PX}px + ${(cursor - range.from) / (range.to - range.from)} * (100% - ${LEFT_PX + 2}px))`,
            }}
          />
        )}
      </div>
      <ul
        className={`m-0 grid list-none p-0 text-right max-sm:right-1 ${OVER}`}
        style={{ paddingTop: TOP_PX, paddingBottom: AXIS_PX }}
        aria-hidden
      >
        {strips.map((s) => {
          const here = cursor ?? range.to;
          const gap = s.gaps.find((g) => g.from < here && here < g.to);
          const v = gap ? null : at(s.channel, here);
          const f = v === null ? null : show(v, s.channel.unit, s.digits);
          if (gap)
            return (
              <li key={s.channel.id} className="self-center text-[0.85rem] leading-tight text-soft">
                no sample for {numberText(gap.to - gap.from, 0)} s
              </li>
            );
          return (
            <li
              key={s.channel.id}
              className="self-center leading-tight max-sm:self-start max-sm:justify-self-end max-sm:bg-sheet/80 max-sm:px-1"
            >
              <span className="figure font-bold sm:text-[1.35rem]">
                {f === null
                  ? '—'
                  : s.channel.unit === '%' && s.channel.id.startsWith('total')
                    ? signed(f.value)
                    : numberText(f.value, f.digits)}
              </span>{' '}
              <span className="text-soft">{show(0, s.channel.unit, 0).unit}</span>
            </li>
          );
        })}
      </ul>
    </div>
  );
}

interface Drawn {
  points: { x: number; y: number }[];
  expected: { x: number; y: number }[];
  band: { low: number; high: number } | null;
  min: number;
  max: number;
  ticks: { value: number; text: string }[];
}

/** One strip of the part shown: least and greatest of each bucket, in the units shown, and the scale that fits them. */
function drawnStrip(s: TraceStrip, range: Range, show: ReturnType<typeof useShown>): Drawn {
  const part = reduce(
    { time: s.channel.time, value: s.channel.value, levels: s.levels },
    range.from,
    range.to,
    BUCKETS,
  );
  const zero = show(0, s.channel.unit, 2).value;
  const one = show(1, s.channel.unit, 2).value - zero;
  const points: Drawn['points'] = [];
  let least = Number.POSITIVE_INFINITY;
  let most = Number.NEGATIVE_INFINITY;
  for (let k = 0; k < part.time.length; k++) {
    const low = zero + one * part.min[k]!;
    const high = zero + one * part.max[k]!;
    const gap = k > 0 && s.gaps.find((g) => isBetween((g.from + g.to) / 2, part.time[k - 1]!, part.time[k]!));
    if (gap && gap.to - gap.from > (range.to - range.from) / BUCKETS)
      points.push({ x: (part.time[k - 1]! + part.time[k]!) / 2, y: Number.NaN });
    points.push({ x: part.time[k]!, y: low });
    if (high !== low) points.push({ x: part.time[k]!, y: high });
    if (low < least) least = low;
    if (high > most) most = high;
  }
  const band = s.low === null || s.high === null ? null : { low: zero + one * s.low, high: zero + one * s.high };
  if (!(least <= most)) [least, most] = [band?.low ?? 0, band?.high ?? 1];
  const span = Math.max(most - least, 10 ** -s.digits * 4);
  // A line that stands still is drawn as one, in the middle of what is worth telling apart.
  const room = Math.max(0.05 * span, (span - (most - least)) / 2);
  const near = band && band.high - band.low < 4 * span ? band : { low: least, high: most };
  const [min, max] = scaleLinear()
    .domain([Math.min(least - room, near.low), Math.max(most + room, near.high)])
    .nice(3)
    .domain() as [number, number];
  const e = s.expected && reduce(s.expected, range.from, range.to, BUCKETS / 2);
  const expected = e ? Array.from(e.time, (t, k) => ({ x: t, y: zero + one * ((e.min[k]! + e.max[k]!) / 2) })) : [];
  return { points, expected, band, min, max, ticks: axisTicks(min, max, s.digits) };
}

const isBetween = (t: number, a: number, b: number) => t > a && t <= b;

const endsAtGap = (points: Drawn['points'], k: number) =>
  Number.isNaN(points[k - 1]?.y ?? 0) || Number.isNaN(points[k + 1]?.y ?? 0);

/** The value that stood at a moment. */
function at(c: Channel, t: number): number | null {
  const i = indexAt(c.time, t + 1e-9) - 1;
  return i >= 0 ? c.value[i]! : null;
}
