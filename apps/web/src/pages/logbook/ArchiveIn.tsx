import type { ArchiveTaken } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { counted } from '@just-balance/core/units';
import { Download, Upload } from 'lucide-react';
import { useRef, useState } from 'react';
import { Link } from 'react-router';
import { api } from '../../data/api.ts';
import { useMay } from '../../data/session.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';
import { jobArchives } from './jobArchives.ts';

/** How many rows of what was read are shown. [house] */
const SHOWN = 12;

/** Jobs from archives, one after the other, and for a lead the whole shop as one file. */
export function ArchiveIn({ from, to }: { from: string | null; to: string | null }) {
  const may = useMay('judge');
  const lead = useMay('lead');
  const [done, setDone] = useState<{ name: string; taken: ArchiveTaken }[]>([]);
  const [left, setLeft] = useState(0);
  const stop = useRef(false);
  const { busy, trouble, run } = useAction();
  if (!may) return null;
  const read = (files: File[]) =>
    run(async () => {
      stop.current = false;
      const jobs = (await Promise.all(files.map(jobArchives))).flat();
      for (const [i, { name, bytes }] of jobs.entries()) {
        if (stop.current) break;
        setLeft(jobs.length - i);
        try {
          const taken = await api.upload(WRITES.archiveIn, await bytes(), 'application/zip');
          setDone((now) => [...now, { name, taken }]);
        } catch (e) {
          throw new Error(`${name}: ${(e as Error).message}`);
        }
      }
      setLeft(0);
    });
  const days = new URLSearchParams(
    [
      ['from', from ?? ''],
      ['to', to ?? ''],
    ].filter(([, v]) => v) as string[][],
  ).toString();
  const taken = done.filter((d) => d.taken.taken).length;
  return (
    <section className="card grid gap-3 p-4">
      <div className="flex flex-wrap items-center gap-x-6 gap-y-3">
        <h2 className="card-title">Archives</h2>
        <label className="btn cursor-pointer">
          <Upload size={18} aria-hidden /> Read from archives
          <input
            type="file"
            className="sr-only"
            accept=".zip,application/zip"
            multiple
            disabled={busy}
            onChange={(e) => {
              const files = [...(e.target.files ?? [])];
              e.target.value = '';
              setDone([]);
              void read(files);
            }}
          />
        </label>
        {lead && (
          <a className="btn" href={`/api/archives${days ? `?${days}` : ''}`} download="shop.jb.zip">
            <Download size={18} aria-hidden /> {days ? 'The jobs of these days' : 'The whole shop'} as one file
          </a>
        )}
        {busy && left > 0 && (
          <>
            <span role="status">{left} to go…</span>
            <button
              type="button"
              className="btn"
              onClick={() => {
                stop.current = true;
              }}
            >
              Stop after this one
            </button>
          </>
        )}
      </div>
      <p className="m-0 text-soft">
        Of one job, or of a whole shop: each job is checked before any of it is written; the same again changes nothing.
      </p>
      {done.length > 1 && (
        <p className="m-0" role="status">
          {counted(done.length, 'job')} read: {taken} taken in, {done.length - taken} here already.
        </p>
      )}
      <ul className="m-0 list-none p-0" aria-live="polite">
        {done.slice(-SHOWN).map(({ name, taken }) => (
          <li key={name}>
            {name}:{' '}
            {taken.taken
              ? 'taken in. '
              : taken.differs.length === 0
                ? 'here already, the same. '
                : 'here already, and has changed since; left as it is. '}
            <Link to={`/jobs/${taken.job}`}>Open it</Link>
          </li>
        ))}
      </ul>
      <Problem trouble={trouble} />
    </section>
  );
}
