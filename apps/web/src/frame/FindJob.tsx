import { ROUTES } from '@just-balance/contract';
import { Search } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { useRead } from '../data/reads.ts';
import { standsAt } from '../job/frame/standsAt.ts';
import { Plate } from '../ui/Plate.tsx';
import { useSingleKeys } from '../ui/useSingleKeys.ts';

/** As many are shown; the logbook has all. */
const MOST = 12;
/** The hand rests for so long before it is asked for, ms. */
const RESTS_MS = 200;

/** From every screen: a car by its plate, its name, or a code that was read; the key / opens it. */
export function FindJob() {
  const [open, setOpen] = useState(false);
  useSingleKeys({ '/': () => setOpen(true) });
  return (
    <>
      <button
        type="button"
        className="badge badge-lg badge-outline min-h-11 cursor-pointer gap-2 border-ink font-[650] text-ink"
        onClick={() => setOpen(true)}
      >
        <Search size={17} aria-hidden />
        <span className="max-lg:sr-only">Find a car</span>
      </button>
      {open && <Finder close={() => setOpen(false)} />}
    </>
  );
}

function Finder({ close }: { close: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null);
  const [words, setWords] = useState('');
  const [asked, setAsked] = useState('');
  useEffect(() => dialog.current?.showModal(), []);
  useEffect(() => {
    const timer = setTimeout(() => setAsked(words.trim()), RESTS_MS);
    return () => clearTimeout(timer);
  }, [words]);
  const { data, error } = useRead(
    asked ? ROUTES.logbook(new URLSearchParams({ q: asked, limit: String(MOST) }).toString()) : null,
    { keepPreviousData: true },
  );
  const found = asked
    ? (data ?? []).toSorted((a, b) => Number(a.status === 'closed') - Number(b.status === 'closed'))
    : [];
  return (
    <dialog ref={dialog} className="modal modal-top text-ink" onClose={close} aria-label="Find a car">
      <div className="modal-box mx-auto mt-2 grid max-h-[80dvh] w-[min(44rem,96vw)] max-w-none content-start gap-3 rounded-(--radius-box) p-4">
        <label className="grid gap-1 font-[650]">
          Plate, car, or code
          <input
            className="input w-full"
            type="search"
            maxLength={200}
            value={words}
            onChange={(e) => setWords(e.target.value)}
          />
        </label>
        <div role="status" className="text-soft">
          {error
            ? `It could not be looked for: ${error.message}`
            : !asked
              ? 'A beginning is enough. Cars in the shop stand first.'
              : data && found.length === 0
                ? 'No job has this.'
                : found.length === MOST
                  ? `The newest ${MOST}; the logbook has all.`
                  : data
                    ? `${found.length} found`
                    : 'Looking…'}
        </div>
        {found.length > 0 && (
          <ul className="m-0 grid list-none gap-1 overflow-y-auto p-0.5" aria-label="Jobs found">
            {found.map((j) => (
              <li key={j.id}>
                <Link
                  to={`/jobs/${j.id}`}
                  onClick={close}
                  className="flex min-h-14 flex-wrap items-center gap-x-4 gap-y-1 rounded-lg border border-rule px-3 py-2 text-ink no-underline hover:bg-bench"
                >
                  <Plate of={j.plate} />
                  <span className="font-[650]">{[j.label, j.note].filter(Boolean).join(', ')}</span>
                  <span className="ml-auto text-soft">
                    {standsAt(j)}
                    {j.codes.length > 0 && ` · ${j.codes.slice(0, 3).join(' ')}`}
                  </span>
                </Link>
              </li>
            ))}
          </ul>
        )}
        <div className="flex flex-wrap justify-between gap-3">
          <Link className="btn" to={`/logbook${asked ? `?${new URLSearchParams({ q: asked })}` : ''}`} onClick={close}>
            In the logbook
          </Link>
          <button type="button" className="btn" onClick={close}>
            Close
          </button>
        </div>
      </div>
    </dialog>
  );
}
