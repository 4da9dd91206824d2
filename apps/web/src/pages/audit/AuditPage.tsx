import { type AuditLine, ROUTES } from '@just-balance/contract';
import { TRAIL_KINDS } from '@just-balance/core/job';
import { format, isSameDay } from 'date-fns';
import { Link, useSearchParams } from 'react-router';
import useSWRInfinite from 'swr/infinite';
import { type Page, readPage } from '../../data/pages.ts';
import { useRead } from '../../data/reads.ts';
import { useAccount, useMay } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { withMoments } from '../../ui/days.ts';
import { FromTo } from '../../ui/FromTo.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Say } from '../../ui/preferences.tsx';

/** Who did what, newest first, a sentence a line; nothing of it can be changed. */
export function AuditPage() {
  const account = useAccount();
  const lead = useMay('lead');
  const [asked, setAsked] = useSearchParams();
  const query = withMoments(asked);
  const { data, error, setSize, isValidating } = useSWRInfinite<Page<AuditLine>>(
    (i, before: Page<AuditLine> | null) => (i === 0 ? ROUTES.audit(query) : (before?.next ?? null)),
    readPage,
    { keepPreviousData: true, revalidateFirstPage: false },
  );
  const { data: people } = useRead(lead ? ROUTES.people : null);
  const lines = data?.flatMap((p) => p.rows) ?? [];
  const names = people?.map((p) => p.name) ?? [...new Set(lines.filter((l) => !l.imported).map((l) => l.by))].sort();
  const change = (key: string, value: string) =>
    setAsked(
      (now) => {
        const to = new URLSearchParams(now);
        if (value) to.set(key, value);
        else to.delete(key);
        return to;
      },
      { replace: true },
    );
  return (
    <Frame title={account.shop.name} subtitle="who did what" side={<HouseNav current="audit" />}>
      {error ? (
        <NextStep tone="trouble" title="The history could not be read" why={String(error.message)} />
      ) : (
        <NextStep
          title={asked.get('job') ? `The history of ${lines[0]?.job?.label ?? 'this job'}` : 'Who did what'}
          why="Written as it happens; nobody can change it. What a customer has asked to be erased is blanked."
        />
      )}
      <div className="card flex flex-row flex-wrap items-end gap-3 p-3">
        <label className="grid gap-1">
          <span className="text-[0.93rem] font-[550]">Person</span>
          <select
            className="select w-44"
            value={asked.get('person') ?? ''}
            onChange={(e) => change('person', e.target.value)}
          >
            <option value="">everybody</option>
            {names.map((n) => (
              <option key={n}>{n}</option>
            ))}
          </select>
        </label>
        <label className="grid gap-1">
          <span className="text-[0.93rem] font-[550]">What</span>
          <select
            className="select w-56"
            value={asked.get('kind') ?? ''}
            onChange={(e) => change('kind', e.target.value)}
          >
            <option value="">everything</option>
            {TRAIL_KINDS.map((k) => (
              <option key={k.id} value={k.id}>
                {k.label}
              </option>
            ))}
          </select>
        </label>
        <FromTo from="From" value={(key) => asked.get(key)} change={change} />
        {asked.get('job') && (
          <button type="button" className="btn" onClick={() => change('job', '')}>
            All jobs
          </button>
        )}
      </div>
      <ol className="card m-0 list-none p-3" aria-label="History" aria-busy={isValidating}>
        {lines.map((l, i) => {
          const at = new Date(l.at);
          const first = i === 0 || !isSameDay(at, new Date(lines[i - 1]!.at));
          return (
            <li key={l.id} className="border-b border-rule py-1.5 last:border-b-0">
              {first && <h2 className="m-0 py-1 text-[1rem] font-[650]">{format(at, 'EEEE, d MMMM yyyy')}</h2>}
              <span className="figure mr-3 text-soft">{format(at, 'HH:mm')}</span>
              {l.imported && (
                <span className="mr-2 text-soft">
                  In an archive, read in by {l.imported.by} on {format(new Date(l.imported.at), 'd MMMM yyyy')}:
                </span>
              )}
              {l.imported ? (
                <q>
                  <Say text={l.said} />
                </q>
              ) : (
                <Say text={l.said} />
              )}{' '}
              {l.job && !asked.get('job') && (
                <Link className="underline" to={`/jobs/${l.job.id}`}>
                  {l.job.label}
                </Link>
              )}
            </li>
          );
        })}
        {data && lines.length === 0 && <li className="p-3 text-soft">Nothing of this kind.</li>}
      </ol>
      {data?.at(-1)?.next && (
        <button
          type="button"
          className="btn justify-self-center"
          disabled={isValidating}
          onClick={() => setSize((n) => n + 1)}
        >
          Earlier
        </button>
      )}
    </Frame>
  );
}
