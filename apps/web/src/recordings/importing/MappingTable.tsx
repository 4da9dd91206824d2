import { type Mapping, writtenUnits } from '@just-balance/core/recordingFiles';
import {
  columnFilteringFeature,
  createColumnHelper,
  createFilteredRowModel,
  createSortedRowModel,
  filterFn_equals,
  filterFn_includesString,
  type Header,
  rowSortingFeature,
  sortFn_alphanumeric,
  tableFeatures,
  useTable,
} from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { ArrowDown, ArrowUp, ArrowUpDown } from 'lucide-react';
import { useMemo, useRef, useState } from 'react';
import { ChannelPicker, MANY } from './ChannelPicker.tsx';
import { CHANNEL_CHOICES } from './channels.ts';
import { columnLines, keyOf, type Line, nameLines } from './mappingLines.ts';

const LABELS = new Map(CHANNEL_CHOICES.flatMap((g) => g.choices.map((c) => [c.id as string, c.label])));

const features = tableFeatures({
  rowSortingFeature,
  columnFilteringFeature,
  sortedRowModel: createSortedRowModel(),
  filteredRowModel: createFilteredRowModel(),
  sortFns: { alphanumeric: sortFn_alphanumeric },
  filterFns: { includesString: filterFn_includesString, equals: filterFn_equals },
});

const helper = createColumnHelper<typeof features, Line>();

const columns = helper.columns([
  helper.accessor('name', { header: 'Column', sortFn: 'alphanumeric', filterFn: 'includesString' }),
  helper.accessor((l) => l.samples.join(' '), { id: 'samples', header: 'First values', enableSorting: false }),
  helper.accessor((l) => LABELS.get(keyOf(l.role)) ?? l.name, {
    id: 'readAs',
    header: 'Read as',
    sortFn: 'alphanumeric',
  }),
  helper.accessor((l) => (l.role.kind === 'ignore' ? 'left out' : 'read'), {
    id: 'whether',
    header: 'Written in',
    enableSorting: false,
    filterFn: 'equals',
  }),
]);

/** Estimated height of a line, px; measured once it is drawn. */
const LINE = 62;

/**
 * What each column is taken for, with what stands in it; every line can be corrected. Only the lines in sight are drawn:
 * ten thousand columns are as quick as ten.
 */
export function MappingTable({
  mapping,
  rows,
  change,
}: {
  mapping: Mapping;
  rows: string[][];
  change: (m: Mapping) => void;
}) {
  const scroll = useRef<HTMLDivElement>(null);
  const lines = useMemo(
    () => [
      ...columnLines(mapping, rows, change),
      ...(mapping.layout === 'long' ? nameLines(mapping, rows, change) : []),
    ],
    [mapping, rows, change],
  );
  const table = useTable({ features, columns, data: lines, getRowId: (l) => l.key });
  const shown = table.getRowModel().rows;
  const drawn = useVirtualizer({
    count: shown.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => LINE,
    getItemKey: (i) => shown[i]!.id,
    overscan: 6,
  });
  const [asked, setAsked] = useState<string | null>(null);
  const asking = lines.find((l) => l.key === asked);
  const items = drawn.getVirtualItems();
  const above = items[0]?.start ?? 0;
  const below = drawn.getTotalSize() - (items.at(-1)?.end ?? 0);
  return (
    <>
      {lines.length >= MANY && (
        <div className="flex flex-wrap items-end gap-3 py-3">
          <label className="field min-w-52 flex-1">
            Find a column
            <input
              className="input"
              type="search"
              onChange={(e) => table.getColumn('name')!.setFilterValue(e.target.value)}
            />
          </label>
          <label className="field w-44">
            Show
            <select
              className="select"
              onChange={(e) => table.getColumn('whether')!.setFilterValue(e.target.value || undefined)}
            >
              <option value="">all {lines.length.toLocaleString('en-US')}</option>
              <option value="read">what is read</option>
              <option value="left out">what is left out</option>
            </select>
          </label>
          <p role="status" className="m-0 min-h-12 content-center text-soft">
            {shown.length < lines.length ? `${shown.length.toLocaleString('en-US')} of them` : ''}
          </p>
        </div>
      )}
      <div
        ref={scroll}
        className="max-h-[60vh] overflow-auto"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a box that scrolls has to be reached by keyboard
        tabIndex={0}
        role="region"
        aria-label="Columns of the file"
      >
        <table className="table" aria-rowcount={shown.length + 1}>
          <caption className="sr-only">Columns of the file and what they are read as</caption>
          <thead>
            <tr>
              {table.getHeaderGroups()[0]!.headers.map((h) => (
                <Head key={h.id} header={h} />
              ))}
            </tr>
          </thead>
          <tbody>
            {above > 0 && (
              <tr aria-hidden style={{ height: above }}>
                <td colSpan={4} />
              </tr>
            )}
            {items.map((i) => (
              <MappingLine
                key={i.key}
                line={shown[i.index]!.original}
                index={i.index}
                measure={drawn.measureElement}
                ask={() => setAsked(shown[i.index]!.original.key)}
              />
            ))}
            {below > 0 && (
              <tr aria-hidden style={{ height: below }}>
                <td colSpan={4} />
              </tr>
            )}
          </tbody>
        </table>
      </div>
      {asking && <ChannelPicker line={asking} close={() => setAsked(null)} />}
    </>
  );
}

