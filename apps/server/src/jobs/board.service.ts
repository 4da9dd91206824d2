import {
  type JobCounts,
  type JobListItem,
  type JobListQuery,
  type PartOrderView,
  type RunningCapture,
} from '@just-balance/contract';
import { ORDER_STATES } from '@just-balance/core/procedures';
import { Injectable } from '@nestjs/common';
import { Op, type WhereOptions } from 'sequelize';
import { badFields } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { Capture } from '../rows/captures.ts';
import { Job } from '../rows/jobs.ts';
import { Vehicle } from '../rows/vehicles.ts';
import { readVehicle } from './stored.ts';
import { keptSummary, LISTED, type ListedJob, listItem } from './summaries.ts';
import { JobWrites } from './write.ts';

/** Rows of the board a page. [house] */
const PAGE = 50;
/** Reminders of the board: a day ahead, two months behind. [house] */
const DUE_AHEAD_MS = 86_400_000;
const DUE_BEHIND_MS = 60 * 86_400_000;
const MOST_DUE = 40;
/** Captures shown at once: one a bay. [house] */
const MOST_RUNNING = 50;

/** The shop's jobs in lists: the board, what is to be looked at again, what runs now. */
@Injectable()
export class BoardService {
  constructor(private readonly jobs: JobWrites) {}

  /** A page of the board, newest first, and the address of the next page. One query. */
  async list(who: Actor, q: JobListQuery): Promise<{ jobs: JobListItem[]; next: string | null }> {
    const limit = q.limit ?? PAGE;
    const where: WhereOptions[] = [{ shopId: who.shopId, practice: false }];
    if (q.status === 'open') where.push({ status: ['open', 'parked'] });
    if (q.status === 'closed') where.push({ status: 'closed' });
    if (q.whose === 'mine') where.push({ openedBy: who.name });
    const before = q.before === undefined ? null : cursorOf(q.before);
    if (before)
      where.push({
        [Op.or]: [{ createdAt: { [Op.lt]: before.at } }, { createdAt: before.at, id: { [Op.lt]: before.id } }],
      });
    const rows = await Job.findAll({
      where: { [Op.and]: where },
      order: [
        ['createdAt', 'DESC'],
        ['id', 'DESC'],
      ],
      limit: limit + 1,
      attributes: [...LISTED],
      raw: true,
    });
    const shown = rows.slice(0, limit);
    const jobs = await this.listed(who, shown);
    const last = shown.at(-1);
    return { jobs, next: rows.length > limit && last ? `${last.createdAt.getTime()}_${last.id}` : null };
  }

  /** Jobs, handed over ones too, on which somebody should look by tomorrow; what was left for long is not repeated. */
  async due(who: Actor): Promise<JobListItem[]> {
    const now = Date.now();
    const rows = await Job.findAll({
      where: {
        shopId: who.shopId,
        practice: false,
        remindAt: { [Op.gte]: new Date(now - DUE_BEHIND_MS), [Op.lt]: new Date(now + DUE_AHEAD_MS) },
      },
      order: [['remindAt', 'ASC']],
      limit: MOST_DUE,
      attributes: [...LISTED],
      raw: true,
    });
    return this.listed(who, rows);
  }

  /** Rows of a list; a job whose summary was not kept yet is read whole, once. */
  async listed(who: Actor, rows: readonly ListedJob[]): Promise<JobListItem[]> {
    const out: JobListItem[] = [];
    const plates = await this.platesOf(who, rows);
    for (const job of rows) {
      const summary = await this.jobs.summaryOf(job, who.shopId);
      const plate = plates.get(job.vehicleId);
      out.push(listItem(job, plate === undefined ? summary : { ...summary, plate }));
    }
    return out;
  }

  /** By vehicle, for rows whose summary is of before plates were kept in it: one query for all of them, or none. */
  private async platesOf(who: Actor, rows: readonly ListedJob[]): Promise<Map<string, string | null>> {
    const id = rows.filter((r) => keptSummary(r)?.plate === undefined).map((r) => r.vehicleId);
    if (id.length === 0) return new Map();
    const cars = await Vehicle.findAll({ where: { id, shopId: who.shopId } });
    return new Map(cars.map((v) => [v.id, readVehicle(v).value.plate ?? null]));
  }

  async running(who: Actor): Promise<RunningCapture[]> {
    const captures = await Capture.findAll({
      where: { shopId: who.shopId, state: 'running' },
      attributes: ['id', 'jobId', 'at', 'createdAt'],
      order: [['createdAt', 'ASC']],
      limit: MOST_RUNNING,
    });
    const jobs = await Job.findAll({
      where: { shopId: who.shopId, practice: false, id: captures.map((c) => c.jobId) },
      attributes: [...LISTED],
      raw: true,
    });
    const byId = new Map(jobs.map((j) => [j.id, j]));
    const out: RunningCapture[] = [];
    for (const c of captures) {
      const job = byId.get(c.jobId);
      if (!job) continue;
      const { label, note, hands } = listItem(job, await this.jobs.summaryOf(job, who.shopId));
      out.push({
        id: c.id,
        job: job.id,
        label,
        note,
        at: c.at,
        since: c.createdAt.toISOString(),
        hands,
      });
    }
    return out;
  }

  /** Parts that the works of all jobs ask for, those not ordered yet first, the oldest of each first. */
  async orders(who: Actor): Promise<PartOrderView[]> {
    const rows = await Job.findAll({
      where: { shopId: who.shopId, practice: false, orders: { [Op.gt]: 0 } },
      order: [['createdAt', 'ASC']],
      attributes: ['id', 'summary'],
      raw: true,
    });
    const place = (o: PartOrderView) => ORDER_STATES.indexOf(o.is);
    return rows
      .flatMap((job) => {
        const { label, note, orders } = keptSummary(job) ?? {};
        return (orders ?? []).map((o) => ({ job: job.id, label: label ?? '', note: note ?? null, ...o }));
      })
      .sort((a, b) => place(a) - place(b) || (a.at < b.at ? -1 : a.at > b.at ? 1 : 0));
  }

  async counts(who: Actor): Promise<JobCounts> {
    const open = { shopId: who.shopId, practice: false, status: ['open', 'parked'] };
    const [everyone, mine, all] = await Promise.all([
      Job.count({ where: open }),
      Job.count({ where: { ...open, openedBy: who.name } }),
      Job.count({ where: { shopId: who.shopId, practice: false } }),
    ]);
    return { open: everyone, mine, all };
  }
}

function cursorOf(text: string): { at: Date; id: string } {
  const m = /^(\d{1,13})_([0-9a-f-]{36})$/i.exec(text);
  if (!m) throw badFields([{ field: 'before', message: 'not a place in this list' }]);
  return { at: new Date(Number(m[1])), id: m[2]! };
}
