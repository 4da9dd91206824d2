import type { RecordView } from '@just-balance/contract';
import type { MonitorId } from '@just-balance/core/obd';
import { type MonitorRow, marginWords, monitorPicture } from '@just-balance/core/readiness';
import { format } from 'date-fns';
import { Fold } from '../../ui/Fold.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { Table } from '../../ui/Table.tsx';

const STATE: Readonly<Record<MonitorRow['state'], { text: string; tag: string }>> = {
  complete: { text: '✓ complete', tag: 'badge-success' },
  incomplete: { text: '○ open', tag: 'badge-warning' },
  unsupported: { text: 'not fitted', tag: 'badge-outline border-dashed' },
};
const THIS_DRIVE = { ran: 'ran', 'not-yet': 'not yet', off: 'switched off for this drive' } as const;

/** Every monitor in one picture: fitted, complete, run in this drive, by how much it passed, since when. */
export function MonitorTable({ record, proves }: { record: RecordView; proves: readonly MonitorId[] }) {
  const rows = monitorPicture(record.monitors!, record.cycle, record.tests, proves);
  const fitted = rows.filter((r) => r.state !== 'unsupported');
  const missing = rows.filter((r) => r.state === 'unsupported');
  const others = record.tests.filter((t) => !rows.some((r) => r.margins.some((m) => m.label === t.label)));
  return (
    <Scrolls label="Monitors">
      <h2 className="card-title">Monitors, read {format(new Date(record.at), 'd MMM, HH:mm')}</h2>
      <Table
        rows={fitted}
        keyOf={(r) => r.id}
        rowClass={(r) => (r.proves ? 'bg-base-200' : '')}
        columns={[
          {
            head: 'Monitor',
            names: true,
            cell: (r) => (
              <>
                {r.name}
                {r.proves && (
                  <span className="badge badge-outline ml-2 align-middle">
                    {r.continuous ? 'watches this repair' : 'proves this repair'}
                  </span>
                )}
                <span className="block text-[0.87rem] font-normal text-soft">{r.note}</span>
              </>
            ),
          },
          {
            head: 'Since clearing',
            cell: (r) => (
              <span className={`badge ${r.continuous ? 'badge-outline' : STATE[r.state].tag}`}>
                {STATE[r.state].text}
              </span>
            ),
          },
          {
            head: 'This drive',
            cellClass: 'text-soft',
            cell: (r) => (r.thisDrive === null ? '—' : THIS_DRIVE[r.thisDrive]),
          },
          { head: 'By how much it passed', cell: (r) => <Spare row={r} /> },
        ]}
      />
      {missing.length > 0 && (
        <p className="m-0 p-2 text-[0.93rem] text-soft">Not on this car: {missing.map((r) => r.name).join(', ')}.</p>
      )}
      {others.length > 0 && (
        <Fold title={`Other on-board results, ${others.length}`} className="px-2">
          <ul className="m-0 pl-5 text-[0.93rem]">
            {others.map((t) => (
              <li key={t.label}>
                {t.label}: <span className="figure">{figure(t.value, t.unit)}</span>, {marginWords(t)}
              </li>
            ))}
          </ul>
        </Fold>
      )}
    </Scrolls>
  );
}

const figure = (v: number, unit: string) => `${Number(v.toPrecision(3))}${unit ? ` ${unit}` : ''}`;

/** The room to the nearest limit as a bar, and in words; the single results behind it. */
function Spare({ row }: { row: MonitorRow }) {
  if (row.margins.length === 0) return <span className="text-soft">—</span>;
  const tightest = row.margins.reduce((a, b) => ((b.sparePct ?? 1e9) < (a.sparePct ?? 1e9) ? b : a));
  const words = marginWords(tightest);
  return (
    <div className="grid min-w-44 gap-1">
      <span className={tightest.passed ? '' : 'font-[650] text-caution'}>{words}</span>
      {tightest.sparePct !== null && (
        <span aria-hidden className="block h-2.5 w-full overflow-hidden rounded border border-rule">
          <span
            className={`block h-full ${tightest.passed ? 'bg-act' : 'bg-caution'}`}
            style={{ width: `${Math.min(100, Math.max(4, Math.abs(tightest.sparePct)))}%` }}
          />
        </span>
      )}
      <span className="text-[0.87rem] text-soft">
        {row.margins.length === 1
          ? figure(tightest.value, tightest.unit)
          : `${row.margins.length} results, the tightest ${figure(tightest.value, tightest.unit)}`}
      </span>
    </div>
  );
}