/** A heading; pressed, its column is the order: up, down, as in the file. */
function Head({ header }: { header: Header<typeof features, Line, unknown> }) {
  const name = String(header.column.columnDef.header);
  if (!header.column.getCanSort()) return <th scope="col">{name}</th>;
  const sorted = header.column.getIsSorted();
  const Icon = sorted === 'asc' ? ArrowUp : sorted === 'desc' ? ArrowDown : ArrowUpDown;
  return (
    <th scope="col" aria-sort={sorted === 'asc' ? 'ascending' : sorted === 'desc' ? 'descending' : 'none'}>
      <button
        type="button"
        className="btn btn-ghost -mx-3 px-3 text-[0.87rem] text-inherit"
        onClick={header.column.getToggleSortingHandler()}
      >
        {name} <Icon size={16} aria-hidden />
      </button>
    </th>
  );
}

function MappingLine({
  line: { name, role, samples, twin, set },
  index,
  measure,
  ask,
}: {
  line: Line;
  index: number;
  measure: (el: HTMLTableRowElement | null) => void;
  ask: () => void;
}) {
  const units = role.kind === 'channel' ? writtenUnits(role.unit) : [];
  const label = LABELS.get(keyOf(role)) ?? name;
  return (
    <tr ref={measure} data-index={index} aria-rowindex={index + 2}>
      <td className="max-w-56 font-[650] break-words">{name}</td>
      <td className="figure max-w-64 truncate text-[0.9rem] text-soft">
        {samples.map((s) => s.slice(0, 24) || '–').join(' · ')}
      </td>
      <td>
        <button
          type="button"
          aria-label={`${name} read as ${label}`}
          className={`btn h-auto min-h-12 w-full justify-between text-left ${role.kind === 'ignore' ? 'font-normal text-soft' : ''}`}
          onClick={ask}
        >
          {label}
        </button>
        {role.kind === 'ignore' && role.why && <span className="text-[0.9rem] text-soft">{role.why}</span>}
        {twin !== null && <span className="text-[0.9rem] font-[550] text-caution">left out: the same as “{twin}”</span>}
      </td>
      <td>
        {role.kind === 'channel' && units.length > 1 ? (
          <span className="field">
            <select
              className="select"
              aria-label={`${name} written in`}
              value={role.from}
              onChange={(e) => set({ ...role, from: e.target.value })}
            >
              {units.map((u) => (
                <option key={u}>{u}</option>
              ))}
            </select>
          </span>
        ) : (
          <span className="figure text-soft">{role.kind === 'channel' ? role.unit : ''}</span>
        )}
      </td>
    </tr>
  );
}
