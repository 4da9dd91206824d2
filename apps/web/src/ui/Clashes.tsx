import { idInWords } from '@just-balance/core/units';
import { useLayoutEffect, useRef, useState } from 'react';
import type { Clash } from './merge.ts';

/** What two people have put differently, field by field: both versions, and which of them stays. */
export function Clashes({
  clashes,
  settle,
}: {
  clashes: readonly Clash[];
  settle: (field: string, theirs: boolean) => void;
}) {
  const here = useRef<HTMLDivElement>(null);
  const [labels, setLabels] = useState<Record<string, string>>({});
  useLayoutEffect(() => {
    const form = here.current?.closest('form');
    if (form) setLabels(Object.fromEntries(clashes.map((c) => [c.field, labelIn(form, c.field)])));
  }, [clashes]);
  if (clashes.length === 0) return null;
  return (
    <div ref={here} role="alert" className="alert alert-warning flex flex-col items-stretch gap-3 px-4 py-3">
      <strong className="font-[650]">Somebody else has changed this meanwhile. Which is right?</strong>
      {clashes.map((c) => (
        <div key={c.field} className="flex flex-wrap items-center gap-x-4 gap-y-2">
          <span className="min-w-0 flex-1">
            <span className="font-[650]">{labels[c.field] ?? idInWords(c.field)}:</span> yours {inWords(c.mine)}, theirs{' '}
            {inWords(c.theirs)}
          </span>
          <button type="button" className="btn" onClick={() => settle(c.field, false)}>
            Keep mine
          </button>
          <button type="button" className="btn" onClick={() => settle(c.field, true)}>
            Take theirs
          </button>
        </div>
      ))}
    </div>
  );
}

/** A field is called here what stands at it. */
function labelIn(form: HTMLFormElement, field: string): string {
  const control = form.elements.namedItem(field);
  const one = control instanceof RadioNodeList ? control[0] : control;
  const label = one instanceof HTMLElement && 'labels' in one ? (one as HTMLInputElement).labels?.[0] : undefined;
  const words = [...(label?.childNodes ?? [])].filter((n) => n.nodeType === Node.TEXT_NODE).map((n) => n.textContent);
  return words.join('').trim() || idInWords(field);
}

function inWords(v: unknown): string {
  if (v === undefined || v === null || v === '') return 'nothing';
  if (typeof v === 'boolean') return v ? 'yes' : 'no';
  if (Array.isArray(v)) return v.length === 0 ? 'none' : v.map((x) => idInWords(String(x))).join(', ');
  return `“${String(v)}”`;
}
