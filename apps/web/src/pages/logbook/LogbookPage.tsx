import { type LogbookFilter, type LogbookRow, ROUTES, type SavedViewView, WRITES } from '@just-balance/contract';
import { counted } from '@just-balance/core/units';
import { Download } from 'lucide-react';
import { useCallback, useDeferredValue, useEffect, useMemo, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import useSWRInfinite from 'swr/infinite';
import { api, newId } from '../../data/api.ts';
import { type Page, readPage } from '../../data/pages.ts';
import { useRead } from '../../data/reads.ts';
import { useAccount } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { withMoments } from '../../ui/days.ts';
import { FromTo } from '../../ui/FromTo.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';
import { ArchiveIn } from './ArchiveIn.tsx';
import { Filters } from './Filters.tsx';
import { JobTable } from './JobTable.tsx';

const PAGE = 60;

/** Every job there ever was: found by words, narrowed by what it has, in the order it was opened. */
export function LogbookPage() {
  const account = useAccount();
  const [asked, setAsked] = useSearchParams();
  const [words, setWords] = useState(asked.get('q') ?? '');
  const query = useDeferredValue(withMoments(asked));
  const { data, error, size, setSize, isValidating } = useSWRInfinite<Page<LogbookRow>>(
    (i, before: Page<LogbookRow> | null) =>
      i === 0 ? ROUTES.logbook(`${query}${query ? '&' : ''}limit=${PAGE}`) : (before?.next ?? null),
    readPage,
    { keepPreviousData: true, revalidateFirstPage: false, revalidateOnFocus: false },
  );
  const { data: counts } = useRead(ROUTES.logbookCounts(query), { keepPreviousData: true });
  const rows = useMemo(() => data?.flatMap((p) => p.rows) ?? [], [data]);
  const next = data?.at(-1)?.next ?? null;
  const more = useCallback(() => void setSize((n) => n + 1), [setSize]);
  const change = useCallback(
    (key: string, value: string | null) =>
      setAsked(
        (now) => {
          const to = new URLSearchParams(now);
          if (value) to.set(key, value);
          else to.delete(key);
          return to;
        },
        { replace: true },
      ),
    [setAsked],
  );
  // What is typed is asked for once the hand rests.
  useEffect(() => {
    if (words === (asked.get('q') ?? '')) return;
    const timer = setTimeout(() => change('q', words), 250);
    return () => clearTimeout(timer);
  }, [words, asked, change]);
  const vehicle = asked.get('vehicle');
  return (
    <Frame title={account.shop.name} subtitle="every job there ever was" side={<HouseNav current="logbook" />}>
      <NextStep
        title={
          counts
            ? `${counted(counts.total, 'job')}${counts.more ? ' and more' : ''}${query ? ' match' : ' in the logbook'}`
            : 'Looking…'
        }
        why="A plate, a VIN, a code, a name, a part, a word of the complaint: all of them must stand in the job."
      >
        {vehicle && (
          <Link className="btn btn-lg" to={`/vehicles/${vehicle}`}>
            This vehicle’s history
          </Link>
        )}
        <a className="btn btn-lg" href={`/api/logbook/csv?${query}`} download="logbook.csv">
          <Download size={19} aria-hidden /> CSV
        </a>
      </NextStep>
      {error && <NextStep tone="trouble" title="The logbook could not be read" why={String(error.message)} />}
      <div className="card flex flex-row flex-wrap items-end gap-3 p-3">
        <label className="grid min-w-[240px] flex-1 gap-1">
          <span className="text-[0.93rem] font-[550]">Search</span>
          <input
            className="input w-full"
            type="search"
            value={words}
            maxLength={200}
            onChange={(e) => setWords(e.target.value)}
          />
        </label>
        <FromTo from="Opened from" value={(key) => asked.get(key)} change={change} />
        <label className="grid w-44 gap-1">
          <span className="text-[0.93rem] font-[550]">Order</span>
          <select
            className="select"
            value={asked.get('order') ?? 'newest'}
            onChange={(e) => change('order', e.target.value === 'newest' ? null : e.target.value)}
          >
            <option value="newest">newest first</option>
            <option value="oldest">oldest first</option>
          </select>
        </label>
        <Views query={query} show={(q) => setAsked(new URLSearchParams(q))} />
      </div>
      <div className="grid items-start gap-3 lg:grid-cols-[250px_minmax(0,1fr)]">
        <Filters chosen={asked} counts={counts} choose={(kind: LogbookFilter, value) => change(kind, value)} />
        <div className="grid gap-3" aria-busy={isValidating}>
          {data && rows.length === 0 ? (
            <section className="card p-6">
              <h2 className="card-title">Nothing here</h2>
              <p className="m-0">
                {query
                  ? 'No job has all of this. Take a word or a filter away.'
                  : 'Every job stands here from the moment it is opened.'}
              </p>
            </section>
          ) : (
            <JobTable
              key={query}
              rows={rows}
              total={counts?.total ?? rows.length}
              more={next && !isValidating && size === data?.length ? more : null}
            />
          )}
        </div>
      </div>
      <ArchiveIn from={asked.get('from')} to={asked.get('to')} />
    </Frame>
  );
}

/** Searches kept under a name, one's own. */
function Views({ query, show }: { query: string; show: (query: string) => void }) {
  const { data: views, mutate } = useRead(ROUTES.savedViews);
  const { busy, trouble, run } = useAction();
  const [name, setName] = useState<string | null>(null);
  const here = views?.find((v) => v.query === query);
  const keep = () =>
    run(async () => {
      await mutate(await api.send(WRITES.keepView(newId()), { name: name ?? '', query }), { revalidate: false });
      setName(null);
    });
  const drop = (v: SavedViewView) =>
    run(async () => {
      await api.send(WRITES.dropView(v.id), {});
      await mutate();
    });
  return (
    <div className="flex flex-wrap items-end gap-3">
      {(views?.length ?? 0) > 0 && (
        <label className="grid gap-1">
          <span className="text-[0.93rem] font-[550]">Kept searches</span>
          <select
            className="select w-48"
            value={here?.id ?? ''}
            onChange={(e) => show(views?.find((v) => v.id === e.target.value)?.query ?? '')}
          >
            <option value="">all jobs</option>
            {views?.map((v) => (
              <option key={v.id} value={v.id}>
                {v.name}
              </option>
            ))}
          </select>
        </label>
      )}
      {here && (
        <button type="button" className="btn" disabled={busy} onClick={() => drop(here)}>
          Forget it
        </button>
      )}
      {query && !here && name === null && (
        <button type="button" className="btn" onClick={() => setName('')}>
          Keep this search
        </button>
      )}
      {name !== null && (
        <>
          <label className="grid gap-1">
            <span className="text-[0.93rem] font-[550]">Its name</span>
            <input className="input w-44" maxLength={80} value={name} onChange={(e) => setName(e.target.value)} />
          </label>
          <button type="button" className="btn btn-primary" disabled={busy || name.trim() === ''} onClick={keep}>
            Keep
          </button>
        </>
      )}
      <Problem trouble={trouble} />
    </div>
  );
}
