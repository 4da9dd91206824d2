import type { ReactNode } from 'react';

export interface Column<R> {
  head: ReactNode;
  /** The heading is for a screen reader only: what stands under it says itself what it is. */
  unseen?: boolean;
  /** A figure: at the right, in the figures' face. */
  figure?: boolean;
  /** It names its row, for a screen reader too. */
  names?: boolean;
  /** Of the heading and of the cells. */
  className?: string;
  /** Of the cells only. */
  cellClass?: string;
  cell: (row: R, index: number) => ReactNode;
}

/** A table of rows that are alike. What is virtual, sorted or a grid of two axes draws itself. */
export function Table<R>({
  columns,
  rows,
  keyOf,
  rowClass,
  caption,
  empty,
  className = '',
  live,
}: {
  columns: readonly Column<R>[];
  rows: readonly R[];
  keyOf: (row: R, index: number) => string | number;
  rowClass?: (row: R) => string;
  /** For a screen reader: what the sheet's heading does not say. */
  caption?: string;
  /** What stands where there is no row. */
  empty?: string;
  className?: string;
  /** Its changes are read aloud. */
  live?: boolean;
}) {
  const classes = (...names: (string | false | undefined)[]) => names.filter(Boolean).join(' ') || undefined;
  return (
    <table className={`table ${className}`} aria-live={live ? 'polite' : undefined}>
      {caption && <caption className="sr-only">{caption}</caption>}
      <thead>
        <tr>
          {columns.map((c, i) => (
            <th key={i} scope="col" className={classes(c.figure && 'right', c.className)}>
              {c.unseen ? <span className="sr-only">{c.head}</span> : c.head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((r, n) => (
          <tr key={keyOf(r, n)} className={rowClass?.(r) || undefined}>
            {columns.map((c, i) => {
              const name = classes(c.figure && 'right figure', c.className, c.cellClass);
              return c.names ? (
                <th key={i} scope="row" className={name}>
                  {c.cell(r, n)}
                </th>
              ) : (
                <td key={i} className={name}>
                  {c.cell(r, n)}
                </td>
              );
            })}
          </tr>
        ))}
        {rows.length === 0 && empty && (
          <tr>
            <td colSpan={columns.length}>{empty}</td>
          </tr>
        )}
      </tbody>
    </table>
  );
}
