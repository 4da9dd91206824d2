import { complaintLabel } from '../case/index.ts';
import { chanceText, signed } from '../units/index.ts';

/** The seven stations of a job, in the order they are worked. */
export const STATIONS = ['complaint', 'readings', 'balance', 'service', 'prove', 'readiness', 'hand-over'] as const;
export type StationId = (typeof STATIONS)[number];

export const STATION_LABELS: Record<StationId, string> = {
  complaint: 'Complaint',
  readings: 'Readings',
  balance: 'Balance',
  service: 'Service',
  prove: 'Prove',
  readiness: 'Readiness',
  'hand-over': 'Hand-over',
};

/** What the stations need to know of a job; figures come ready to print. */
export interface JobFacts {
  closed: boolean;
  symptoms: readonly string[];
  recordsBefore: number;
  /** Operating points this job asks for. */
  asked: readonly string[];
  codes: number | null;
  readingsBefore: readonly string[];
  readingsAfter: readonly string[];
  /** Worst displayed total before and after, %. */
  worstBefore: number | null;
  worstAfter: number | null;
  leading: { label: string; probability: number } | null;
  mixture: string | null;
  tests: number;
  repairs: number;
  lastRepair: string | null;
  /** A service run under way or parked: what the spine says of it. */
  work: string | null;
  proof: string;
  monitorsOpen: number | null;
  monitorsKnown: boolean;
}

export interface StationView {
  id: StationId;
  label: string;
  done: boolean;
  figure: string;
}

/** State and key figure of every station. */
export function stationViews(f: JobFacts): StationView[] {
  const taken = (list: readonly string[]) => f.asked.filter((p) => list.includes(p)).length;
  const view = (id: StationId, done: boolean, figure: string): StationView => ({
    id,
    label: STATION_LABELS[id],
    done,
    figure,
  });
  const symptom = f.symptoms[0] && complaintLabel(f.symptoms[0]);
  return [
    view(
      'complaint',
      f.recordsBefore > 0,
      f.recordsBefore > 0
        ? `${symptom ?? 'recorded'} · ${f.codes ? `${f.codes} ${f.codes === 1 ? 'code' : 'codes'}` : 'no codes'}`
        : (symptom ?? '—'),
    ),
    view(
      'readings',
      taken(f.readingsBefore) === f.asked.length,
      f.readingsBefore.length > 0 ? `${taken(f.readingsBefore)} of ${f.asked.length} kept` : '—',
    ),
    view(
      'balance',
      f.repairs > 0 || (f.leading !== null && f.leading.probability >= 0.85),
      f.mixture
        ? `${f.mixture === 'not-applicable' ? 'diesel' : f.mixture}${f.leading ? ` · ${chanceText(f.leading.probability)}` : ''}`
        : 'waits for readings',
    ),
    view(
      'service',
      f.repairs > 0 && f.work === null,
      f.work ?? f.lastRepair ?? (f.tests > 0 ? `${f.tests} ${f.tests === 1 ? 'test' : 'tests'} done` : '—'),
    ),
    view(
      'prove',
      f.proof === 'proven',
      f.worstBefore !== null && f.worstAfter !== null ? `${signed(f.worstBefore)} → ${signed(f.worstAfter)} %` : '—',
    ),
    view(
      'readiness',
      f.monitorsOpen === 0,
      f.monitorsKnown ? (f.monitorsOpen === 0 ? 'all complete' : `${f.monitorsOpen} open`) : '—',
    ),
    view('hand-over', f.closed, f.closed ? 'handed over' : '—'),
  ];
}

/** The station where the work is: the first not done (readiness may stay open at hand-over). */
export function currentStation(f: JobFacts): StationId {
  // Something is off the car: that comes first, whatever else is open.
  if (f.work !== null && !f.closed) return 'service';
  const open = stationViews(f).find((s) => !s.done && s.id !== 'readiness');
  if (!open || open.id === 'hand-over')
    return f.monitorsOpen !== 0 && !f.closed && f.proof === 'proven' ? 'readiness' : 'hand-over';
  return open.id;
}
