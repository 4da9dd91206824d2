import type { FindingPicture as Picture } from '@just-balance/core/shop';
import { numberText } from '@just-balance/core/units';
import { useShown } from '../../ui/preferences.tsx';

/** Drawn one by one up to so many; beyond it as bars. */
const MOST_DOTS = 24;

/** A sentence's count, drawn; the same figures stand as text in it. */
export function FindingPicture({ picture }: { picture: Picture }) {
  if (picture.kind === 'band') return <BandPicture {...picture} />;
  if (picture.kind === 'minutes') {
    const most = Math.max(...picture.rows.map((r) => r.minutes));
    return (
      <dl className="m-0 grid gap-2">
        {picture.rows.map((r) => (
          <div key={r.label}>
            <dt>{r.label}</dt>
            <dd className="m-0">
              <span className="flex items-center gap-3">
                <span
                  aria-hidden
                  className="block h-5 rounded bg-act"
                  style={{ width: `${Math.max(3, (68 * r.minutes) / most)}%` }}
                />
                <strong className="figure whitespace-nowrap">{numberText(r.minutes, 0)} min</strong>
              </span>
              <span className="text-soft">{r.note}</span>
            </dd>
          </div>
        ))}
      </dl>
    );
  }
  return (
    <dl className="m-0 grid gap-2">
      {picture.rows.map((r) => (
        <div key={r.label}>
          <dt>{r.label}</dt>
          <dd className="m-0">
            {r.of <= MOST_DOTS ? (
              <span aria-hidden className="flex flex-wrap gap-1">
                {Array.from({ length: r.of }, (_, i) => (
                  <span
                    key={i}
                    className={`inline-block size-4 rounded-full border-2 border-ink ${i < r.yes ? 'bg-ink' : ''}`}
                  />
                ))}
              </span>
            ) : (
              <span aria-hidden className="block h-5 rounded border-2 border-ink">
                <span
                  className="block h-full bg-ink"
                  style={{ width: `${Math.max(1, (100 * r.yes) / Math.max(...picture.rows.map((x) => x.of)))}%` }}
                />
              </span>
            )}
            <strong className="figure">
              {r.yes} of {r.of}
            </strong>
          </dd>
        </div>
      ))}
    </dl>
  );
}

/** Each car a dot on the band of all of them. */
function BandPicture({ low, high, unit, values }: Extract<Picture, { kind: 'band' }>) {
  const show = useShown();
  const text = (v: number) => numberText(show(v, unit, 1).value, 1);
  const [from, to] = [Math.min(low, ...values), Math.max(high, ...values)];
  const margin = 0.15 * (to - from);
  const x = (v: number) => `${(100 * (v - from + margin)) / (to - from + 2 * margin)}%`;
  const w = `${(100 * (high - low)) / (to - from + 2 * margin)}%`;
  return (
    <div>
      <svg className="block h-14 w-full" aria-hidden>
        <rect
          x={x(low)}
          y="8"
          width={w}
          height="40"
          rx="6"
          fill="var(--color-band)"
          stroke="var(--color-band-edge)"
          strokeWidth="2"
        />
        {values.map((v, i) => (
          <circle key={i} cx={x(v)} cy={20 + 8 * (i % 3)} r="4" fill="var(--color-ink)" />
        ))}
      </svg>
      <p className="figure m-0 flex justify-center gap-6">
        <strong>
          {text(low)} to {text(high)} {show(low, unit, 1).unit}
        </strong>
      </p>
    </div>
  );
}
