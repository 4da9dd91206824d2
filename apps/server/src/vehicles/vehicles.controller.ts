import {
  EraseRequest,
  type KeptDrive,
  type VehicleChangeView,
  VehicleQuery,
  type VehicleView,
  type VehicleVisit,
} from '@just-balance/contract';
import { type DriveEntry } from '@just-balance/contract/drives';
import { entryProblems } from '@just-balance/contract/service';
import { bankTotals } from '@just-balance/core/proof';
import { Body, Controller, Get, HttpCode, Param, ParseUUIDPipe, Post, Query, Res } from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { literal, Op, type WhereOptions } from 'sequelize';
import { notHere } from '../common/errors.ts';
import { isGroup } from '../common/group.ts';
import { type Actor, Who } from '../common/request.ts';
import { Work } from '../database/work.ts';
import { vehicleView } from '../jobs/rowViews.ts';
import { readable } from '../jobs/stored.ts';
import { keptSummary } from '../jobs/summaries.ts';
import { JobWrites } from '../jobs/write.ts';
import { LogbookService } from '../logbook/logbook.service.ts';
import { Job, JobEvent } from '../rows/jobs.ts';
import { JobOutcomeRow } from '../rows/learning.ts';
import { OLDEST_FIRST } from '../rows/order.ts';
import { ReadingRow } from '../rows/readings.ts';
import { Repair } from '../rows/repairs.ts';
import { ServiceEntry } from '../rows/service.ts';
import { Vehicle } from '../rows/vehicles.ts';
import { eraseCustomer } from './erasing.ts';

/** Drives of one vehicle that are shown. [house] */
const MOST_DRIVES = 500;
/** Changes of one card that are shown, the newest. [house] */
const MOST_CHANGES = 100;
/** Visits of one vehicle that are shown, the newest. [house] */
const MOST_VISITS = 100;

const PAGE = 200;

@ApiTags('vehicles')
@Controller('vehicles')
export class VehiclesController {
  constructor(
    private readonly work: Work,
    private readonly jobs: JobWrites,
    private readonly logbook: LogbookService,
  ) {}

  /** The shop's vehicles, newest first, by pages; with words those whose jobs have them, the newest job's first. */
  @Get()
  async list(
    @Who() who: Actor,
    @Query() q: VehicleQuery,
    @Res({ passthrough: true }) res: Response,
  ): Promise<VehicleView[]> {
    if (q.q?.trim()) {
      const ids = await this.logbook.vehiclesOf(who.shopId, q.q);
      const found = await Vehicle.findAll({ where: { id: ids, shopId: who.shopId } });
      return found.sort((a, b) => ids.indexOf(a.id) - ids.indexOf(b.id)).map(vehicleView);
    }
    const last = /^(\d{1,13})_([0-9a-f-]{36})$/i.exec(q.before ?? '');
    const at = new Date(Number(last?.[1]));
    // Cars of practice are nobody's.
    const where: WhereOptions[] = [
      { shopId: who.shopId },
      {
        id: {
          [Op.notIn]: literal(
            `(SELECT vehicleId FROM job WHERE shopId = ${Job.sequelize!.escape(who.shopId)} AND practice = 1)`,
          ),
        },
      },
      ...(last ? [{ [Op.or]: [{ createdAt: { [Op.lt]: at } }, { createdAt: at, id: { [Op.lt]: last[2]! } }] }] : []),
    ];
    const rows = await Vehicle.findAll({
      where: { [Op.and]: where },
      order: [
        ['createdAt', 'DESC'],
        ['id', 'DESC'],
      ],
      limit: PAGE + 1,
    });
    const end = rows[PAGE - 1];
    if (rows.length > PAGE && end)
      res.setHeader('link', `</api/vehicles?before=${end.createdAt.getTime()}_${end.id}>; rel="next"`);
    return rows.slice(0, PAGE).map(vehicleView);
  }

