import { pointsFor } from '../capture/index.ts';
import { complaintLabel, type OperatingPoint } from '../case/index.ts';
import { faultLabel, testLabel } from '../catalogue/index.ts';
import { type Diagnosis, type Standing, SURE } from '../diagnosis/index.ts';
import { type HandOverJob, openMonitors } from '../handOver/index.ts';
import {
  bankTotals,
  compareTrims,
  newestOfEach,
  type ProofJudgement,
  type ProofVerdict,
  storyOf,
} from '../proof/index.ts';
import { chanceText, counted, midSentence, type Said, said, signed } from '../units/index.ts';
import { STATION_LABELS, type StationId, type StationView } from './stations.ts';
import { type WorkUnderWay, workUnderWay } from './work.ts';

/** Where a job stands: what every screen, list and paper says of it. */
export interface JobStanding {
  /** Where the work is. */
  station: StationId;
  /** The next action, where it is done, and why. */
  next: { station: StationId; title: string; why: Said };
  /** Every station with its figure, in their order. */
  stations: StationView[];
  work: WorkUnderWay | null;
  /** Worst displayed total of the newest readings, %. */
  worst: { totalPct: number; at: OperatingPoint } | null;
  /** On the repair, with what else would have to be there; null where nothing was read after one. */
  proof: Proven | null;
}

/** What the standing takes from the verdict. */
export type Proven = Pick<ProofJudgement, 'verdict' | 'remains'>;

/** Verdicts after which there is nothing left to prove. */
const PROVEN: ReadonlySet<ProofVerdict> = new Set(['proven', 'maintained']);
/** Whether a verdict sends the job back to the weighing. */
const goesBack = (p: Proven) => p.verdict === 'worse' || p.remains.length > 0;
/** Points from which a shape of the trims is seen. Common practice, no source. */
const ENOUGH_POINTS = 2;

interface Seen {
  job: HandOverJob;
  diagnosis: Diagnosis | undefined;
  /** Of the judgement; null where there is none. */
  judged: Standing | null;
  repaired: boolean;
  work: WorkUnderWay | null;
  proof: Proven | null;
  /** Points asked for, and those taken before and after the repair. */
  asked: readonly OperatingPoint[];
  before: readonly OperatingPoint[];
  after: readonly OperatingPoint[];
  recorded: boolean;
  /** Monitors open when they were read last; null where they never were, or not since the repair. */
  open: number | null;
}

/** Where the job stands. `proof`: the verdict on its repair, null where nothing was read after one. */
export function standingOf(job: HandOverJob, proof: Proven | null): JobStanding {
  const seen = look(job, proof);
  const station = stationOf(seen);
  return {
    station,
    next: nextOf(seen, station),
    stations: railOf(seen),
    work: seen.work,
    worst: worstOf(job),
    proof: proof && { verdict: proof.verdict, remains: proof.remains },
  };
}

function look(job: HandOverJob, proof: Proven | null): Seen {
  const story = storyOf(job);
  const diagnosis = job.diagnoses.at(-1)?.output;
  const points = (list: typeof story.before) => newestOfEach(list).map((r) => r.reading.at);
  const repaired = story.repairedAt !== null;
  const last = job.records.at(-1);
  const fresh = last?.monitors && (!repaired || last.phase === 'after');
  return {
    job,
    diagnosis,
    judged: diagnosis ? (diagnosis.standing ?? byChance(diagnosis)) : null,
    repaired,
    work: job.status === 'closed' ? null : workUnderWay(job.runs),
    proof,
    asked: pointsFor(job.vehicle, job.complaint.symptoms),
    before: points(story.before),
    after: points(story.after),
    recorded: job.records.some((r) => r.phase === 'before'),
    open: fresh ? openMonitors(job).length : null,
  };
}

/** Of a judgement that was kept before it said where it stands. */
function byChance({ causes, nextTests: [next] }: Diagnosis): Standing {
  if ((causes[0]?.probability ?? 0) >= SURE) return { is: 'sure', why: '' };
  return next ? { is: 'test', test: next.test, why: '' } : { is: 'cannot-tell', why: '' };
}

