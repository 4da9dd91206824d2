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
  /** What is chosen from a list, as the list says it. */
  const [choices, setChoices] = useState<Record<string, Record<string, string>>>({});
  useLayoutEffect(() => {
    const form = here.current?.closest('form');
    if (!form) return;
    setLabels(Object.fromEntries(clashes.map((c) => [c.field, labelIn(form, c.field)])));
    setChoices(Object.fromEntries(clashes.map((c) => [c.field, choicesIn(form, c.field)])));
  }, [clashes]);
  const said = (c: Clash, v: unknown) => {
    const chosen = typeof v === 'string' && v !== '' ? choices[c.field]?.[v] : undefined;
    return inWords(chosen ?? v);
  };
  if (clashes.length === 0) return null;
  return (
    <div ref={here} role="alert" className="alert alert-warning flex flex-col items-stretch gap-3 px-4 py-3">
      <strong className="font-[650]">Somebody else has changed this meanwhile. Which is right?</strong>
      {clashes.map((c) => (
        <div key={c.field} className="flex flex-wrap items-center gap-x-4 gap-y-2">
          <span className="min-w-0 flex-1">
            <span className="font-[650]">{labels[c.field] ?? idInWords(c.field)}:</span> yours {said(c, c.mine)}, theirs{' '}
            {said(c, c.theirs)}
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

function choicesIn(form: HTMLFormElement, field: string): Record<string, string> {
  const control = form.elements.namedItem(field);
  if (!(control instanceof HTMLSelectElement)) return {};
  return Object.fromEntries([...control.options].map((o) => [o.value, o.text]));
}

function inWords(v: unknown): string {
  if (v === undefined || v === null || v === '') return 'nothing';
  if (typeof v === 'boolean') return v ? 'yes' : 'no';
  if (Array.isArray(v)) return v.length === 0 ? 'none' : v.map((x) => idInWords(String(x))).join(', ');
  return `“${String(v)}”`;
}
