import type { JobView } from '@just-balance/contract';
import { meantSensors, sensorLayout } from '@just-balance/core/oxygen';

const BLOCK = 74;

/** This engine's banks, sensors and catalysts, drawn from what the vehicle says it has; the one meant is filled. */
export function SensorMap({ job }: { job: JobView }) {
  const record = [...job.records].reverse().find((r) => r.sensors);
  const layout = sensorLayout({
    banks: job.vehicle.banks ?? 1,
    cylinders: job.vehicle.cylinders,
    fitted: record?.sensors ?? job.vehicle.sensors ?? null,
    typed: !record?.sensors,
  });
  const codes = job.records.at(-1)?.codes.map((c) => c.code) ?? [];
  const meant = meantSensors(codes);
  const isMeant = (bank: number, sensor: number) => meant.some((m) => m.bank === bank && m.sensor === sensor);
  const y = (bank: number) => (layout.banks.length === 1 ? 60 : bank === 1 ? 42 : 132);
  const words = [
    `Bank 1 is the side of cylinder 1.`,
    ...layout.banks.map(
      (b) =>
        `Bank ${b.bank}: ${b.sensors.map((s) => `sensor ${s.sensor} ${s.sensor === 1 ? 'before' : 'after'} the catalyst${isMeant(b.bank, s.sensor) ? ', meant by a code' : ''}`).join('; ')}.`,
    ),
    layout.shared ? 'One sensor after the common catalyst.' : '',
  ].join(' ');
  const height = layout.banks.length === 1 ? 130 : 190;
  const mark = (x: number, cy: number, bank: number, sensor: number, wide: boolean) => {
    const on = isMeant(bank, sensor);
    return (
      <g key={`${bank} ${sensor}`}>
        <line x1={x} x2={x} y1={cy - 26} y2={cy - 4} stroke="var(--ink)" strokeWidth="2" />
        {bank === 1 ? (
          <circle
            cx={x}
            cy={cy - 32}
            r={11}
            fill={on ? 'var(--act)' : 'var(--sheet)'}
            stroke="var(--ink)"
            strokeWidth="2.5"
          />
        ) : (
          <rect
            x={x - 9}
            y={cy - 41}
            width={18}
            height={18}
            transform={`rotate(45 ${x} ${cy - 32})`}
            fill={on ? 'var(--act)' : 'var(--sheet)'}
            stroke="var(--ink)"
            strokeWidth="2.5"
          />
        )}
        <text x={x + 18} y={cy - 27} fontSize="13" fontWeight={on ? 700 : 550} fill="var(--ink)">
          {bank}/{sensor}
          {wide ? ' wide' : ''}
        </text>
      </g>
    );
  };
  return (
    <figure className="m-0 block">
      <svg viewBox={`0 -6 520 ${height}`} className="w-full max-w-[680px]" role="img" aria-label={words}>
        {layout.banks.map((b) => {
          const cy = y(b.bank);
          const n = b.cylinders;
          return (
            <g key={b.bank}>
              <rect
                x={8}
                y={cy - 18}
                width={BLOCK + 30 * Math.min(4, n) - 40}
                height={36}
                rx={8}
                fill="none"
                stroke="var(--ink)"
                strokeWidth="2.5"
              />
              {Array.from({ length: n }, (_, i) => (
                <g key={`c${i + 1}`}>
                  <circle
                    cx={26 + (i * (BLOCK + 30 * Math.min(4, n) - 76)) / Math.max(1, n - 1)}
                    cy={cy}
                    r={9}
                    fill="none"
                    stroke="var(--soft)"
                    strokeWidth="2"
                  />
                  {b.bank === 1 && i === 0 && (
                    <text x={26} y={cy + 5} textAnchor="middle" fontSize="13" fontWeight="700" fill="var(--ink)">
                      1
                    </text>
                  )}
                </g>
              ))}
              <text x={8} y={cy + 36} fontSize="13" fill="var(--soft)">
                bank {b.bank}
              </text>
              <line
                x1={BLOCK + 30 * Math.min(4, n) - 30}
                x2={layout.shared ? 330 : 500}
                y1={cy}
                y2={cy}
                stroke="var(--ink)"
                strokeWidth="4"
              />
              {!layout.shared && <Catalyst x={280} y={cy} />}
              {b.sensors.map((s) => mark(s.sensor === 1 ? 228 : 390, cy, b.bank, s.sensor, s.wide))}
            </g>
          );
        })}
        {layout.shared && (
          <>
            <path
              d={`M330 ${y(1)} L360 ${(y(1) + y(2)) / 2} L330 ${y(2)}`}
              fill="none"
              stroke="var(--ink)"
              strokeWidth="4"
            />
            <line x1={360} x2={510} y1={(y(1) + y(2)) / 2} y2={(y(1) + y(2)) / 2} stroke="var(--ink)" strokeWidth="4" />
            <Catalyst x={372} y={(y(1) + y(2)) / 2} />
            {mark(470, (y(1) + y(2)) / 2, layout.shared.bank, layout.shared.sensor, layout.shared.wide)}
          </>
        )}
      </svg>
      <figcaption className="text-[0.93rem] text-soft">
        {layout.source}. Bank 1 is the side of cylinder 1. ● bank 1 · ◇ bank 2
        {meant.length > 0 ? ' · filled: meant by a code' : ''}.
      </figcaption>
    </figure>
  );
}

function Catalyst({ x, y }: { x: number; y: number }) {
  return (
    <g>
      <rect x={x} y={y - 14} width={66} height={28} rx={10} fill="var(--bench)" stroke="var(--ink)" strokeWidth="2.5" />
      <text x={x + 33} y={y + 5} textAnchor="middle" fontSize="12" fill="var(--ink)">
        catalyst
      </text>
    </g>
  );
}
