import type { TrimLimits } from '@just-balance/core/trims';
import { numberText, signed } from '@just-balance/core/units';
import { scaleLinear } from 'd3-scale';
import { line } from 'd3-shape';
import { leaning } from '../ui/figures.ts';
import { useShown } from '../ui/preferences.tsx';
import { useWidth } from '../ui/useWidth.ts';

export interface TrimMark {
  bank: 1 | 2;
  totalPct: number;
  sdPct: number;
  /** At the ECU's limit: at least this much. */
  pegged?: boolean;
}

export interface TrimRow {
  at: string;
  label: string;
  /** Orders the rows; said where it is an airflow. */
  airflowGps: number;
  /** Whether the airflow was read, worked out from speed and displacement, or only orders the rows. */
  airflow: 'read' | 'estimated' | 'none';
  marks: TrimMark[];
  /** Earlier marks of the same point, drawn grey with an arrow to the new ones. */
  before?: TrimMark[];
  /** Predicted totals per bank of the chosen cause. */
  predicted?: [number, number] | null;
}

export interface PredictedTrims {
  points: { at: string; trimPct: [number, number] }[];
  strong: boolean;
}

/** Of a row, by how many there are: the whole stays in sight on a tablet. */
const ROW = [104, 104, 98, 94, 80, 70] as const;
const TOP = 34;
const BOTTOM = 34;

/**
 * The signature drawing: total trim across, one row per closed-loop point ordered by airflow (idle lowest), a marker
 * per bank, whiskers of two standard deviations, the expected band, predicted shapes as dotted lines.
 */
