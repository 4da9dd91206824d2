import {
  type CaptureView,
  type CautionView,
  type EntryView,
  type KnownView,
  type PhotoView,
  type ReadingView,
  type RecordView,
  type RepairView,
  type RunView,
  type StoredDiagnosis,
  type TestView,
  type VehicleView,
} from '@just-balance/contract';
import { fromHex } from '@just-balance/core/can';
import { familyOf } from '@just-balance/core/expected';
import { codeInfo, decodeMonitors } from '@just-balance/core/obd';
import { learnedFigures } from '@just-balance/core/shop';
import { col, fn, Op, type Transaction } from 'sequelize';
import { Capture, CaptureRow } from '../rows/captures.ts';
import { JobEvent, StoredDiagnosisRow } from '../rows/jobs.ts';
import { KnownFigureRow } from '../rows/known.ts';
import { OLDEST_FIRST } from '../rows/order.ts';
import { Photo } from '../rows/photos.ts';
import { ReadingRow } from '../rows/readings.ts';
import { VehicleRecord } from '../rows/records.ts';
import { Repair } from '../rows/repairs.ts';
import { type ServiceEntry, type ServiceRun } from '../rows/service.ts';
import { Shop } from '../rows/shop.ts';
import { TestRow } from '../rows/tests.ts';
import { Vehicle } from '../rows/vehicles.ts';
import { type Damage, readable, readVehicle } from './stored.ts';

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
    events: (r.events ?? []).map((e) => ({
      id: e.id,
      atMs: Number(e.atMs),
      ...(e.orderMs == null ? {} : { orderMs: Number(e.orderMs) }),
      by: e.by,
      what: e.data,
    })),
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
