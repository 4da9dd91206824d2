import type { CleaningOutcomes, EntryView, RunView, UndoRequest } from '@just-balance/contract';
import {
  entryProblems,
  happened,
  happenedProblems,
  type NewEntryRequest,
  type NewRunRequest,
  type OutcomeEntry,
  type RunEventsRequest,
} from '@just-balance/contract/service';
import { CLEANABLE, type HappenedKind, type Placed, placeOf, procedureProblems } from '@just-balance/core/procedures';
import { ConflictException, Injectable } from '@nestjs/common';
import { Op, type Transaction } from 'sequelize';
import { badFields, conflict, notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { appendEvent } from '../jobs/events.ts';
import { RUN_EVENTS } from '../jobs/parts.ts';
import { entryView, runView } from '../jobs/rowViews.ts';
import { readable } from '../jobs/stored.ts';
import { JobWrites, type RowKind } from '../jobs/write.ts';
import { OLDEST_FIRST } from '../rows/order.ts';
import { ServiceEntry, ServiceEvent, ServiceRun } from '../rows/service.ts';

/** What of a run belongs in the job's history. */
const TOLD: readonly HappenedKind[] = [
  'stop',
  'settled',
  'mishap',
  'parked',
  'order',
  'took-over',
  'resumed',
  'ended',
  'given-up',
  'source',
];
/** What one run may hold. [house] */
const MOST_EVENTS = 5000;
const MOST_RUNS = 200;
const MOST_ENTRIES = 500;
const ENTRIES: RowKind<ServiceEntry, EntryView> = {
  model: ServiceEntry,
  view: entryView,
  resource: 'entries',
  kind: 'entry',
};

@Injectable()
export class ServiceService {
  constructor(private readonly jobs: JobWrites) {}

  /** Parts, decisions, outcomes, figures of the vehicle, pair readings. */
  entries(who: Actor, id: string): Promise<EntryView[]> {
    return this.jobs.rows(who, id, 'entry', ServiceEntry, entryView);
  }

  /** Runs of service procedures with what happened in each. */
  async runs(who: Actor, id: string): Promise<RunView[]> {
    await this.jobs.find(who, id);
    const where = { shopId: who.shopId, jobId: id };
    const rows = await ServiceRun.findAll({ where, order: OLDEST_FIRST, include: [RUN_EVENTS] });
    return readable('run', rows, []).map(runView);
  }

  /** A repeat of the same id changes nothing. */
  async begin(who: Actor, jobId: string, body: NewRunRequest): Promise<RunView> {
    const problems = procedureProblems(body.procedure);
    if (problems.length > 0)
      throw badFields(problems.map((p) => ({ field: `procedure.${p.field}`, message: p.message })));
    return this.jobs.write(
      who,
      jobId,
      async (_, transaction) => {
        const before = await ServiceRun.findByPk(body.id, { transaction, include: [RUN_EVENTS] });
        if (before) {
          if (before.shopId !== who.shopId || before.jobId !== jobId) throw conflict('this id', null);
          return runView(before);
        }
        const where = { shopId: who.shopId, jobId };
        if ((await ServiceRun.count({ where, transaction })) >= MOST_RUNS) throw tooMany('runs', MOST_RUNS);
        const run = await ServiceRun.create(
          { id: body.id, ...where, by: who.name, data: body.procedure },
          { transaction },
        );
        await appendEvent(who, jobId, 'run-begun', { run: run.id, procedure: body.procedure.id }, transaction);
        return runView(run);
      },
      { resources: ['runs'] },
    );
  }

  async append(who: Actor, jobId: string, runId: string, body: RunEventsRequest): Promise<RunView> {
    const problems = body.events.flatMap((e, i) => happenedProblems(e.what, `events[${i}].what`));
    if (problems.length > 0) throw badFields(problems);
    return this.jobs.write(who, jobId, (_, transaction) => this.appendIn(who, jobId, runId, body, transaction), {
      // What was found is a test of its own, and may change the judgement.
      resources: ['runs', 'tests'],
      // What was done before somebody closed the job is kept.
      evenClosed: true,
    });
  }

  private async appendIn(
    who: Actor,
    jobId: string,
    runId: string,
    body: RunEventsRequest,
    transaction: Transaction,
  ): Promise<RunView> {
    const where = { id: runId, jobId, shopId: who.shopId };
    if (!(await ServiceRun.findOne({ where, transaction }))) throw notHere('run');
    const ids = body.events.map((e) => e.id);
    const before = await ServiceEvent.findAll({ where: { id: { [Op.in]: ids } }, transaction });
    if (before.some((e) => e.runId !== runId || e.shopId !== who.shopId)) throw conflict('this id', null);
    const known = new Set(before.map((e) => e.id));
    const attributes = ['atMs', 'orderMs', 'by'];
    const there: Placed[] = (
      await ServiceEvent.findAll({ where: { runId, shopId: who.shopId }, attributes, transaction })
    ).map(({ atMs, orderMs, by }) => ({ atMs: Number(atMs), orderMs: orderMs === null ? null : Number(orderMs), by }));
    if (there.length + ids.length > MOST_EVENTS) throw tooMany('events in this run', MOST_EVENTS);
    const now = Date.now();
    for (const e of body.events) {
      if (known.has(e.id)) continue;
      known.add(e.id);
      const what = happened(e.what);
      // A clock that is ahead would end timers that have not begun.
      const own = { atMs: Math.min(e.atMs, now), by: who.name };
      const placed = { ...own, orderMs: placeOf(own, now, there) };
      there.push(placed);
      await ServiceEvent.create({ id: e.id, shopId: who.shopId, jobId, runId, ...placed, data: what }, { transaction });
      if (TOLD.includes(what.kind)) {
        const { kind, ...data } = what;
        await appendEvent(who, jobId, `run-${kind}`, { run: runId, ...data }, transaction);
      }
    }
    return runView((await ServiceRun.findOne({ where, transaction, include: [RUN_EVENTS] }))!);
  }

  async addEntry(who: Actor, jobId: string, body: NewEntryRequest): Promise<EntryView> {
    const { id, kind, data } = body;
    const problems = entryProblems(kind, data);
    if (problems.length > 0) throw badFields(problems.map((p) => ({ ...p, field: `data.${p.field}` })));
    return this.jobs.insertOnce(
      who,
      jobId,
      { ...ENTRIES, kind },
      id,
      async (own, _, transaction) => {
        const where = { shopId: who.shopId, jobId };
        if ((await ServiceEntry.count({ where, transaction })) >= MOST_ENTRIES) throw tooMany('entries', MOST_ENTRIES);
        return { ...own, rev: 1, undone: false, by: who.name, kind, data: data as unknown as ServiceEntry['data'] };
      },
      { id, ...data },
    );
  }

  /** A reminder is done with after the hand-over: it can be taken back even then. */
  async undoEntry(who: Actor, jobId: string, id: string, body: UndoRequest): Promise<EntryView> {
    const where = { id, jobId, shopId: who.shopId, kind: 'recheck' };
    const reminder = (await ServiceEntry.count({ where })) > 0;
    return this.jobs.undo(who, jobId, ENTRIES, id, body, reminder && body.undone);
  }

  async outcomes(who: Actor): Promise<CleaningOutcomes[]> {
    const rows = await ServiceEntry.findAll({ where: { shopId: who.shopId, kind: 'outcome', undone: false } });
    return CLEANABLE.map(({ id }) => {
      const mine = rows.map((r) => r.data as OutcomeEntry).filter((o) => o?.part === id);
      return {
        part: id,
        held: mine.filter((o) => o.held === true).length,
        failed: mine.filter((o) => o.held === false).length,
      };
    });
  }
}

function tooMany(what: string, most: number): ConflictException {
  return new ConflictException({
    statusCode: 409,
    message: `this job has ${most.toLocaleString('en')} ${what}: no more`,
  });
}
