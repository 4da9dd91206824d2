import { MONITORS } from '../obd/index.ts';
import { openAtEnd, runState } from '../procedures/index.ts';
import type { ProofJudgement, ProofVerdict } from '../proof/index.ts';
import { counted, midSentence } from '../units/index.ts';
import type { HandOverDocument } from './document.ts';
import { type HandOverJob, openMonitors, standing } from './facts.ts';

/** One thing that is looked at before a paper goes out. */
export interface OutgoingCheck {
  id: 'proof' | 'parts' | 'work' | 'monitors' | 'words';
  /** Nothing to be embarrassed by. */
  fine: boolean;
  title: string;
  why: string;
}

const PROVEN: ReadonlySet<ProofVerdict> = new Set(['proven', 'maintained']);

/**
 * What could embarrass once the paper is in somebody's hand, each with what it is: a repair that is not proven, a part
 * without its number, work that is not finished, a monitor that is open, words that the facts have left behind. It is
 * shown beside the paper and never on it.
 */
export function beforeItGoesOut(
  job: HandOverJob,
  proof: Pick<ProofJudgement, 'verdict'> | null,
  documents: readonly HandOverDocument[],
): OutgoingCheck[] {
  return [
    proofCheck(job, proof),
    ...partsCheck(job),
    ...workCheck(job),
    ...monitorsCheck(job),
    ...wordsCheck(documents),
  ];
}

function proofCheck(job: HandOverJob, proof: Pick<ProofJudgement, 'verdict'> | null): OutgoingCheck {
  const repaired = job.repairs.some((r) => !r.undone);
  const check = (fine: boolean, title: string, why: string) => ({ id: 'proof' as const, fine, title, why });
  if (proof && PROVEN.has(proof.verdict))
    return check(true, proof.verdict === 'proven' ? 'Proven' : 'In order before and after', 'By the same readings.');
  if (!repaired) return check(true, 'Nothing was repaired', 'The sheet says so.');
  return check(
    false,
    'Not proven',
    proof ? `After the repair: ${proof.verdict}.` : 'Nothing was read after the repair.',
  );
}

function partsCheck(job: HandOverJob): OutgoingCheck[] {
  const parts = standing<{ name: string; number?: string; oldKept: boolean }>(job, 'part');
  if (parts.length === 0) return [];
  const bare = parts.filter((p) => !p.number?.trim()).map((p) => p.name);
  const kept = parts.filter((p) => p.oldKept).length;
  return [
    {
      id: 'parts',
      fine: bare.length === 0,
      title: bare.length === 0 ? 'Parts are named' : 'A part has no number',
      why:
        bare.length === 0
          ? `${counted(parts.length, 'part')} with number${kept > 0 ? `; ${kept < parts.length ? `of ${kept} the old one is kept` : kept === 1 ? 'the old one is kept' : 'the old ones are kept'}` : ''}.`
          : `${bare.join(', ')}.`,
    },
  ];
}

function workCheck(job: HandOverJob): OutgoingCheck[] {
  const open = job.runs.flatMap((r) => {
    const s = runState(r.procedure, r.events);
    const left = openAtEnd(s).length;
    if (s.status === 'running' || s.status === 'parked') return [`${r.procedure.title} is not finished.`];
    return left > 0 ? [`${r.procedure.title}: ${counted(left, 'thing')} left open.`] : [];
  });
  if (open.length > 0) return [{ id: 'work', fine: false, title: 'Work is open', why: open.join(' ') }];
  return job.runs.length > 0
    ? [{ id: 'work', fine: true, title: 'The work is finished', why: 'All that came off is back on.' }]
    : [];
}

function monitorsCheck(job: HandOverJob): OutgoingCheck[] {
  if (!job.records.at(-1)?.monitors) return [];
  const open = openMonitors(job).map((m) => midSentence(MONITORS[m.id]));
  return [
    {
      id: 'monitors',
      fine: open.length === 0,
      title: open.length === 0 ? 'All monitors are complete' : `${counted(open.length, 'monitor')} open`,
      why: open.length === 0 ? 'When the car was read last.' : `${open.join(', ')}. It stands on the sheet.`,
    },
  ];
}

function wordsCheck(documents: readonly HandOverDocument[]): OutgoingCheck[] {
  const sections = documents.flatMap((d) => d.sections);
  const twice = sections.filter((s) => s.others.length > 0).map((s) => s.heading);
  const stale = sections.filter((s) => s.edited?.stale).map((s) => s.heading);
  if (twice.length > 0)
    return [{ id: 'words', fine: false, title: 'Worded twice at the same time', why: `${twice.join(', ')}.` }];
  if (stale.length > 0)
    return [{ id: 'words', fine: false, title: 'Facts have changed since it was worded', why: `${stale.join(', ')}.` }];
  const own = sections.filter((s) => s.edited).length;
  return own > 0
    ? [{ id: 'words', fine: true, title: `${counted(own, 'paragraph')} in your words`, why: 'The facts are the same.' }]
    : [];
}
