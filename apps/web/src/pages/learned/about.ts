import type { LearnedView } from '@just-balance/contract';
import { faultLabel } from '@just-balance/core/catalogue';
import { counted, midSentence } from '@just-balance/core/units';
import type { L } from './Rows.tsx';

/** One sentence of what lies in each fold. */
export function causesAbout(l: L): string {
  const seen = l.causes.filter((c) => c.count > 0);
  const [first, second] = seen;
  if (!first) return 'no cause is proven yet';
  const lead = second
    ? `${midSentence(faultLabel(first.fault))} and ${midSentence(faultLabel(second.fault))} lead`
    : `${midSentence(faultLabel(first.fault))} alone`;
  return `${counted(seen.length, 'cause')}; ${lead}, ${counted(first.count, 'job')}${second ? ` and ${second.count}` : ''}`;
}

export function testsAbout(l: L): string {
  const results = l.tests.reduce((n, t) => n + t.hits.yes + t.hits.no + t.alarms.yes + t.alarms.no, 0);
  return `${counted(l.tests.length, 'test')}, ${counted(results, 'result')}`;
}

export function figuresAbout(l: L): string {
  const families = new Set(l.figures.map((f) => f.family)).size;
  return families === 0 ? 'four proven jobs of one engine are needed' : `${counted(families, 'engine')}`;
}

export function workAbout(l: L): string {
  if (!l.firstTime) return 'nothing handed over yet';
  return `${l.firstTime.fixed} stayed away, ${l.firstTime.back} came back`;
}

export function usedAbout({ choice, leftOut }: LearnedView): string {
  const used = Object.values(choice).filter(Boolean).length;
  return `${used} of 3 in use; ${leftOut.length === 0 ? 'no job' : counted(leftOut.length, 'job')} left out`;
}
