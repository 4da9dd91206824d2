import type {
  CaptureView,
  JobSummary,
  JobView,
  KnownView,
  ReadingView,
  RecordView,
  RepairView,
  StoredDiagnosis,
  TestView,
  VehicleView,
} from '@just-balance/contract';
import { fromHex } from '@just-balance/core/can';
import { familyOf } from '@just-balance/core/expected';
import { codeText, decodeMonitors } from '@just-balance/core/obd';
import { displayedTotal } from '@just-balance/core/trims';
import { Op } from 'sequelize';
import {
  Capture,
  CaptureRow,
  Job,
  JobEvent,
  KnownFigureRow,
  ReadingRow,
  Repair,
  StoredDiagnosisRow,
  TestRow,
  Vehicle,
  VehicleRecord,
} from '../database/models.ts';

export function vehicleView(v: Vehicle): VehicleView {
  return { ...v.data, id: v.id, rev: v.rev };
}

export function recordView(r: VehicleRecord): RecordView {
  const bytes = r.data.monitorBytes ? fromHex(r.data.monitorBytes) : null;
  return {
    id: r.id,
    phase: r.data.phase,
    at: r.createdAt.toISOString(),
    source: r.data.source,
    codes: r.data.codes.map((c) => ({ ...c, text: codeText(c.code) })),
    lampOn: r.data.lampOn,
    monitors: bytes && bytes.length >= 4 ? decodeMonitors(bytes) : null,
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
  return { id: t.id, rev: t.rev, at: t.createdAt.toISOString(), undone: t.undone, by: t.by, test: t.data };
}

export function repairView(r: Repair): RepairView {
  return { id: r.id, rev: r.rev, at: r.createdAt.toISOString(), by: r.by, undone: r.undone, ...r.data };
}

export async function captureView(c: Capture): Promise<CaptureView> {
  return {
    id: c.id,
    at: c.at,
    phase: c.phase,
    state: c.state === 'receiving' ? 'running' : c.state,
    source: c.source,
    name: c.name,
    startedAt: c.createdAt.toISOString(),
    gaps: c.gaps,
    seconds: c.meta?.seconds ?? (await CaptureRow.count({ where: { captureId: c.id, shopId: c.shopId } })),
  };
}

/** Imports still coming up are nobody's business yet. */
async function captureViews(shopId: string, jobId: string): Promise<CaptureView[]> {
  const captures = await Capture.findAll({
    where: { shopId, jobId, state: { [Op.ne]: 'receiving' } },
    order: [['createdAt', 'ASC']],
  });
  return Promise.all(captures.map(captureView));
}

/** Figures entered for this vehicle, and the shop's known good of its engine family. */
async function knownViews(shopId: string, vehicle: Vehicle): Promise<KnownView[]> {
  const rows = await KnownFigureRow.findAll({
    where: {
      shopId,
      undone: false,
      [Op.or]: [
        { layer: 'entered', vehicleId: vehicle.id },
        { layer: 'shop', family: familyOf(vehicle.data) },
      ],
    },
    order: [
      ['createdAt', 'ASC'],
      ['id', 'ASC'],
    ],
  });
  return rows.map((k) => ({ ...k.data, id: k.id, rev: k.rev, by: k.by, layer: k.layer }));
}

/** The worst displayed total among the newest reading of each point. */
function worstOf(readings: readonly ReadingRow[]): JobSummary['worst'] {
  const newest = new Map(readings.map((r) => [`${r.phase} ${r.data.at}`, r]));
  const hasAfter = readings.some((r) => r.phase === 'after');
  let worst: JobSummary['worst'] = null;
  for (const r of newest.values()) {
    if (hasAfter && r.phase !== 'after') continue;
    for (const t of Object.values(r.data.trims ?? {})) {
      const total = t && displayedTotal(t);
      if (total !== undefined && (worst === null || Math.abs(total) > Math.abs(worst.totalPct)))
        worst = { totalPct: total, at: r.data.at };
    }
  }
  return worst;
}

function summary(
  job: Job,
  vehicle: Vehicle,
  parts: {
    records: VehicleRecord[];
    readings: ReadingRow[];
    tests: TestRow[];
    repairs: Repair[];
    diagnosis: StoredDiagnosisRow | undefined;
  },
): JobSummary {
  const first = parts.diagnosis?.output.causes[0];
  return {
    id: job.id,
    rev: job.rev,
    status: job.status,
    vehicle: vehicleView(vehicle),
    complaint: job.complaint,
    ambient: job.ambient,
    adapter: job.adapter,
    openedAt: job.createdAt.toISOString(),
    openedBy: job.openedBy,
    worst: worstOf(parts.readings),
    counts: {
      records: parts.records.length,
      recordsAfter: parts.records.filter((r) => r.data.phase === 'after').length,
      before: new Set(parts.readings.filter((r) => r.phase === 'before').map((r) => r.data.at)).size,
      after: new Set(parts.readings.filter((r) => r.phase === 'after').map((r) => r.data.at)).size,
      tests: parts.tests.filter((t) => !t.undone).length,
      repairs: parts.repairs.filter((r) => !r.undone).length,
    },
    leading: first ? { fault: first.fault, probability: first.probability } : null,
  };
}

async function partsOf(shopId: string, jobId: string) {
  const where = { shopId, jobId };
  const order: [string, string][] = [
    ['createdAt', 'ASC'],
    ['id', 'ASC'],
  ];
  const [records, readings, tests, repairs, diagnoses] = await Promise.all([
    VehicleRecord.findAll({ where, order }),
    ReadingRow.findAll({ where, order }),
    TestRow.findAll({ where, order }),
    Repair.findAll({ where, order }),
    StoredDiagnosisRow.findAll({ where, order }),
  ]);
  return { records, readings, tests, repairs, diagnoses, diagnosis: diagnoses.at(-1) };
}

export async function jobSummary(job: Job): Promise<JobSummary> {
  const vehicle = (await Vehicle.findOne({ where: { id: job.vehicleId, shopId: job.shopId } }))!;
  return summary(job, vehicle, await partsOf(job.shopId, job.id));
}

/** Everything a job holds. */
export async function jobView(job: Job): Promise<JobView> {
  const vehicle = (await Vehicle.findOne({ where: { id: job.vehicleId, shopId: job.shopId } }))!;
  const parts = await partsOf(job.shopId, job.id);
  const events = await JobEvent.findAll({
    where: { shopId: job.shopId, jobId: job.id },
    order: [
      ['createdAt', 'ASC'],
      ['id', 'ASC'],
    ],
  });
  return {
    ...summary(job, vehicle, parts),
    records: parts.records.map(recordView),
    readings: parts.readings.map(readingView),
    tests: parts.tests.map(testView),
    repairs: parts.repairs.map(repairView),
    captures: await captureViews(job.shopId, job.id),
    known: await knownViews(job.shopId, vehicle),
    cautions: events
      .filter((e) => e.kind === 'caution')
      .map((e) => ({
        caution: String(e.data.caution),
        step: String(e.data.step),
        at: e.createdAt.toISOString(),
        by: e.by,
      })),
    diagnoses: parts.diagnoses.map(
      (d): StoredDiagnosis => ({
        id: d.id,
        at: d.createdAt.toISOString(),
        coreVersion: d.coreVersion,
        input: d.input,
        output: d.output,
      }),
    ),
    events: events.map((e) => ({ id: e.id, at: e.createdAt.toISOString(), by: e.by, kind: e.kind, data: e.data })),
  };
}
