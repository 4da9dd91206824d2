import type { JobView } from '@just-balance/contract';
import type { Block, DocumentSection, HandOverDocument } from '@just-balance/core/handOver';
import { format } from 'date-fns';
import { Pencil } from 'lucide-react';
import { type MouseEvent, useState } from 'react';
import { TrimChart } from '../../charts/TrimChart.tsx';
import { JobPhoto } from '../../photos/JobPhoto.tsx';
import { Plate } from '../../ui/Plate.tsx';
import { TwoWordings, Words } from './Words.tsx';

/** One of the two documents as it will be printed, its words open to change section by section. */
export function Paper({ job, document, mayEdit }: { job: JobView; document: HandOverDocument; mayEdit: boolean }) {
  const [editing, setEditing] = useState<string | null>(null);
  const customer = document.id === 'customer';
  const [shop, ...letterhead] = document.letterhead;
  return (
    <article className="grid gap-4" aria-label={document.title}>
      <header className="grid gap-3">
        <div className="flex flex-wrap items-baseline justify-between gap-x-6 border-b-2 border-ink pb-2">
          <span className="text-[1.35rem] font-bold">{shop}</span>
          <span className="grid text-right text-[0.93rem] text-soft max-sm:text-left">
            {letterhead.map((line) => (
              <span key={line}>{line}</span>
            ))}
          </span>
        </div>
        <div className="flex items-center gap-x-4 gap-y-1 max-sm:flex-wrap">
          <Plate of={document.plate} className="text-[1.1rem]" />
          <div className="min-w-0">
            <h2 className="m-0 text-[1.35rem] leading-tight font-bold">{document.title}</h2>
            <p className="m-0 text-soft">{document.about.slice(1).join(' · ')}</p>
          </div>
        </div>
      </header>
      <div className={customer ? 'gap-x-10 lg:columns-2' : 'grid gap-4'}>
        {document.sections.map((s) => (
          <section
            key={s.id}
            aria-label={s.heading}
            className={`grid gap-1 ${customer ? 'mb-4 break-inside-avoid' : ''}`}
          >
            <div className="flex items-center gap-x-3 max-sm:flex-wrap">
              <h3 className="m-0 text-[1rem] font-bold text-act">{s.heading}</h3>
              {s.edited && (
                <span className={`badge no-print ${s.edited.stale ? 'badge-warning' : 'badge-outline'}`}>
                  {s.edited.stale ? 'facts have changed since it was worded' : 'own words'} ({s.edited.by},{' '}
                  {format(new Date(s.edited.at), 'd MMM')})
                </span>
              )}
              {mayEdit && editing !== s.id && hasWords(s) && (
                <button
                  type="button"
                  className="btn btn-ghost btn-sm min-h-11 px-2 no-print"
                  aria-label={`Change the words: ${s.heading}`}
                  onClick={() => setEditing(s.id)}
                >
                  <Pencil size={16} aria-hidden />
                </button>
              )}
            </div>
            {mayEdit && s.others.length > 0 && <TwoWordings job={job} document={document.id} section={s} />}
            {editing === s.id ? (
              <Words job={job} document={document.id} section={s} done={() => setEditing(null)} />
            ) : (
              // The pencil beside the heading does the same by keyboard.
              // biome-ignore lint/a11y/noStaticElementInteractions: a larger place for the same press
              // biome-ignore lint/a11y/useKeyWithClickEvents: the pencil has it
              <div
                className={`grid gap-1.5 ${mayEdit && hasWords(s) ? '-mx-2 cursor-text rounded-lg px-2 hover:bg-bench' : ''}`}
                onClick={mayEdit && hasWords(s) ? (e) => typesHere(e) && setEditing(s.id) : undefined}
              >
                {s.blocks.map((b, i) => (
                  <BlockOf key={`${s.id} ${i}`} block={b} job={job} />
                ))}
              </div>
            )}
          </section>
        ))}
      </div>
    </article>
  );
}

/** Whether words were pressed: no picture, no link, and not to take a copy of them. */
const typesHere = (e: MouseEvent) =>
  (e.target as HTMLElement).closest('p, li') !== null &&
  (e.target as HTMLElement).closest('a, button, figure') === null &&
  window.getSelection()?.isCollapsed !== false;

const hasWords = (s: DocumentSection) => s.blocks.some((b) => b.kind === 'text' || b.kind === 'list');

function BlockOf({ block, job }: { block: Block; job: JobView }) {
  if (block.kind === 'text') return <p className="m-0 max-w-[76ch]">{block.text}</p>;
  if (block.kind === 'list')
    return (
      <ul className="m-0 max-w-[76ch] list-disc pl-5">
        {block.items.map((i) => (
          <li key={i}>{i}</li>
        ))}
      </ul>
    );
  if (block.kind === 'trimChart')
    return (
      <div className="max-w-[640px]">
        <TrimChart
          caption={block.caption}
          banks={block.banks}
          limits={block}
          rows={block.rows.map((r, i) => {
            const marks = (list: typeof r.before) => list.map((m) => ({ ...m, sdPct: 0 }));
            return {
              at: r.label,
              label: r.label,
              airflowGps: i,
              airflow: 'none' as const,
              marks: marks(r.after),
              before: marks(r.before),
            };
          })}
        />
        <p className="m-0 text-[0.93rem] text-soft">Grey before, solid after; inside the band is usual.</p>
      </div>
    );
  if (block.kind === 'photos')
    return (
      <ul className="m-0 flex list-none flex-wrap gap-3 p-0">
        {block.photos.map((p) => (
          <li key={p.id} className="w-[150px]">
            <JobPhoto jobId={job.id} photo={p} small className="h-[110px] w-full rounded object-cover" />
            <span className="text-[0.93rem]">{p.label}</span>
          </li>
        ))}
      </ul>
    );
  const headed = block.head.some((h) => h !== '');
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard
    <section className="overflow-x-auto" aria-label={`${block.caption}, table`} tabIndex={0}>
      <table className="table [&_td]:px-2 [&_th]:px-2">
        {headed && (
          <thead>
            <tr>
              {block.head.map((h, c) => (
                <th key={h} scope="col" className={block.right.includes(c) ? 'right' : ''}>
                  {h}
                </th>
              ))}
            </tr>
          </thead>
        )}
        <tbody>
          {block.rows.map((row, r) => (
            <tr key={`${r} ${row[0]}`}>
              {row.map((text, c) =>
                !headed && c === 0 ? (
                  <th key={block.head[c]} scope="row" className="align-top">
                    {text}
                  </th>
                ) : (
                  <td key={c} className={`align-top ${block.right.includes(c) ? 'figure right' : ''}`}>
                    {text}
                  </td>
                ),
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
