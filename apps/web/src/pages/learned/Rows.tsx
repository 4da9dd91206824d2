import { type LearnedView } from '@just-balance/contract';
import { type Share } from '@just-balance/core/shop';
import { counted } from '@just-balance/core/units';
import { type ReactNode } from 'react';
import { Link } from 'react-router';
import { Scrolls } from '../../ui/Scrolls.tsx';

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
      <table className="table [&_td]:px-2 [&_th]:px-2">
        <thead>
          <tr>
            {head.map((h, i) => (
              <th key={i} scope="col">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((r, i) => (
            <tr key={i}>
              {r.map((c, k) => (
                <td key={k} className={k === 0 ? '' : 'whitespace-nowrap'}>
                  {c}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </Scrolls>
  );
}
