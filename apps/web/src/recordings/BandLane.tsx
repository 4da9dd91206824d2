import { channelName } from '@just-balance/core/obd';
import { type Band, bandInOwnUnit, boundsText } from '@just-balance/core/readiness';
import type { Series } from '@just-balance/core/series';
import { said } from '@just-balance/core/units';
import { useMemo } from 'react';
import { useSay } from '../ui/preferences.tsx';

const COLUMNS = 480;
const HEIGHT = 44;

/** A held channel under its step: the band as a stripe, the trace through it, least and most of every column of pixels. */
export function BandLane({
  series,
  band,
  first,
  length,
  seek,
}: {
  series: Series;
  band: Band;
  first: number;
  length: number;
  /** Seconds of the drive. */
  seek: (s: number) => void;
}) {
  const say = useSay();
  const channel = series.channels.find((c) => c.id === band.channel);
  const drawn = useMemo(() => {
    if (!channel || channel.time.length === 0) return null;
    const { low, high } = bandInOwnUnit(band, channel.unit);
    const span = low !== null && high !== null ? high - low : Math.max(1, Math.abs(low ?? high ?? 1) / 2);
    const from = (low ?? high! - span) - span;
    const to = (high ?? low! + span) + span;
    const least = new Float64Array(COLUMNS).fill(Number.NaN);
    const most = new Float64Array(COLUMNS).fill(Number.NaN);
    for (let i = 0; i < channel.time.length; i++) {
      const c = Math.min(COLUMNS - 1, Math.floor((COLUMNS * (channel.time[i]! - first)) / length));
      if (c < 0) continue;
      const v = channel.value[i]!;
      if (!(v >= least[c]!)) least[c] = v;
      if (!(v <= most[c]!)) most[c] = v;
    }
    const y = (v: number) => HEIGHT - (HEIGHT * (Math.min(to, Math.max(from, v)) - from)) / (to - from);
    let path = '';
    for (let c = 0; c < COLUMNS; c++)
      if (!Number.isNaN(least[c]!))
        path += `${path ? 'L' : 'M'}${c} ${y(most[c]!).toFixed(1)}L${c} ${y(least[c]!).toFixed(1)}`;
    return { path, top: y(high ?? to), bottom: y(low ?? from) };
  }, [channel, band, first, length]);
  if (!drawn) return null;
  return (
    <button
      type="button"
      className="block w-full cursor-crosshair p-0"
      aria-label={say(said`${channelName(band.channel)} against ${boundsText(band)}: look at it in the traces`)}
      onClick={(e) => {
        const box = e.currentTarget.getBoundingClientRect();
        seek(box.width > 0 ? (length * (e.clientX - box.left)) / box.width : 0);
      }}
    >
      <svg viewBox={`0 0 ${COLUMNS} ${HEIGHT}`} preserveAspectRatio="none" className="block h-11 w-full" aria-hidden>
        <rect
          x="0"
          width={COLUMNS}
          y={drawn.top}
          height={Math.max(1, drawn.bottom - drawn.top)}
          fill="var(--color-band)"
        />
        <path
          d={drawn.path}
          fill="none"
          stroke="var(--color-ink)"
          strokeWidth="1.2"
          vectorEffect="non-scaling-stroke"
        />
      </svg>
    </button>
  );
}
