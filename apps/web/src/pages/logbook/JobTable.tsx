import type { LogbookRow } from '@just-balance/contract';
import { complaintLabel, pointLabel } from '@just-balance/core/case';
import { faultLabel } from '@just-balance/core/catalogue';
import { midSentence, signed } from '@just-balance/core/units';
import { createColumnHelper, flexRender, tableFeatures, useTable } from '@tanstack/react-table';
import { useWindowVirtualizer } from '@tanstack/react-virtual';
import { format } from 'date-fns';
import { useLayoutEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { standsOrParkedAt } from '../../job/frame/standsAt.ts';

const features = tableFeatures({});
const column = createColumnHelper<typeof features, LogbookRow>();
const COLUMNS = column.columns([
  column.accessor('openedAt', {
    header: 'Opened',
    cell: (c) => <span className="figure whitespace-nowrap">{format(new Date(c.getValue()), 'd MMM yyyy')}</span>,
  }),
  column.accessor('label', {
    header: 'Vehicle',
    cell: ({ row: { original: r } }) => (
      <>
        <Link to={`/jobs/${r.id}`} className="font-[650] sm:whitespace-nowrap">
          {r.label}
        </Link>
        <span className="block text-[0.9rem] text-soft">{[r.note, r.plate].filter(Boolean).join(' · ') || ' '}</span>
      </>
    ),
  }),
  column.accessor('symptom', {
    header: 'Complaint',
    cell: ({ row: { original: r } }) => (
      <>
        {r.symptom ? complaintLabel(r.symptom) : ''}
        <span className="figure block text-[0.9rem] whitespace-nowrap text-soft">
          {r.worst ? `${signed(r.worst.totalPct)} % at ${midSentence(pointLabel(r.worst.at))}` : ' '}
        </span>
      </>
    ),
  }),
  column.accessor('cause', {
    header: 'Cause',
    cell: ({ row: { original: r } }) => (
      <>
        {r.cause ? faultLabel(r.cause) : ''}
        <span className="block text-[0.9rem] text-soft">{r.verdict ?? (r.cause ? 'not proven' : ' ')}</span>
      </>
    ),
  }),
  column.accessor('codes', {
    header: 'Codes',
    cell: (c) => <span className="figure">{c.getValue().slice(0, 3).join(' ')}</span>,
  }),
  column.accessor('hands', {
    header: 'Who, and where it stands',
    cell: ({ row: { original: r } }) => (
      <>
        <span className="whitespace-nowrap">{r.hands ?? r.openedBy}</span>
        <span className="block text-[0.9rem] whitespace-nowrap text-soft">
          {standsOrParkedAt(r.status, r.standing.station)}
        </span>
      </>
    ),
  }),
]);
const ROW = 62;
/** Those that a narrow screen leaves out. */
const WIDE_ONLY = new Set(['symptom', 'codes', 'hands']);
const wide = (id: string) => (WIDE_ONLY.has(id) ? 'max-lg:hidden' : '');

/** Rows of the logbook; only those that can be seen are in the page. `more` is asked for before the end is reached. */
export function JobTable({ rows, total, more }: { rows: LogbookRow[]; total: number; more: (() => void) | null }) {
  const body = useRef<HTMLTableElement>(null);
  const [top, setTop] = useState(0);
  useLayoutEffect(() => setTop(body.current?.offsetTop ?? 0), []);
  const table = useTable({ features, columns: COLUMNS, data: rows, getRowId: (r) => r.id });
  const all = table.getRowModel().rows;
  const virtual = useWindowVirtualizer({
    count: all.length,
    estimateSize: () => ROW,
    overscan: 8,
    scrollMargin: top,
    getItemKey: (i) => all[i]!.id,
  });
  const items = virtual.getVirtualItems();
  const last = items.at(-1)?.index ?? 0;
  useLayoutEffect(() => {
    if (more && last >= all.length - 10) more();
  }, [more, last, all.length]);
  const above = (items[0]?.start ?? top) - top;
  const below = virtual.getTotalSize() - ((items.at(-1)?.end ?? top) - top);
  return (
    <div className="card p-2">
      <table ref={body} className="table" aria-label="Jobs" aria-rowcount={total}>
        <thead>
          {table.getHeaderGroups().map((g) => (
            <tr key={g.id}>
              {g.headers.map((h) => (
                <th key={h.id} scope="col" className={wide(h.column.id)}>
                  {flexRender(h.column.columnDef.header, h.getContext())}
                </th>
              ))}
            </tr>
          ))}
        </thead>
        <tbody>
          {above > 0 && (
            <tr aria-hidden>
              <td colSpan={COLUMNS.length} style={{ height: above, padding: 0 }} />
            </tr>
          )}
          {items.map((v) => {
            const row = all[v.index]!;
            return (
              <tr key={row.id} aria-rowindex={v.index + 1} data-index={v.index} ref={virtual.measureElement}>
                {row.getAllCells().map((c) => (
                  <td key={c.id} className={`align-top ${wide(c.column.id)}`}>
                    {flexRender(c.column.columnDef.cell, c.getContext())}
                  </td>
                ))}
              </tr>
            );
          })}
          {below > 0 && (
            <tr aria-hidden>
              <td colSpan={COLUMNS.length} style={{ height: below, padding: 0 }} />
            </tr>
          )}
        </tbody>
      </table>
    </div>
  );
}
