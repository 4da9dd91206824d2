import { measuredWords, type Procedure, type RunState } from '@just-balance/core/procedures';
import { Camera, Check, Minus } from 'lucide-react';
import { useEffect, useRef } from 'react';
import { Say, useSay } from '../../ui/preferences.tsx';

const KIND_WORDS: Readonly<Record<string, string>> = {
  do: 'do',
  look: 'look',
  measure: 'measure',
  photo: 'picture',
  timer: 'wait',
  'take-off': 'off',
  refit: 'back on',
  torque: 'tighten',
  decide: 'decide',
  read: 'read',
};

/** All steps of a procedure: which are through, which is meant, which lie ahead. */
export function StepList({
  procedure,
  state,
  shown,
  look,
}: {
  procedure: Procedure;
  state: RunState;
  shown: string | null;
  look: (step: string) => void;
}) {
  const say = useSay();
  const current = state.current?.id;
  const liesAhead = (id: string) => state.ahead.includes(id) || state.early.has(id);
  // The same count as beside the open step.
  const order = [...state.way, ...(current ? [current] : []), ...procedure.steps.map((s) => s.id).filter(liesAhead)];
  const nav = useRef<HTMLElement>(null);
  // The list follows the work; the page stays where it is.
  useEffect(() => {
    const list = nav.current;
    const row = current ? list?.querySelector<HTMLElement>('[aria-current="step"]') : null;
    if (list && row) list.scrollTop = row.offsetTop - list.offsetTop - list.clientHeight / 3;
  }, [current]);
  return (
    <nav ref={nav} aria-label="Steps" className="card max-h-[44vh] overflow-auto p-2">
      <ol className="m-0 grid list-none gap-[2px] p-0">
        {procedure.steps.map((s) => {
          const r = state.results.get(s.id) ?? state.early.get(s.id);
          const number = order.indexOf(s.id) + 1;
          const off = !r && s.id !== current && !state.ahead.includes(s.id);
          return (
            <li key={s.id}>
              <button
                type="button"
                disabled={!state.results.has(s.id)}
                aria-current={s.id === current ? 'step' : undefined}
                onClick={() => look(s.id)}
                className={`grid w-full grid-cols-[26px_minmax(0,1fr)] items-start gap-2 rounded-field border-0 bg-transparent p-2 text-left text-[0.93rem] leading-snug ${
                  s.id === current
                    ? 'bg-bench font-[650] text-ink'
                    : s.id === shown
                      ? 'underline'
                      : r
                        ? 'cursor-pointer text-ink'
                        : 'text-soft'
                } ${off ? 'line-through' : ''}`}
              >
                <span
                  aria-hidden
                  className={`grid size-[24px] place-items-center rounded-full text-[0.75rem] font-bold ${
                    r?.kind === 'done'
                      ? 'bg-ink text-sheet'
                      : s.id === current
                        ? 'bg-act text-on-act'
                        : 'border-2 border-rule text-soft'
                  }`}
                >
                  {r?.kind === 'done' ? <Check size={14} /> : r ? <Minus size={14} /> : number > 0 ? number : ''}
                </span>
                <span>
                  <span className="mr-1 text-[0.8rem] text-soft">{KIND_WORDS[s.kind]}</span>
                  {firstWords(say(s.text))}
                  {r?.kind === 'skipped' && <span className="block text-soft">left out: {r.reason}</span>}
                  {r?.answer && <span className="block text-soft">{r.answer}</span>}
                  {r?.value != null && (
                    <span className="block text-soft">
                      <Say text={measuredWords(s, r.value, r.limits)} />
                    </span>
                  )}
                  {r?.note && <span className="block text-soft">{r.note}</span>}
                  {r?.photo && <Camera aria-hidden size={14} className="ml-1 inline text-soft" />}
                  <span className="sr-only">{r ? (r.kind === 'done' ? ', done' : ', left out') : ''}</span>
                </span>
              </button>
            </li>
          );
        })}
      </ol>
    </nav>
  );
}

/** Enough to know a step by. */
export function firstWords(text: string): string {
  const end = text.search(/[.:;?]/);
  const first = end > 12 ? text.slice(0, end) : text;
  return first.length > 62 ? `${first.slice(0, 60).replace(/\s\S*$/, '')}…` : first;
}
