import { type LearnedView } from '@just-balance/contract';
import { type Share } from '@just-balance/core/shop';
import { counted } from '@just-balance/core/units';
import { type ReactNode } from 'react';
import { Link } from 'react-router';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { Table } from '../../ui/Table.tsx';

const MOST_IDS = 150;

export const pct = (v: number) => `${(100 * v).toFixed(v < 0.1 ? 1 : 0)} %`;

export const between = (s: Share) => `${pct(s.low)} to ${pct(s.high)}`;

/** The jobs behind a figure, in the logbook. */
export function JobsBehind({ jobs, children }: { jobs: readonly string[]; children?: ReactNode }) {
  if (jobs.length === 0) return null;
  return (
    <Link className="underline" to={`/logbook?ids=${jobs.slice(-MOST_IDS).join(',')}`}>
      {children ?? counted(jobs.length, 'job')}
    </Link>
  );
}

export type L = LearnedView['learned'];

export function Rows({ label, head, rows }: { label: string; head: string[]; rows: ReactNode[][] }) {
  return (
    <Scrolls label={label}>
      <Table
        className="[&_td]:px-2 [&_th]:px-2"
        rows={rows}
        keyOf={(_, i) => i}
        columns={head.map((h, i) => ({
          head: h,
          cellClass: i === 0 ? '' : 'whitespace-nowrap',
          cell: (r: ReactNode[]) => r[i],
        }))}
      />
    </Scrolls>
  );
}