/** The car is in order by what was read, and nobody repaired it. */
const inOrder = (s: Seen) => !s.repaired && s.judged?.is === 'sure' && s.diagnosis?.causes[0]?.fault === 'balanced';

/** Where the work is. */
function stationOf(s: Seen): StationId {
  if (s.job.status === 'closed') return 'hand-over';
  // Something is off the car: that comes first, whatever else is open.
  if (s.work) return 'service';
  if (s.repaired || inOrder(s)) {
    if (s.repaired && s.proof?.verdict === 'balanced, a part condemned') return 'service';
    if (s.repaired && !(s.proof && PROVEN.has(s.proof.verdict))) return 'prove';
    return s.open === 0 ? 'hand-over' : 'readiness';
  }
  if (s.judged?.is === 'sure') return 'service';
  const taken = s.before.filter((at) => s.asked.includes(at)).length;
  const tested = s.job.tests.some((t) => !t.undone);
  if (s.judged && s.judged.is !== 'warm-up' && (tested || taken >= Math.min(ENOUGH_POINTS, s.asked.length)))
    return 'balance';
  return s.recorded || s.before.length > 0 ? 'readings' : 'complaint';
}

function nextOf(s: Seen, station: StationId): JobStanding['next'] {
  const here = (title: string, why: Said) => ({ station, title, why });
  if (s.work) {
    const { title, state, off, toOrder, ordered, reason } = s.work;
    return here(
      state === 'parked' ? `parked, ${reason}` : midSentence(title),
      [
        off.length > 0 ? `Off the car: ${off.join(', ')}.` : 'Nothing is off the car.',
        ...(toOrder.length > 0 ? [`To order: ${toOrder.join(', ')}.`] : []),
        ...(ordered.length > 0 ? [`Ordered: ${ordered.join(', ')}.`] : []),
      ].join(' '),
    );
  }
  switch (station) {
    case 'complaint':
      return here('keep codes and monitors first', 'Before anything is touched: codes, freeze frame, readiness.');
    case 'readings':
      return s.judged?.is === 'warm-up'
        ? here('warm it up and read again', s.judged.why)
        : here('take the readings', 'Idle, then a 2,500 rpm hold; both capture by themselves.');
    case 'balance':
      return balanceNext(s, here);
    case 'service': {
      const condemned = s.proof?.verdict === 'balanced, a part condemned';
      const fault = condemned ? s.diagnosis?.condemned[0] : s.diagnosis?.causes[0]?.fault;
      return condemned
        ? here(
            `replace what is condemned${fault ? `: ${midSentence(faultLabel(fault))}` : ''}`,
            'The mixture is back, and a part was found damaged by looking at it.',
          )
        : here(
            `repair: ${fault ? midSentence(faultLabel(fault)) : 'what was found'}`,
            'The cause stands; write down what is done.',
          );
    }
    case 'prove':
      return proveNext(s, here);
    case 'readiness':
      return here(
        'read the monitors',
        s.repaired ? 'The repair is proven; readiness is next.' : 'The mixture is in order; readiness is next.',
      );
    default:
      return s.job.status === 'closed'
        ? here('handed over', '')
        : here('hand over', 'What was wrong, measured, done, proven.');
  }
}

type Here = (title: string, why: Said) => JobStanding['next'];

function balanceNext({ judged, diagnosis }: Seen, here: Here): JobStanding['next'] {
  const first = diagnosis?.causes[0];
  const leads: Said = first
    ? `${midSentence(faultLabel(first.fault))}, ${chanceText(first.probability)}`
    : 'nothing yet';
  if (judged && 'test' in judged)
    return here(
      midSentence(testLabel(judged.test)),
      said`${judged.is === 'confirm' ? 'One test before a part is touched' : 'It gains most for its minutes'}. Likeliest: ${leads}.`,
    );
  return here('find the cause', said`No test left is worth its minutes. Likeliest: ${leads}.`);
}

