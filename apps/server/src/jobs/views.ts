import type {
  CaptureView,
  CautionView,
  EntryView,
  JobListItem,
  JobSummary,
  KnownView,
  PhotoView,
  ReadingView,
  RecordView,
  RepairView,
  RunView,
  StoredDiagnosis,
  TestView,
  VehicleView,
  WholeJob,
} from '@just-balance/contract';
import { fromHex } from '@just-balance/core/can';
import { familyOf } from '@just-balance/core/expected';
import { type HandOverJob, provenHere } from '@just-balance/core/handOver';
import { codeInfo, decodeMonitors } from '@just-balance/core/obd';
import type { ProofJudgement } from '@just-balance/core/proof';
import { learnedFigures, waitsOf } from '@just-balance/core/shop';
import { standingOf } from '@just-balance/core/standing';
import { col, fn, Op, type Transaction } from 'sequelize';
import { Capture, CaptureRow } from '../rows/captures.ts';
import { Job, JobEvent, StoredDiagnosisRow, type StoredSummary } from '../rows/jobs.ts';
import { KnownFigureRow } from '../rows/known.ts';
import { Photo } from '../rows/photos.ts';
import { ReadingRow } from '../rows/readings.ts';
import { VehicleRecord } from '../rows/records.ts';
import { Repair } from '../rows/repairs.ts';
import { type ServiceEntry, type ServiceRun } from '../rows/service.ts';
import { Shop } from '../rows/shop.ts';
import { TestRow } from '../rows/tests.ts';
import { Vehicle } from '../rows/vehicles.ts';
import { type Damage, readable, readHead, readVehicle } from './stored.ts';

export function vehicleView(v: Vehicle): VehicleView {
  return { ...readVehicle(v).value, id: v.id, rev: v.rev };
}

const NOT_COUNTED = { runTimeS: null, lampDistanceKm: null, lampMinutes: null, minutesSinceClear: null };

export function recordView(r: VehicleRecord): RecordView {
  const status = (hex: string | null | undefined) => {
    const bytes = hex ? fromHex(hex) : null;
    return bytes && bytes.length >= 4 ? decodeMonitors(bytes) : null;
  };
  return {
    id: r.id,
    rev: r.rev,
    phase: r.data.phase,
    at: r.createdAt.toISOString(),
    source: r.data.source,
    codes: r.data.codes.map((c) => ({ ...c, ...codeInfo(c.code) })),
    lampOn: r.data.lampOn,
    monitors: status(r.data.monitorBytes),
    cycle: status(r.data.cycleBytes),
    tests: r.data.tests ?? [],
    counters: r.data.counters ?? NOT_COUNTED,
    freezeFrame: r.data.freezeFrame,
    vin: r.data.vin,
    sensors: r.data.sensors ?? null,
    warmupsSinceClear: r.data.warmupsSinceClear,
    distanceSinceClearKm: r.data.distanceSinceClearKm,
  };
}

export function readingView(r: ReadingRow): ReadingView {
  return {
    id: r.id,
    rev: r.rev,
    phase: r.phase,
    source: r.source,
    captureId: r.captureId,
    doubtful: r.doubtful,
    at: r.createdAt.toISOString(),
    reading: r.data,
  };
}

export function testView(t: TestRow): TestView {
  return {
    id: t.id,
    rev: t.rev,
    at: t.createdAt.toISOString(),
    undone: t.undone,
    phase: t.phase,
    by: t.by,
    test: t.data,
  };
}

export function repairView(r: Repair): RepairView {
  return { id: r.id, rev: r.rev, at: r.createdAt.toISOString(), by: r.by, undone: r.undone, ...r.data };
}

export function knownView(k: KnownFigureRow): KnownView {
  return { ...k.data, id: k.id, rev: k.rev, by: k.by, layer: k.layer };
}

export function diagnosisView(d: StoredDiagnosisRow): StoredDiagnosis {
  return { id: d.id, at: d.createdAt.toISOString(), coreVersion: d.coreVersion, input: d.input, output: d.output };
}