export function TrimChart({
  rows,
  predictedLines = [],
  banks,
  limits,
  caption,
}: {
  rows: TrimRow[];
  predictedLines?: PredictedTrims[];
  banks: 1 | 2;
  limits: TrimLimits;
  caption: string;
}) {
  const [ref, width] = useWidth<HTMLDivElement>(640);
  const show = useShown();
  const narrow = width < 460;
  const ordered = [...rows].sort((a, b) => b.airflowGps - a.airflowGps);
  const largest = Math.max(
    30,
    ...rows.flatMap((r) => [...r.marks, ...(r.before ?? [])].map((m) => Math.abs(m.totalPct) + m.sdPct)),
  );
  const range = largest > 30 ? 50 : 30;
  const labels = narrow ? 22 : 118;
  const right = narrow ? 30 : 34;
  const x = scaleLinear([-range, range], [labels, width - right]).clamp(true);
  const rowHeight = narrow ? 82 : (ROW[rows.length] ?? 70);
  const plot = Math.max(1, ordered.length) * rowHeight;
  const height = TOP + plot + BOTTOM;
  const y = (i: number) => TOP + rowHeight * (i + 0.5);
  const rowOf = new Map(ordered.map((r, i) => [r.at, y(i)]));
  const ticks = range === 30 ? [-30, -20, -10, 0, 10, 20, 30] : [-50, -30, -10, 0, 10, 30, 50];
  const acts = [-limits.actPct, limits.actPct];
  const offset = (bank: 1 | 2) => (banks === 2 ? (bank === 1 ? -11 : 11) : 0);

  return (
    <figure className="m-0" ref={ref}>
      <svg
        viewBox={`0 0 ${width} ${height}`}
        width="100%"
        height={height}
        role="img"
        aria-label={caption}
        className="block select-none"
      >
        <rect
          x={x(-limits.watchPct)}
          width={x(limits.watchPct) - x(-limits.watchPct)}
          y={TOP}
          height={plot}
          fill="var(--band)"
        />
        {[-limits.watchPct, limits.watchPct].map((v) => (
          <line key={v} x1={x(v)} x2={x(v)} y1={TOP} y2={TOP + plot} stroke="var(--band-edge)" strokeWidth="2" />
        ))}
        {ticks.map((t) => (
          <line key={t} x1={x(t)} x2={x(t)} y1={TOP} y2={TOP + plot} stroke="var(--rule)" />
        ))}
        {acts.map((v) => (
          <line
            key={v}
            x1={x(v)}
            x2={x(v)}
            y1={TOP}
            y2={TOP + plot}
            stroke="var(--ink)"
            strokeWidth="1.6"
            strokeDasharray="2 5"
          />
        ))}
        <text x={x(0) - 14} y={20} textAnchor="end" fontSize="14.5" fontWeight="650" fill="var(--rich)">
          {narrow ? '◀ rich' : '◀ rich: fuel taken away'}
        </text>
        <text x={x(0) + 14} y={20} fontSize="14.5" fontWeight="650" fill="var(--lean)">
          {narrow ? 'lean ▶' : 'lean: fuel added ▶'}
        </text>
        {ordered.map((r, i) => (
          <g key={r.at}>
            <line x1={x(-range)} x2={x(range)} y1={y(i)} y2={y(i)} stroke="var(--rule)" />
            <text
              x={narrow ? 0 : labels - 14}
              y={narrow ? y(i) - 26 : y(i) - 1}
              textAnchor={narrow ? 'start' : 'end'}
              fontSize="15"
              fontWeight="650"
              fill="var(--ink)"
            >
              {r.label}
            </text>
            <text
              x={narrow ? 0 : labels - 14}
              y={narrow ? y(i) - 9 : y(i) + 18}
              textAnchor={narrow ? 'start' : 'end'}
              fontSize="13.5"
              className="figure"
              fill="var(--soft)"
            >
              {r.airflow === 'none' ? '' : `${r.airflow === 'estimated' ? '≈ ' : ''}${airflow(r.airflowGps)}`}
            </text>
            {r.predicted && !narrow && (
              <text
                x={x(-range) + 12}
                y={y(i) + 5}
                fontSize="13.5"
                fill="var(--soft)"
                className="figure"
                stroke="var(--sheet)"
                strokeWidth="5"
                paintOrder="stroke"
              >
                {`predicted ${signed(r.predicted[0])}${banks === 2 && Math.abs(r.predicted[0] - r.predicted[1]) > 0.5 ? ` / ${signed(r.predicted[1])}` : ''}`}
              </text>
            )}
          </g>
        ))}
        <line x1={x(0)} x2={x(0)} y1={TOP - 6} y2={TOP + plot} stroke="var(--ink)" strokeWidth="2.2" />
        <path d={`M${x(0)} ${TOP + plot} l10 14 h-20 z`} fill="var(--ink)" />
        {predictedLines.map((g, k) => (
          <PredictedLine key={k} predicted={g} x={x} rowOf={rowOf} banks={banks} />
        ))}
        {ordered.map((r, i) => (
          <g key={r.at}>
            {r.before?.map((b) => (
              <Before
                key={b.bank}
                mark={b}
                to={r.marks.find((m) => m.bank === b.bank)}
                x={x}
                y={y(i) + offset(b.bank)}
              />
            ))}
            {r.marks.map((m) => (
              <Mark
                key={m.bank}
                mark={m}
                x={x}
                y={y(i) + offset(m.bank)}
                limit={limits.watchPct}
                edge={width - 4}
                avoidRight={(r.before ?? []).some((b) => b.bank === m.bank && b.totalPct > m.totalPct)}
              />
            ))}
          </g>
        ))}
        {ticks.map((t) => (
          <text key={t} x={x(t)} y={height - 8} textAnchor="middle" fontSize="13" className="figure" fill="var(--soft)">
            {t === 0 ? '' : `${signed(t, 0)}${Math.abs(t) === limits.actPct && !narrow ? ' act' : ''}`}
          </text>
        ))}
      </svg>
      <div className="sr-only">
        <table>
          <caption>{caption}</caption>
          <thead>
            <tr>
              <th>Point</th>
              <th>Airflow</th>
              <th>Bank</th>
              <th>Total trim</th>
              <th>Predicted</th>
              <th>Before</th>
            </tr>
          </thead>
          <tbody>
            {ordered.flatMap((r) =>
              rowsOf(r).map(({ bank, mark: m }) => (
                <tr key={`${r.at}${bank}`}>
                  <td>{r.label}</td>
                  <td>
                    {r.airflow === 'none'
                      ? 'not read'
                      : `${airflow(r.airflowGps)}${r.airflow === 'estimated' ? ', estimated' : ''}`}
                  </td>
                  <td>{bank}</td>
                  <td>
                    {m
                      ? `${signed(m.totalPct)} % ${leaning(m.totalPct, limits.watchPct)?.word ?? 'in band'}${m.pegged ? ', at least' : ''}`
                      : 'not taken again'}
                  </td>
                  <td>{percent(r.predicted?.[bank - 1])}</td>
                  <td>{percent(r.before?.find((b) => b.bank === bank)?.totalPct)}</td>
                </tr>
              )),
            )}
          </tbody>
        </table>
      </div>
    </figure>
  );

  function airflow(gps: number): string {
    const s = show(gps, 'g/s', gps < 10 ? 1 : 0);
    return `${numberText(s.value, s.digits)} ${s.unit}`;
  }
}

/** Every bank that stands in a row, now or before. */
function rowsOf(r: TrimRow): { bank: 1 | 2; mark: TrimMark | undefined }[] {
  const banks = ([1, 2] as const).filter((b) => [...r.marks, ...(r.before ?? [])].some((m) => m.bank === b));
  return banks.map((bank) => ({ bank, mark: r.marks.find((m) => m.bank === bank) }));
}