function proveNext({ proof }: Seen, here: Here): JobStanding['next'] {
  const verdict = proof?.verdict ?? null;
  if (proof && goesBack(proof))
    return {
      ...here(
        verdict === 'worse' ? 'find out why it is worse' : 'find what is left',
        'The readings after the repair say so.',
      ),
      station: 'balance',
    };
  if (verdict === 'settling') return here('let it settle, then read again', 'Short term still runs against long term.');
  if (verdict === 'points missing') return here('read the points that are missing', 'Off before, and not read since.');
  return verdict === null || verdict === 'nothing to compare'
    ? here('prove the repair', 'The same readings again, beside the first.')
    : here('prove the repair', 'What was read after it does not prove it yet.');
}

/** The seven with their figures. */
function railOf(s: Seen): StationView[] {
  const view = (id: StationId, done: boolean, figure: string): StationView => ({
    id,
    label: STATION_LABELS[id],
    done,
    figure,
  });
  const { job, diagnosis, work } = s;
  const [symptom] = job.complaint.symptoms;
  const first = job.records.find((r) => r.phase === 'before');
  const taken = s.asked.filter((at) => s.before.includes(at)).length;
  const tests = job.tests.filter((t) => !t.undone).length;
  const lead = diagnosis?.causes[0];
  const mixture = diagnosis && diagnosis.mixture !== 'undetermined' ? diagnosis.mixture : null;
  return [
    view(
      'complaint',
      s.recorded,
      [
        symptom && complaintLabel(symptom),
        first && (first.codes.length > 0 ? counted(first.codes.length, 'code') : 'no codes'),
      ]
        .filter(Boolean)
        .join(' · ') || '—',
    ),
    view('readings', taken === s.asked.length, s.before.length > 0 ? `${taken} of ${s.asked.length} kept` : '—'),
    view(
      'balance',
      s.repaired || s.judged?.is === 'sure',
      mixture
        ? `${mixture === 'not-applicable' ? 'diesel' : mixture}${lead ? ` · ${chanceText(lead.probability)}` : ''}`
        : 'waits for readings',
    ),
    view(
      'service',
      (s.repaired && !work) || inOrder(s),
      work
        ? work.state === 'parked'
          ? `parked: ${work.reason}`
          : `${midSentence(work.title)} under way`
        : (job.repairs.findLast((r) => !r.undone)?.text ?? (tests > 0 ? `${counted(tests, 'test')} done` : '—')),
    ),
    view('prove', s.proof !== null && PROVEN.has(s.proof.verdict), provenFigure(job)),
    view('readiness', s.open === 0, s.open === null ? '—' : s.open === 0 ? 'all complete' : `${s.open} open`),
    view('hand-over', job.status === 'closed', job.status === 'closed' ? 'handed over' : '—'),
  ];
}

/** The point that was furthest off, before and after: one point on one bank, as the verdict compares them. */
function provenFigure(job: HandOverJob): string {
  const story = storyOf(job);
  const totals = (list: typeof story.before) => newestOfEach(list).flatMap((r) => bankTotals(r.reading));
  const changes = compareTrims(totals(story.before), totals(story.after));
  const worst = changes.toSorted((a, b) => Math.abs(b.beforePct) - Math.abs(a.beforePct))[0];
  return worst ? `${signed(worst.beforePct)} → ${signed(worst.afterPct)} %` : '—';
}

/** The worst displayed total among the newest reading of each point: after the repair, once something was read then. */
function worstOf(job: HandOverJob): JobStanding['worst'] {
  const story = storyOf(job);
  const newest = newestOfEach(story.after.length > 0 ? story.after : story.before);
  return newest
    .flatMap((r) => bankTotals(r.reading))
    .reduce<JobStanding['worst']>(
      (w, { totalPct, at }) => (w === null || Math.abs(totalPct) > Math.abs(w.totalPct) ? { totalPct, at } : w),
      null,
    );
}
