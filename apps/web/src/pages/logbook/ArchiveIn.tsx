import type { ArchiveTaken } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { counted } from '@just-balance/core/units';
import { Download, Upload } from 'lucide-react';
import { useRef, useState } from 'react';
import { Link } from 'react-router';
import { ApiFailure, api } from '../../data/api.ts';
import { useMay } from '../../data/session.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { StopBar } from '../../ui/StopBar.tsx';
import { useAction } from '../../ui/useAction.ts';
import { jobArchives } from './jobArchives.ts';
import { ShopLook } from './ShopLook.tsx';
import type { JobArchive, ShopFile } from './shopFile.ts';

/** How many rows of what was read are shown. [house] */
const SHOWN = 12;
/** Of one that comes too soon after the others; the server counts by the minute. [house] */
const TRIES = 10;
const PAUSE_MS = 7000;

/** Once more a while after the server said that it was asked too often. */
async function patiently<T>(ask: () => Promise<T>): Promise<T> {
  for (let tries = 1; ; tries++) {
    try {
      return await ask();
    } catch (e) {
      if (!(e instanceof ApiFailure) || e.status !== 429 || tries === TRIES) throw e;
      await new Promise((done) => setTimeout(done, PAUSE_MS));
    }
  }
}

/** Jobs from archives, one after the other, and for a lead the whole shop as one file. */
export function ArchiveIn({ from, to }: { from: string | null; to: string | null }) {
  const may = useMay('judge');
  const lead = useMay('lead');
  const [done, setDone] = useState<{ name: string; taken: ArchiveTaken }[]>([]);
  const [refused, setRefused] = useState<readonly string[]>([]);
  const [at, setAt] = useState<{ done: number; of: number } | null>(null);
  const [shop, setShop] = useState<ShopFile | null>(null);
  const stop = useRef(false);
  const { busy, trouble, run } = useAction();
  if (!may) return null;
  const readJobs = async (jobs: readonly JobArchive[]) => {
    stop.current = false;
    for (const [i, { name, bytes }] of jobs.entries()) {
      if (stop.current) break;
      setAt({ done: i, of: jobs.length });
      try {
        const taken = await patiently(async () => api.upload(WRITES.archiveIn, await bytes(), 'application/zip'));
        setDone((now) => [...now, { name, taken }]);
      } catch (e) {
        // What is wrong with one holds up none behind it; without the server, or signed out, none is read.
        if (!(e instanceof ApiFailure) || e.status === 0 || e.status === 401) {
          setAt(null);
          throw new Error(`${name}: ${(e as Error).message}`);
        }
        setRefused((now) => [...now, `${name}: ${e.message}`]);
      }
    }
    setAt(null);
  };
  const read = (files: File[]) =>
    run(async () => {
      const opened = await Promise.all(files.map(jobArchives));
      const shops = opened.flatMap((o) => o.shop ?? []);
      if (shops.length > 1) throw new Error('More than one whole shop: one after the other, please.');
      setShop(shops[0] ?? null);
      await readJobs(opened.flatMap((o) => o.jobs));
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
              setRefused([]);
              void read(files);
            }}
          />
        </label>
        {lead && (
          <a className="btn" href={`/api/archives${days ? `?${days}` : ''}`} download="shop.jb.zip">
            <Download size={18} aria-hidden /> {days ? 'The jobs of these days' : 'The whole shop'} as one file
          </a>
        )}
        {at && (
          <StopBar
            label="Reading jobs in"
            at={at}
            stop={() => {
              stop.current = true;
            }}
          />
        )}
      </div>
      <p className="m-0 text-soft">
        Of one job, or of a whole shop, which says first what it would change. Each job is checked before any of it is
        written; the same again changes nothing.
      </p>
      {shop && <ShopLook key={shop.name} file={shop} jobs={() => readJobs(shop.jobs)} close={() => setShop(null)} />}
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
      {refused.length > SHOWN && <p className="m-0">Not taken in: {refused.length}. The last of them:</p>}
      {refused.slice(-SHOWN).map((text) => (
        <Problem key={text} text={text} />
      ))}
      <Problem trouble={trouble} />
    </section>
  );
}
