import { CORE_VERSION, diagnose } from '@just-balance/core/diagnosis';
import { caseOfJob } from '@just-balance/core/job';
import type { Sequelize } from 'sequelize';
import { v7 as uuidv7 } from 'uuid';
import { DEMO_ACCOUNTS } from '../accounts/demoAccounts.ts';
import { hashPassword } from '../accounts/passwords.ts';
import { partsOf } from '../jobs/parts.ts';
import { summed } from '../jobs/summaries.ts';
import { Account } from '../rows/accounts.ts';
import { Job, JobEvent, StoredDiagnosisRow } from '../rows/jobs.ts';
import { ReadingRow } from '../rows/readings.ts';
import { VehicleRecord } from '../rows/records.ts';
import { Repair } from '../rows/repairs.ts';
import { Shop } from '../rows/shop.ts';
import { TestRow } from '../rows/tests.ts';
import { Vehicle } from '../rows/vehicles.ts';
import { DEMO_JOBS } from './jobs.ts';
import type { DemoJob } from './types.ts';
import { seedYear } from './year.ts';

/** Invented. */
const LETTERHEAD = { does: 'Engine workshop', address: '3 Linden Yard, Orrelby', phone: '0555 010 640' };

/** Fill an empty database with the demo shop. Does nothing when any account exists. Returns whether it seeded. */
export async function seedDemo(db: Sequelize, year: string | null): Promise<boolean> {
  if ((await Account.count()) > 0) return false;
  const shopId = uuidv7();
  await Shop.create({ id: shopId, name: 'Linden Yard', settings: { letterhead: LETTERHEAD }, rev: 1 });
  for (const a of DEMO_ACCOUNTS) {
    await Account.create({
      id: uuidv7(),
      shopId,
      email: a.email,
      name: a.name,
      role: a.role,
      passwordHash: await hashPassword(a.password),
    });
  }
  if (year) await seedYear(db, shopId, year);
  for (const j of DEMO_JOBS) await seedJob(shopId, j);
  return true;
}

async function seedJob(shopId: string, j: DemoJob): Promise<void> {
  const vehicleId = uuidv7();
  const jobId = uuidv7();
  const owned = () => ({ id: uuidv7(), shopId, jobId });
  const record = (phase: string, r: { codes?: unknown[]; lampOn?: boolean; monitorBytes: string }) =>
    VehicleRecord.create({
      ...owned(),
      data: {
        phase,
        source: 'link',
        codes: r.codes ?? [],
        lampOn: r.lampOn ?? false,
        monitorBytes: r.monitorBytes,
        freezeFrame: [],
        vin: j.vehicle.vin ?? null,
        warmupsSinceClear: 61,
        distanceSinceClearKm: 2480,
      },
    });
  await Vehicle.create({ id: vehicleId, shopId, rev: 1, data: j.vehicle });
  await Job.create({
    id: jobId,
    shopId,
    rev: 1,
    vehicleId,
    status: 'open',
    complaint: j.complaint,
    ambient: j.ambient,
    adapter: j.adapter,
    openedBy: j.by,
  });
  await JobEvent.create({
    ...owned(),
    accountId: null,
    by: j.by,
    kind: 'opened',
    data: { symptoms: j.complaint.symptoms },
  });
  if (j.record) await record('before', j.record);
  for (const [phase, list] of [
    ['before', j.before ?? []],
    ['after', j.after ?? []],
  ] as const) {
    for (const data of list)
      await ReadingRow.create({ ...owned(), rev: 1, phase, source: 'hand', captureId: null, doubtful: null, data });
  }
  for (const data of j.tests ?? []) await TestRow.create({ ...owned(), rev: 1, undone: false, by: j.by, data });
  if (j.repair)
    await Repair.create({ ...owned(), rev: 1, undone: false, by: j.by, data: { ...j.repair, adaptation: 'relearn' } });
  if (j.recordAfter) await record('after', j.recordAfter);
  const job = (await Job.findOne({ where: { id: jobId, shopId } }))!;
  const parts = await partsOf(job);
  if (j.before?.length) {
    const input = caseOfJob({
      id: jobId,
      vehicle: j.vehicle,
      ambient: j.ambient,
      complaint: j.complaint,
      records: parts.records.map((r) => r.data),
      readings: parts.readings.map((r) => ({ phase: r.phase, reading: r.data })),
      tests: parts.tests.map((t) => ({ undone: t.undone, test: t.data })),
    });
    parts.diagnosis = await StoredDiagnosisRow.create({
      ...owned(),
      coreVersion: CORE_VERSION,
      input,
      settings: {},
      output: diagnose(input),
    });
  }
  await job.update({ summary: summed(job, parts) });
}
