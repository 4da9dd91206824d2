import type { Transaction } from 'sequelize';
import { literal } from 'sequelize';
import { v7 as uuidv7 } from 'uuid';
import { notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { Job, JobEvent, JobTag, Photo, ServiceEntry, ShopChange, Vehicle, VehicleRecord } from '../database/models.ts';
import { dropWords } from '../jobs/filing.ts';

/** What takes the place of a person's words. */
const ERASED = 'erased on request';

/**
 * Take out of a vehicle and all its jobs what a person is known by: plate, VIN, notes, what was told and by whom,
 * pictures, own words of the hand-over. Figures, codes, tests, repairs and causes stay, so that the shop's learning does. The
 * history loses what it held of these fields, and says that it did.
 */
export async function eraseCustomer(
  who: Actor,
  vehicleId: string,
  reason: string,
  transaction: Transaction,
): Promise<string[]> {
  const { shopId } = who;
  const vehicle = await Vehicle.findOne({ where: { id: vehicleId, shopId }, transaction, lock: true });
  if (!vehicle) throw notHere('vehicle');
  const { plate: _, vin: __, note: ___, ...kept } = vehicle.data;
  await vehicle.update({ data: kept, rev: vehicle.rev + 1 }, { transaction });
  const jobs = await Job.findAll({ where: { shopId, vehicleId }, transaction, lock: true });
  const ids = jobs.map((j) => j.id);
  for (const job of jobs) {
    const { story: _s, noticedBy: _n, otherLamps, ...complaint } = job.complaint;
    await job.update(
      {
        complaint: { ...complaint, story: ERASED, ...(otherLamps ? { otherLamps } : {}) },
        rev: job.rev + 1,
        changes: job.changes + 1,
      },
      { transaction },
    );
  }
  const records = await VehicleRecord.findAll({ where: { shopId, jobId: ids }, transaction });
  for (const r of records) if (r.data.vin) await r.update({ data: { ...r.data, vin: null } }, { transaction });
  await Photo.destroy({ where: { shopId, jobId: ids }, transaction });
  await ServiceEntry.destroy({ where: { shopId, jobId: ids, kind: 'wording' }, transaction });
  const where = { shopId, jobId: ids, kind: 'word' };
  const words = await JobTag.findAll({ where, attributes: ['value'], group: ['value'], raw: true, transaction });
  await JobTag.destroy({ where, transaction });
  await dropWords(
    shopId,
    words.map((w) => w.value),
    transaction,
  );
  // The history takes no change from anybody; erasing alone may blank what it holds of a person.
  await Job.sequelize!.query('SET @jb_erasing = 1', { transaction });
  await JobEvent.update(
    { data: literal("JSON_OBJECT('erased', TRUE)") as never },
    { where: { shopId, jobId: ids, kind: ['vehicle', 'changed', 'mended'] }, transaction },
  );
  await Job.sequelize!.query('SET @jb_erasing = NULL', { transaction });
  await ShopChange.create(
    {
      id: uuidv7(),
      shopId,
      accountId: who.accountId,
      by: who.name,
      kind: 'erased',
      data: { vehicle: vehicleId, jobs: ids.length, reason },
    },
    { transaction },
  );
  return ids;
}