const percent = (v: number | undefined) => (v === undefined || !Number.isFinite(v) ? '—' : `${signed(v)} %`);

type Scale = (v: number) => number;

function PredictedLine({
  predicted,
  x,
  rowOf,
  banks,
}: {
  predicted: PredictedTrims;
  x: Scale;
  rowOf: Map<string, number>;
  banks: 1 | 2;
}) {
  const apart = banks === 2 && predicted.points.some((p) => Math.abs(p.trimPct[0] - p.trimPct[1]) > 0.5);
  return (
    <>
      {(apart ? [0, 1] : [0]).map((b) => {
        const points = predicted.points.flatMap((p): [number, number][] => {
          const row = rowOf.get(p.at);
          return row === undefined ? [] : [[x(p.trimPct[b as 0 | 1]), row + (apart ? (b === 0 ? -10 : 10) : 0)]];
        });
        return (
          <path
            key={b}
            d={line()(points) ?? ''}
            fill="none"
            stroke="var(--ghost)"
            strokeWidth={predicted.strong ? 3.4 : 2}
            strokeLinecap="round"
            strokeDasharray={predicted.strong ? '1 8' : '1 10'}
            opacity={predicted.strong ? 1 : 0.55}
          />
        );
      })}
    </>
  );
}

function Shape({
  bank,
  cx,
  cy,
  colour,
  hollow,
}: {
  bank: 1 | 2;
  cx: number;
  cy: number;
  colour: string;
  hollow?: boolean;
}) {
  return bank === 1 ? (
    <circle cx={cx} cy={cy} r="7.5" fill={hollow ? 'var(--sheet)' : colour} stroke={colour} strokeWidth="2.4" />
  ) : (
    <path d={`M${cx} ${cy - 9} l9 9 -9 9 -9 -9z`} fill="var(--sheet)" stroke={colour} strokeWidth="2.6" />
  );
}

function colourOf(total: number, limit: number): string {
  return total > limit ? 'var(--lean)' : total < -limit ? 'var(--rich)' : 'var(--ink)';
}

function Mark({
  mark,
  x,
  y,
  limit,
  edge,
  avoidRight,
}: {
  mark: TrimMark;
  x: Scale;
  y: number;
  limit: number;
  edge: number;
  avoidRight: boolean;
}) {
  const colour = colourOf(mark.totalPct, limit);
  const cx = x(mark.totalPct);
  const from = x(mark.totalPct - 2 * mark.sdPct);
  const to = x(mark.totalPct + 2 * mark.sdPct);
  const text = `${mark.pegged ? '≥' : ''}${signed(mark.totalPct)}`;
  const after = Math.max(to, cx + 9) + 10;
  const fits = !avoidRight && after + text.length * 9 < edge;
  return (
    <g style={{ transition: 'transform 400ms' }}>
      <line x1={from} x2={to} y1={y} y2={y} stroke={colour} strokeWidth="3" />
      <Shape bank={mark.bank} cx={cx} cy={y} colour={colour} />
      {mark.pegged && (
        <path
          d={`M${cx + Math.sign(mark.totalPct) * 12} ${y - 6} l${Math.sign(mark.totalPct) * 9} 6 l${-Math.sign(mark.totalPct) * 9} 6z`}
          fill={colour}
        />
      )}
      <text
        x={fits ? after : Math.min(from, cx - 9) - 8}
        y={y + 5}
        textAnchor={fits ? 'start' : 'end'}
        fontSize="14.5"
        fontWeight="700"
        className="figure"
        fill={colour}
        stroke="var(--sheet)"
        strokeWidth="4"
        paintOrder="stroke"
      >
        {text}
      </text>
    </g>
  );
}

function Before({ mark, to, x, y }: { mark: TrimMark; to?: TrimMark; x: Scale; y: number }) {
  const from = x(mark.totalPct);
  const target = to ? x(to.totalPct) : from;
  const gap = Math.sign(target - from) * 12;
  const far = Math.abs(target - from) > 40;
  return (
    <g opacity="0.85">
      <Shape bank={mark.bank} cx={from} cy={y} colour="var(--ghost)" hollow={mark.bank === 2} />
      {far && (
        <>
          <line x1={from + gap} x2={target - gap * 3.4} y1={y} y2={y} stroke="var(--soft)" strokeWidth="1.6" />
          <path
            d={`M${target - gap * 3.4} ${y - 5} l${gap * 0.8} 5 l${-gap * 0.8} 5`}
            fill="none"
            stroke="var(--soft)"
            strokeWidth="1.6"
          />
        </>
      )}
    </g>
  );
}