export function captureView(c: Capture, rows: number): CaptureView {
  return {
    id: c.id,
    at: c.at,
    phase: c.phase,
    state: c.state === 'receiving' ? 'running' : c.state,
    source: c.source,
    name: c.name,
    startedAt: c.createdAt.toISOString(),
    gaps: c.gaps,
    seconds: c.form === 'rows' ? rows : (c.meta?.seconds ?? rows),
  };
}

export function runView(r: ServiceRun): RunView {
  return {
    id: r.id,
    at: r.createdAt.toISOString(),
    by: r.by,
    procedure: r.data,
    events: (r.events ?? []).map((e) => ({ id: e.id, atMs: Number(e.atMs), by: e.by, what: e.data })),
  };
}

export function entryView(e: ServiceEntry): EntryView {
  const { id, rev, by, undone, kind, data } = e;
  return { id, rev, at: e.createdAt.toISOString(), by, undone, kind, data } as EntryView;
}

export function photoView(p: Photo): PhotoView {
  const { id, rev, by, undone, step, label, good, width, height, bytes } = p;
  return { id, rev, at: p.createdAt.toISOString(), by, undone, run: p.runId, step, label, good, width, height, bytes };
}

/** Imports still coming up are nobody's business yet. Captures and their rows of one moment: see `Work.read`. */
export async function captureViews(shopId: string, jobId: string, transaction: Transaction): Promise<CaptureView[]> {
  const captures = await Capture.findAll({
    where: { shopId, jobId, state: { [Op.ne]: 'receiving' } },
    order: [['createdAt', 'ASC']],
    transaction,
  });
  const open = captures.filter((c) => c.form === 'rows').map((c) => c.id);
  const counted =
    open.length === 0
      ? []
      : ((await CaptureRow.findAll({
          where: { shopId, captureId: open },
          attributes: ['captureId', [fn('COUNT', col('seq')), 'n']],
          group: ['captureId'],
          raw: true,
          transaction,
        })) as unknown as { captureId: string; n: number }[]);
  const rows = new Map(counted.map((r) => [r.captureId, Number(r.n)]));
  return captures.map((c) => captureView(c, rows.get(c.id) ?? 0));
}

/** Figures entered for this vehicle, and the shop's known good of its engine family. */
async function knownRows(shopId: string, vehicle: Vehicle, transaction?: Transaction): Promise<KnownFigureRow[]> {
  return KnownFigureRow.findAll({
    ...(transaction ? { transaction } : {}),
    where: {
      shopId,
      undone: false,
      [Op.or]: [
        { layer: 'entered', vehicleId: vehicle.id },
        { layer: 'shop', family: familyOf(readVehicle(vehicle).value) },
      ],
    },
    order: OLDEST_FIRST,
  });
}

export const OLDEST_FIRST: [string, string][] = [
  ['createdAt', 'ASC'],
  ['id', 'ASC'],
];

export const NEWEST_FIRST: [string, string][] = [
  ['createdAt', 'DESC'],
  ['id', 'DESC'],
];

/** A run is read with what happened in it. */
export const RUN_EVENTS = {
  association: 'events',
  separate: true,
  order: [
    ['atMs', 'ASC'],
    ['id', 'ASC'],
  ] as [string, string][],
};

/** What a judgement and a summary are made from; rows that cannot be read are left out and named. */
export interface JobParts {
  vehicle: Vehicle;
  records: VehicleRecord[];
  readings: ReadingRow[];
  tests: TestRow[];
  repairs: Repair[];
  /** The newest. */
  diagnosis: StoredDiagnosisRow | null;
  runs: ServiceRun[];
  entries: ServiceEntry[];
  damage: Damage[];
}

