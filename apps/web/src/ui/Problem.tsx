import { TriangleAlert } from 'lucide-react';
import type { Trouble } from './useAction.ts';

/** An error, said where it happened; a conflict with both versions beside each other. */
export function Problem({ text, trouble }: { text?: string | null; trouble?: Trouble | null }) {
  const message = text ?? trouble?.message;
  if (!message) return null;
  const more = trouble && trouble.errors.length > 1 ? trouble.errors : [];
  return (
    <div role="alert" className="alert alert-warning m-0 flex items-start gap-2 px-4 py-3 font-[550]">
      <TriangleAlert aria-hidden size={20} className="mt-[1px] shrink-0" />
      <div className="grid min-w-0 gap-2">
        {more.length > 0 ? (
          <ul className="m-0 list-none p-0">
            {more.map((e) => (
              <li key={`${e.field}${e.message}`}>
                {e.field}: {e.message}
              </li>
            ))}
          </ul>
        ) : (
          message
        )}
        {trouble?.conflict && <BothVersions {...trouble.conflict} />}
      </div>
    </div>
  );
}

/** What differs between what was to be written and what stands now. */
function BothVersions({ mine, theirs }: { mine: object; theirs: object }) {
  const other = theirs as Record<string, unknown>;
  const differing = Object.entries(mine).filter(
    ([k, v]) => k !== 'rev' && JSON.stringify(v) !== JSON.stringify(other[k]),
  );
  if (differing.length === 0) return null;
  return (
    <table className="table font-normal">
      <caption className="sr-only">Both versions</caption>
      <thead>
        <tr>
          <th scope="col">
            <span className="sr-only">Field</span>
          </th>
          <th scope="col">Yours, not stored</th>
          <th scope="col">Stored now</th>
        </tr>
      </thead>
      <tbody>
        {differing.map(([k, v]) => (
          <tr key={k}>
            <th scope="row">{k}</th>
            <td className="break-words">{inWords(v)}</td>
            <td className="break-words">{inWords(other[k])}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function inWords(v: unknown): string {
  if (v === undefined || v === null || v === '') return '—';
  if (typeof v !== 'object') return String(v);
  if (Array.isArray(v)) return v.length === 0 ? '—' : v.map(inWords).join(', ');
  return Object.entries(v)
    .map(([k, x]) => `${k}: ${inWords(x)}`)
    .join('; ');
}
