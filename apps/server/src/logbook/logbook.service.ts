import type {
  LogbookCounts,
  LogbookFilter,
  LogbookQuery,
  LogbookRow,
  SavedViewRequest,
  SavedViewView,
} from '@just-balance/contract';
import { type BeforeApplicationShutdown, Inject, Injectable, type OnApplicationBootstrap } from '@nestjs/common';
import Papa from 'papaparse';
import type { Logger } from 'pino';
import { Op, type Sequelize } from 'sequelize';
import { conflict, loggable, notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { databaseAway } from '../database/away.ts';
import { SEQUELIZE } from '../database/connect.ts';
import { Work } from '../database/work.ts';
import { BoardService } from '../jobs/board.service.ts';
import { LISTED } from '../jobs/summaries.ts';
import { JobWrites } from '../jobs/write.ts';
import { LOGGER } from '../logger.ts';
import { Job } from '../rows/jobs.ts';
import { SavedView } from '../rows/logbook.ts';
import { Search } from './search.ts';

const PAGE = 50;
const CSV_PAGE = 500;
/** Counts of one question stand so long, ms: they change by one job at a time. [house] */
const COUNTS_MS = 10_000;
const MOST_KEPT_COUNTS = 500;
const MOST_VIEWS = 50;
/** How often jobs that are to be filed again are looked for, and the pause after every twenty of them, ms. [house] */
const FILE_LOOK_MS = 15_000;
const FILE_PAUSE_MS = 1000;
/** Of a job that is not filed yet. */
const NOTHING_FOUND = { cause: null, codes: [] };

/** Every job there ever was, and what finds it. */
@Injectable()
export class LogbookService implements OnApplicationBootstrap, BeforeApplicationShutdown {
  private readonly counted = new Map<string, { at: number; answer: Promise<LogbookCounts> }>();

  constructor(
    @Inject(SEQUELIZE) private readonly db: Sequelize,
    private readonly work: Work,
    private readonly jobs: JobWrites,
    private readonly board: BoardService,
    @Inject(LOGGER) private readonly log: Logger,
  ) {}

  private timer: NodeJS.Timeout | null = null;
  private stopping = false;
  private filing: Promise<void> | null = null;

  /** Jobs from before there was a logbook are filed at once; what a change of the settings sets back, bit by bit. */
  onApplicationBootstrap(): void {
    this.file(0);
    this.timer = setInterval(() => this.file(FILE_PAUSE_MS), FILE_LOOK_MS);
    this.timer.unref();
  }

  async beforeApplicationShutdown(): Promise<void> {
    this.stopping = true;
    if (this.timer) clearInterval(this.timer);
    await this.filing;
  }

  private file(pauseMs: number): void {
    this.filing ??= this.fileSome(pauseMs)
      .catch((e: unknown) => {
        // A database that is away is looked for again in a moment.
        if (!this.stopping) this.log.warn({ err: loggable(e) }, 'filing');
      })
      .finally(() => {
        this.filing = null;
      });
  }

  private async fileSome(pauseMs: number): Promise<void> {
    // One that cannot be filed now holds up none of the others; the next look tries it again.
    const failed: string[] = [];
    while (!this.stopping) {
      const some = await Job.findAll({
        where: { filed: false, ...(failed.length > 0 ? { id: { [Op.notIn]: failed } } : {}) },
        attributes: ['id', 'shopId'],
        limit: 20,
      });
      if (some.length === 0) return;
      for (const j of some) {
        if (this.stopping) return;
        await this.work
          .run(async (t) => this.jobs.sumUpNow(j.id, j.shopId, t))
          .catch((e: unknown) => {
            if (databaseAway(e)) throw e;
            failed.push(j.id);
            this.log.warn({ jobId: j.id, err: loggable(e) }, 'job not filed');
          });
      }
      if (pauseMs > 0) await new Promise((r) => setTimeout(r, pauseMs).unref());
    }
  }

  /** A page, by keyset. At most four queries. */
  async page(who: Actor, q: LogbookQuery): Promise<{ rows: LogbookRow[]; next: string | null }> {
    const { ids, next } = await new Search(this.db, who.shopId).page(q, q.limit ?? PAGE);
    return { rows: await this.rows(who, ids), next };
  }

  private async rows(who: Actor, ids: readonly string[]): Promise<LogbookRow[]> {
    if (ids.length === 0) return [];
    const jobs = await Job.findAll({ where: { id: [...ids], shopId: who.shopId }, attributes: [...LISTED], raw: true });
    const by = new Map(jobs.map((j) => [j.id, j]));
    const shown = ids.flatMap((id) => by.get(id) ?? []);
    return (await this.board.listed(who, shown)).map((item, i) => ({
      ...item,
      vehicleId: shown[i]!.vehicleId,
      ...(shown[i]!.summary?.found ?? NOTHING_FOUND),
    }));
  }

  /** Vehicles of the newest jobs that have these words: name, colour, plate, VIN, or what was written of them. */
  async vehiclesOf(shopId: string, q: string): Promise<string[]> {
    const { ids } = await new Search(this.db, shopId).page({ q }, PAGE);
    const jobs = await Job.findAll({ where: { id: ids, shopId }, attributes: ['id', 'vehicleId'], raw: true });
    const by = new Map(jobs.map((j) => [j.id, j.vehicleId]));
    return [...new Set(ids.flatMap((id) => by.get(id) ?? []))];
  }

  /** How many jobs match and what they have in common; kept for some seconds. */
  counts(who: Actor, q: LogbookQuery): Promise<LogbookCounts> {
    const { before: _, limit: __, order: ___, ...asked } = q;
    const key = `${who.shopId} ${JSON.stringify(asked, Object.keys(asked).sort())}`;
    const now = Date.now();
    const known = this.counted.get(key);
    if (known && now - known.at < COUNTS_MS) return known.answer;
    const answer = this.count(who.shopId, asked as LogbookQuery);
    this.counted.delete(key);
    this.counted.set(key, { at: now, answer });
    answer.catch(() => this.counted.delete(key));
    for (const k of this.counted.keys()) {
      if (this.counted.size <= MOST_KEPT_COUNTS) break;
      this.counted.delete(k);
    }
    return answer;
  }

  private async count(shopId: string, q: LogbookQuery): Promise<LogbookCounts> {
    const { total, more, rows } = await new Search(this.db, shopId).counts(q);
    const by: LogbookCounts['by'] = {};
    for (const { kind, value, count } of rows) {
      const list = by[kind as LogbookFilter] ?? [];
      list.push({ value, count });
      by[kind as LogbookFilter] = list;
    }
    const all = Object.values(q).every((v) => v === undefined);
    return {
      total: all && more ? await Job.count({ where: { shopId, practice: false } }) : total,
      more: more && !all,
      by,
    };
  }

  /** Every job that matches, as CSV (RFC 4180), piece by piece. */
  async *csv(who: Actor, q: LogbookQuery): AsyncGenerator<string> {
    const search = new Search(this.db, who.shopId);
    const head = [
      'opened',
      'status',
      'vehicle',
      'note',
      'symptom',
      'codes',
      'cause',
      'verdict',
      'opened by',
      'hands',
      'worst total %',
      'job',
    ];
    yield `${Papa.unparse([head])}\r\n`;
    let before: string | null = null;
    do {
      const page: { ids: string[]; next: string | null } = await search.page(
        { ...q, ...(before ? { before } : {}) } as LogbookQuery,
        CSV_PAGE,
      );
      const rows = await this.rows(who, page.ids);
      if (rows.length > 0)
        // A cell that a table program would take for a formula is written as text.
        yield `${Papa.unparse(
          rows.map((r) => [
            r.openedAt,
            r.status,
            r.label,
            r.note ?? '',
            r.symptom ?? '',
            r.codes.join(' '),
            r.cause ?? '',
            r.verdict ?? '',
            r.openedBy,
            r.hands ?? '',
            r.worst ? r.worst.totalPct.toFixed(1) : '',
            r.id,
          ]),
          { escapeFormulae: /^[=@\t\r]|^[+-](?![\d.])/ },
        )}\r\n`;
      before = page.next;
    } while (before);
  }

  async views(who: Actor): Promise<SavedViewView[]> {
    const rows = await SavedView.findAll({ where: { accountId: who.accountId }, order: [['createdAt', 'ASC']] });
    return rows.map(({ id, name, query }) => ({ id, name, query }));
  }

  async keepView(who: Actor, id: string, { name, query }: SavedViewRequest): Promise<SavedViewView[]> {
    await this.work.run(async (transaction) => {
      const there = await SavedView.findByPk(id, { transaction, lock: true });
      if (there && there.accountId !== who.accountId) throw conflict('this id', null);
      if (there) await there.update({ name, query }, { transaction });
      else {
        if ((await SavedView.count({ where: { accountId: who.accountId }, transaction })) >= MOST_VIEWS)
          throw conflict(`${MOST_VIEWS} views are kept already; one of them`, null);
        await SavedView.create({ id, shopId: who.shopId, accountId: who.accountId, name, query }, { transaction });
      }
      return { id };
    });
    return this.views(who);
  }

  async dropView(who: Actor, id: string): Promise<SavedViewView[]> {
    if ((await SavedView.destroy({ where: { id, accountId: who.accountId } })) === 0) throw notHere('view');
    return this.views(who);
  }
}