/** The job with everything a judgement needs. Throws where it is gone. */
export async function partsOf(job: Job, transaction?: Transaction): Promise<JobParts> {
  const { id, shopId } = job;
  const rows = (association: string) => ({ association, where: { shopId }, separate: true, order: OLDEST_FIRST });
  const whole = (await Job.findOne({
    where: { id, shopId },
    include: [
      { association: 'vehicle', where: { shopId } },
      rows('records'),
      { ...rows('readings'), where: { shopId, undone: false } },
      rows('tests'),
      rows('repairs'),
      { ...rows('diagnoses'), order: NEWEST_FIRST, limit: 1 },
      { ...rows('runs'), include: [RUN_EVENTS] },
      rows('entries'),
    ],
    ...(transaction ? { transaction } : {}),
  }))!;
  const vehicle = whole.vehicle!;
  const damage: Damage[] = [...readVehicle(vehicle).damage, ...readHead(whole).damage];
  return {
    vehicle,
    records: readable('record', whole.records!, damage),
    readings: readable('reading', whole.readings!, damage),
    tests: readable('test', whole.tests!, damage),
    repairs: readable('repair', whole.repairs!, damage),
    diagnosis: whole.diagnoses![0] ?? null,
    runs: readable('run', whole.runs!, damage),
    entries: readable('entry', whole.entries!, damage),
    damage,
  };
}

/** The job as its hand-over, its waits and its outcome see it. */
export function handOverJobOf(job: Job, parts: JobParts): HandOverJob {
  const { complaint, ambient } = readHead(job);
  return {
    id: job.id,
    status: job.status,
    openedAt: job.createdAt.toISOString(),
    openedBy: job.openedBy,
    vehicle: readVehicle(parts.vehicle).value,
    ambient,
    complaint,
    records: parts.records.map(recordView),
    readings: parts.readings.map(readingView),
    tests: parts.tests.map(testView),
    repairs: parts.repairs.map(repairView),
    runs: parts.runs.map(runView),
    entries: parts.entries.map(entryView),
    photos: [],
    diagnoses: parts.diagnosis ? [diagnosisView(parts.diagnosis)] : [],
    cautions: [],
  };
}

/** Who did something to it last. */
function handsOf(parts: JobParts): string | null {
  const acts = [
    ...[...parts.tests, ...parts.repairs, ...parts.entries].map((r) => ({ at: r.createdAt.getTime(), by: r.by })),
    ...parts.runs.flatMap((r) => (r.events ?? []).map((e) => ({ at: Number(e.atMs), by: e.by }))),
  ];
  return (
    acts.reduce<{ at: number; by: string } | null>((a, b) => (a === null || b.at >= a.at ? b : a), null)?.by ?? null
  );
}

/** What is kept with the job for the board. */
export function storedSummary(job: HandOverJob, parts: JobParts, proof: ProofJudgement | null): StoredSummary {
  const first = parts.diagnosis?.output.causes[0];
  const points = (phase: string) => new Set(parts.readings.filter((r) => r.phase === phase).map((r) => r.data.at)).size;
  const vehicle = readVehicle(parts.vehicle).value;
  return {
    label: vehicle.label,
    note: vehicle.note ?? null,
    counts: {
      records: parts.records.length,
      recordsAfter: parts.records.filter((r) => r.data.phase === 'after').length,
      before: points('before'),
      after: points('after'),
      tests: parts.tests.filter((t) => !t.undone).length,
      repairs: parts.repairs.filter((r) => !r.undone).length,
    },
    leading: first ? { fault: first.fault, probability: first.probability } : null,
    standing: standingOf(job, proof),
    waits:
      job.status === 'closed' ? waitsOf(job).filter((w) => w.for === 'trip' || w.for === 'look-again') : waitsOf(job),
    hands: handsOf(parts),
  };
}

/** Of a job whose summary was not kept yet, or by an earlier version. What the logbook found stays. */
export function summed(job: Job, parts: JobParts): StoredSummary {
  const whole = handOverJobOf(job, parts);
  const found = job.summary?.found;
  return { ...storedSummary(whole, parts, provenHere(whole, {})), ...(found ? { found } : {}) };
}

/** What was kept with the job; null where an earlier version kept something else. */
export function keptSummary(job: Pick<Job, 'summary'>): StoredSummary | null {
  // Of a row from before it said where the job stands.
  const { summary } = job as { summary: Partial<StoredSummary> | null };
  return summary?.standing ? (summary as StoredSummary) : null;
}

/** What a list shows of where a job stands. */
const fromStanding = ({ standing: { worst, work, proof } }: Pick<StoredSummary, 'standing'>) => ({
  worst,
  work,
  verdict: proof?.verdict ?? null,
});

