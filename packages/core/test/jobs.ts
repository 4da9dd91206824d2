import { diagnose } from '../src/diagnosis/index.ts';
import type { HandOverJob } from '../src/handOver/index.ts';
import { caseOfJob } from '../src/job/index.ts';

/** A moment of February. */
export const T = (day: number, hour = 9) =>
  `2026-02-${String(day).padStart(2, '0')}T${String(hour).padStart(2, '0')}:00:00.000Z`;
export const reading = (at: 'idle' | 'hold-2500', long: number, mafGps: number) => ({
  at,
  rpm: at === 'idle' ? 720 : 2500,
  mafGps,
  mapKPa: 31.4,
  ectC: 90,
  iatC: 24,
  loop: 'closed' as const,
  trims: { bank1: { stft: 0.6, ltft: long, sd: 0.6, n: 80 } },
});
export const taken = (phase: 'before' | 'after', at: string, r: ReturnType<typeof reading>) => ({
  phase,
  at,
  source: 'hand',
  doubtful: null,
  reading: r,
});

/** A lean petrol car with a code and two readings. */
export function job(change: Partial<HandOverJob> = {}): HandOverJob {
  const base: HandOverJob = {
    id: '0190',
    status: 'open',
    openedAt: T(2),
    openedBy: 'I. Sato',
    vehicle: {
      label: 'Tarn 2.0',
      fuel: 'petrol',
      metering: 'maf',
      displacementL: 2,
      cylinders: 4,
      banks: 1,
      odometerKm: 98_000,
    },
    ambient: { baroKPa: 99.4, airC: 12 },
    complaint: { symptoms: ['rough-idle'], story: 'Shakes; 3 psi low, they said' },
    records: [
      {
        phase: 'before',
        at: T(2),
        codes: [{ code: 'P0171', state: 'stored' }],
        lampOn: true,
        monitors: null,
        freezeFrame: [],
        warmupsSinceClear: 60,
      },
    ],
    readings: [
      taken('before', T(2, 10), reading('idle', 12.9, 2.4)),
      taken('before', T(2, 11), reading('hold-2500', 3.9, 9.3)),
    ],
    tests: [],
    repairs: [],
    runs: [],
    entries: [],
    photos: [],
    diagnoses: [],
    cautions: [],
    ...change,
  };
  return { ...base, diagnoses: change.diagnoses ?? [{ at: T(2, 12), output: diagnose(caseOfJob(base)) }] };
}
/** The same, repaired and read again in band. */
export const repaired = (change: Partial<HandOverJob> = {}) =>
  job({
    repairs: [{ at: T(3), by: 'I. Sato', undone: false, text: 'Intake gasket renewed', fault: 'vac-leak', part: null }],
    readings: [
      ...job().readings,
      taken('after', T(3, 15), reading('idle', 0.2, 2.7)),
      taken('after', T(3, 16), reading('hold-2500', 0.7, 9.6)),
    ],
    ...change,
  });