  /** Drives for readiness in every job of a vehicle, oldest first. */
  @Get(':vehicleId/drives')
  async drives(@Who() who: Actor, @Param('vehicleId', ParseUUIDPipe) vehicleId: string): Promise<KeptDrive[]> {
    const jobs = await Job.findAll({ where: { shopId: who.shopId, vehicleId }, attributes: ['id'] });
    const rows = await ServiceEntry.findAll({
      where: { shopId: who.shopId, kind: 'drive', undone: false, jobId: jobs.map((j) => j.id) },
      order: [['createdAt', 'ASC']],
      limit: MOST_DRIVES,
    });
    return rows.flatMap((r) =>
      entryProblems('drive', r.data).length > 0
        ? []
        : [{ id: r.id, at: r.createdAt.toISOString(), jobId: r.jobId, attempt: r.data as DriveEntry }],
    );
  }

  /** What was changed on a vehicle's card, in every job of it, newest first. */
  @Get(':vehicleId/changes')
  async changes(@Who() who: Actor, @Param('vehicleId', ParseUUIDPipe) vehicleId: string): Promise<VehicleChangeView[]> {
    const jobs = await Job.findAll({ where: { shopId: who.shopId, vehicleId }, attributes: ['id'] });
    const rows = await JobEvent.findAll({
      where: { shopId: who.shopId, kind: 'vehicle', jobId: jobs.map((j) => j.id) },
      order: [
        ['createdAt', 'DESC'],
        ['id', 'DESC'],
      ],
      limit: MOST_CHANGES,
    });
    return rows.map((r) => ({
      id: r.id,
      at: r.createdAt.toISOString(),
      by: r.by,
      before: fields(r.data.before),
      after: fields(r.data.after),
    }));
  }

  /** Take out what a person is known by; the figures stay. */
  @Post(':vehicleId/erase')
  @HttpCode(200)
  async erase(
    @Who() who: Actor,
    @Param('vehicleId', ParseUUIDPipe) vehicleId: string,
    @Body() { reason }: EraseRequest,
  ): Promise<{ jobs: number }> {
    const jobs = await this.work.run(async (t) => {
      const ids = await eraseCustomer(who, vehicleId, reason, t);
      for (const id of ids) await this.jobs.sumUpNow(id, who.shopId, t);
      return ids;
    });
    return { jobs: jobs.length };
  }

  /** The vehicle's card and every visit of it: its figures, what was found and done, oldest first. */
  @Get(':vehicleId/history')
  async history(
    @Who() who: Actor,
    @Param('vehicleId', ParseUUIDPipe) vehicleId: string,
  ): Promise<{ vehicle: VehicleView; visits: VehicleVisit[] }> {
    const { shopId } = who;
    const vehicle = await Vehicle.findOne({ where: { id: vehicleId, shopId } });
    if (!vehicle) throw notHere('vehicle');
    const jobs = await Job.findAll({
      where: { shopId, vehicleId, practice: false },
      order: [['createdAt', 'DESC']],
      limit: MOST_VISITS,
    });
    const jobId = jobs.map((j) => j.id);
    const [readings, repairs, outcomes] = await Promise.all([
      ReadingRow.findAll({ where: { shopId, jobId, undone: false }, order: OLDEST_FIRST }),
      Repair.findAll({ where: { shopId, jobId, undone: false }, order: OLDEST_FIRST }),
      JobOutcomeRow.findAll({ where: { shopId, jobId } }),
    ]);
    const visits = jobs.reverse().map((j): VehicleVisit => {
      const outcome = outcomes.find((l) => l.jobId === j.id)?.data;
      const standing = keptSummary(j)?.standing;
      const mine = repairs.filter((r) => r.jobId === j.id);
      const points = readable(
        'reading',
        readings.filter((r) => r.jobId === j.id),
        [],
      );
      return {
        job: j.id,
        at: j.createdAt.toISOString(),
        status: j.status,
        station: standing?.station ?? null,
        causes: [...new Set(mine.flatMap((r) => (r.data.guessed ? [] : (r.data.fault ?? []))))],
        proven: (outcome?.proven.length ?? 0) > 0,
        verdict: standing?.proof?.verdict ?? null,
        cameBackOf: outcome?.cameBackOf ?? null,
        repairs: mine.map((r) => r.data.text),
        points: points.map((r) => ({
          at: r.data.at,
          phase: r.phase,
          totals: bankTotals(r.data).map(({ bank, totalPct }) => ({ bank, totalPct })),
        })),
      };
    });
    return { vehicle: vehicleView(vehicle), visits };
  }
}

function fields(v: unknown): Record<string, unknown> {
  return isGroup(v) ? v : {};
}