/** What a list reads of a job's row: as it is, without an instance around each. */
export const LISTED = [
  'id',
  'rev',
  'status',
  'createdAt',
  'openedBy',
  'practice',
  'vehicleId',
  'complaint',
  'ambient',
  'summary',
] as const;
export type ListedJob = Pick<Job, (typeof LISTED)[number]>;

/** A row of the board, from the job's own row alone. */
export function listItem(job: ListedJob, { found: _, ...summary }: StoredSummary): JobListItem {
  const { complaint, damage } = readHead(job);
  return {
    id: job.id,
    rev: job.rev,
    status: job.status,
    symptom: complaint.symptoms[0] ?? null,
    openedAt: job.createdAt.toISOString(),
    openedBy: job.openedBy,
    damaged: damage.length > 0,
    ...summary,
    ...fromStanding(summary),
    // 0 or 1 where the row was read as it is.
    practice: Boolean(job.practice),
  };
}

export function summaryView(job: Job, vehicle: Vehicle, stored: StoredSummary): JobSummary {
  const { complaint, ambient } = readHead(job);
  const { label, note, found, ...summary } = stored;
  return {
    id: job.id,
    rev: job.rev,
    status: job.status,
    vehicle: vehicleView(vehicle),
    complaint,
    ambient,
    adapter: job.adapter,
    openedAt: job.createdAt.toISOString(),
    openedBy: job.openedBy,
    imported: job.importedAt && { by: job.importedBy ?? '', at: job.importedAt.toISOString() },
    ...summary,
    ...fromStanding(summary),
    practice: job.practice,
  };
}

/** Figures that beat physics for the job's vehicle and its engine family. */
export async function knownViews(vehicle: Vehicle, damage: Damage[], transaction?: Transaction): Promise<KnownView[]> {
  const typed = readable('known', await knownRows(vehicle.shopId, vehicle, transaction), damage).map(knownView);
  const shop = await Shop.findByPk(vehicle.shopId, {
    attributes: ['learned'],
    ...(transaction ? { transaction } : {}),
  });
  const figures = learnedFigures({ figures: shop?.learned?.figures ?? [] }, familyOf(readVehicle(vehicle).value));
  // What a person wrote down for the family beats what was counted.
  const learned = figures
    .filter((f) => !typed.some((k) => k.layer === 'shop' && k.at === f.at && k.quantity === f.quantity))
    .map((f) => ({ ...f, id: `learned-${f.at}-${f.quantity}`, rev: 0, by: 'this shop' }));
  return [...learned, ...typed];
}

export function cautionViews(events: readonly JobEvent[]): CautionView[] {
  return events
    .filter((e) => e.kind === 'caution' && typeof e.data.caution === 'string')
    .map((e) => ({
      caution: e.data.caution as string,
      step: typeof e.data.step === 'string' ? e.data.step : '',
      at: e.createdAt.toISOString(),
      by: e.by,
    }));
}

/** Everything a job holds, for its export, as it stood at one moment: see `Work.read`. */
export async function wholeJob(job: Job, transaction: Transaction): Promise<WholeJob> {
  const parts = await partsOf(job, transaction);
  const rows = { where: { shopId: job.shopId, jobId: job.id }, order: OLDEST_FIRST, transaction };
  const events = await JobEvent.findAll(rows);
  const diagnoses = await StoredDiagnosisRow.findAll(rows);
  const known = await knownViews(parts.vehicle, parts.damage, transaction);
  const captures = await captureViews(job.shopId, job.id, transaction);
  const photos = await Photo.findAll({ ...rows, attributes: { exclude: ['image', 'small'] } });
  return {
    ...summaryView(job, parts.vehicle, keptSummary(job) ?? summed(job, parts)),
    records: parts.records.map(recordView),
    readings: parts.readings.map(readingView),
    tests: parts.tests.map(testView),
    repairs: parts.repairs.map(repairView),
    captures,
    runs: parts.runs.map(runView),
    entries: parts.entries.map(entryView),
    photos: photos.map(photoView),
    known,
    cautions: cautionViews(events),
    diagnoses: diagnoses.map(diagnosisView),
    events: events.map((e) => ({ id: e.id, at: e.createdAt.toISOString(), by: e.by, kind: e.kind, data: e.data })),
    damaged: parts.damage,
  };
}
