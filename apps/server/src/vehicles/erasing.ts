import { Op, type Transaction, type WhereOptions } from 'sequelize';
import { v7 as uuidv7 } from 'uuid';
import { notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { dropWords } from '../jobs/indexing.ts';
import { Capture, CaptureFrames } from '../rows/captures.ts';
import { DoneRequest } from '../rows/doneRequest.ts';
import { Job, JobEvent } from '../rows/jobs.ts';
import { JobTag, SavedView } from '../rows/logbook.ts';
import { Photo } from '../rows/photos.ts';
import { ServiceEntry } from '../rows/service.ts';
import { ShopChange } from '../rows/shop.ts';
import { Vehicle } from '../rows/vehicles.ts';
import { erased, PERSONAL, saysAny, wordsOf } from './personal.ts';

/** Rows of one table that are looked through at a time. */
const AT_ONCE = 500;

/**
 * Take out of a vehicle and all its jobs what a person is known by, wherever it may stand (`PERSONAL`): plate, VIN,
 * notes, what was told and by whom, free words about the work, pictures, own words of the hand-over, answers kept for
 * repeats, saved searches. Figures, codes, results, parts and causes stay, so that the shop's learning does. The history
 * loses these words, and says that it did.
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
  const jobs = await Job.findAll({ where: { shopId, vehicleId }, transaction, lock: true });
  const ids = jobs.map((j) => j.id);
  const heads = await cardsOf(vehicle, ids, transaction);
  const words = wordsOf(
    heads,
    jobs.flatMap((j) => (typeof j.complaint?.noticedBy === 'string' ? [j.complaint.noticedBy] : [])),
  );
  await Photo.destroy({ where: { shopId, jobId: ids }, transaction });
  // A bus tells the VIN to whoever asks: what is kept of it goes, the values stay.
  const captureId = (await Capture.findAll({ where: { shopId, jobId: ids }, attributes: ['id'], transaction })).map(
    (c) => c.id,
  );
  await CaptureFrames.destroy({ where: { shopId, captureId }, transaction });
  await ServiceEntry.destroy({ where: { shopId, jobId: ids, kind: 'wording' }, transaction });
  // The history takes no change from anybody; erasing alone may blank what it holds of a person.
  await Job.sequelize!.query('SET @jb_erasing = 1', { transaction });
  try {
    await eraseColumns(shopId, vehicleId, ids, words, transaction);
  } finally {
    // The connection goes back to the others.
    await Job.sequelize!.query('SET @jb_erasing = NULL', { transaction });
  }
  for (const row of [vehicle, ...jobs]) {
    await row.reload({ transaction });
    await row.update({ rev: row.rev + 1 }, { transaction });
  }
  await Job.increment({ changes: 1 }, { where: { id: ids }, transaction });
  await forgetAnswers([...ids, vehicleId], transaction);
  await forgetSearches(shopId, ids, words, transaction);
  await forgetReasons(shopId, ids, words, transaction);
  const said = { vehicle: vehicleId, jobs: ids.length, reason: erased(reason, { typed: [] }, words) };
  await ShopChange.create(
    { id: uuidv7(), shopId, accountId: who.accountId, by: who.name, kind: 'erased', data: said },
    { transaction },
  );
  return ids;
}

/** The card as it is and as it ever was: a plate that was put right is known by too. */
async function cardsOf(vehicle: Vehicle, jobId: string[], transaction: Transaction) {
  const changes = await JobEvent.findAll({ where: { jobId, kind: 'vehicle' }, transaction });
  const all = [vehicle.data, ...changes.flatMap((e) => [e.data?.before, e.data?.after])] as Record<string, unknown>[];
  const of = (key: string) =>
    all.flatMap((c) => (c && typeof c === 'object' && typeof c[key] === 'string' ? [c[key] as string] : []));
  return { plates: of('plate'), vins: of('vin'), notes: of('note') };
}

async function eraseColumns(
  shopId: string,
  vehicleId: string,
  jobId: string[],
  words: readonly RegExp[],
  transaction: Transaction,
): Promise<void> {
  for (const { model, column, ...how } of PERSONAL) {
    const whose: WhereOptions = model === Vehicle ? { id: vehicleId } : model === Job ? { id: jobId } : { jobId };
    for (let after = ''; ; ) {
      const rows = await model.findAll({
        where: { shopId, ...whose, ...(after ? { id: { [Op.gt]: after } } : {}) } as WhereOptions,
        attributes: ['id', column],
        order: [['id', 'ASC']],
        limit: AT_ONCE,
        transaction,
      });
      for (const row of rows) {
        const was = row.get(column);
        if (was === null || was === undefined) continue;
        const now = how.typed.includes(column) ? erased({ [column]: was }, how, words) : null;
        const value = now ? (now as Record<string, unknown>)[column] : erased(was, how, words);
        if (JSON.stringify(value) !== JSON.stringify(was))
          await model.update({ [column]: value }, { where: { id: row.get('id') } as WhereOptions, transaction });
      }
      if (rows.length < AT_ONCE) break;
      after = String(rows.at(-1)!.get('id'));
    }
  }
}

/** Answers kept for repeats: the key stays, so that nothing is done twice; what was answered goes. */
async function forgetAnswers(ids: readonly string[], transaction: Transaction): Promise<void> {
  for (const id of ids)
    await DoneRequest.update(
      { response: null },
      {
        where: { [Op.or]: [{ request: { [Op.substring]: id } }, { response: { [Op.substring]: id } }] } as WhereOptions,
        transaction,
      },
    );
}

/** Why a job was left out of what is learned, in a lead's words. */
async function forgetReasons(
  shopId: string,
  ids: readonly string[],
  words: readonly RegExp[],
  transaction: Transaction,
): Promise<void> {
  for (const row of await ShopChange.findAll({ where: { shopId, kind: 'left-out' }, transaction }))
    if (ids.includes(String(row.data.job)))
      await row.update(
        { data: erased(row.data, { typed: ['reason'] }, words) as Record<string, unknown> },
        { transaction },
      );
}

/** Words that find the jobs, and searches that people saved for them. */
async function forgetSearches(
  shopId: string,
  jobId: string[],
  words: readonly RegExp[],
  transaction: Transaction,
): Promise<void> {
  const where = { shopId, jobId, kind: 'word' };
  const found = await JobTag.findAll({ where, attributes: ['value'], group: ['value'], raw: true, transaction });
  await JobTag.destroy({ where, transaction });
  await dropWords(
    shopId,
    found.map((w) => w.value),
    transaction,
  );
  for (const view of await SavedView.findAll({ where: { shopId }, transaction })) {
    const asked = [...new URLSearchParams(view.query).values()];
    if (saysAny([view.name, ...asked].join(' \n '), words)) await view.destroy({ transaction });
  }
}
