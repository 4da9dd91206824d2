import type { LogbookQuery } from '@just-balance/contract';
import { LOGBOOK_FILTERS } from '@just-balance/contract';
import { searchWords } from '@just-balance/core/shop';
import { QueryTypes, type Sequelize } from 'sequelize';
import { endOf } from '../common/days.ts';

/** A tag that a job must have: one of the values. */
export interface Term {
  kind: string;
  values: readonly string[];
}

export interface Page {
  ids: string[];
  next: string | null;
}

/** How often a tag is counted at most before the rarest of them is taken to begin with. [house] */
const COUNTED = 1000;
/** Words that begin as the last one does. [house] */
const MOST_ENDINGS = 24;
/** Jobs whose tags are counted. [house] */
const MOST_COUNTED = 5000;
/** Values of one kind that are shown. [house] */
const SHOWN = 12;

type Replacements = Record<string, unknown>;

/**
 * Jobs by their tags, newest first, from where the last page ended. The rarest tag is walked along its index, which is
 * in the order of the page; the others are asked for each of its jobs. A page takes the same few queries whatever is
 * asked and whatever is in the database.
 */
export class Search {
  constructor(
    private readonly db: Sequelize,
    private readonly shopId: string,
  ) {}

  private ask<T extends object>(sql: string, replacements: Replacements): Promise<T[]> {
    return this.db.query<T>(sql, { replacements: { ...replacements, shopId: this.shopId }, type: QueryTypes.SELECT });
  }

  /** The tags that a query asks for; null where one of its words begins no word of any job. */
  async terms(q: LogbookQuery): Promise<Term[] | null> {
    const terms: Term[] = LOGBOOK_FILTERS.flatMap((kind) => (q[kind] ? [{ kind, values: [q[kind]] }] : []));
    const words = searchWords(q.q ?? '');
    for (const w of words.slice(0, -1)) terms.push({ kind: 'word', values: [w] });
    const last = words.at(-1);
    if (!last) return terms;
    const rows = await this.ask<{ word: string }>(
      `SELECT word FROM shop_word WHERE shopId = :shopId AND word >= :from AND word < :to ORDER BY word LIMIT ${MOST_ENDINGS}`,
      { from: last, to: `${last}\u{10ffff}` },
    );
    const endings = rows.map((r) => r.word);
    if (endings.length === 0) return null;
    return [...terms, { kind: 'word', values: endings }];
  }

  /** The term with the fewest jobs first. One query, each count bounded. */
  private async rarestFirst(terms: readonly Term[]): Promise<Term[]> {
    if (terms.length < 2) return [...terms];
    const r: Replacements = {};
    const parts = terms.map((t, i) => {
      r[`k${i}`] = t.kind;
      r[`v${i}`] = t.values;
      return `SELECT ${i} AS i, COUNT(*) AS n FROM (SELECT 1 FROM job_tag WHERE shopId = :shopId AND kind = :k${i} AND value IN (:v${i}) LIMIT ${COUNTED}) c${i}`;
    });
    const counts = await this.ask<{ i: number; n: number }>(parts.join(' UNION ALL '), r);
    const of = (i: number) => Number(counts.find((c) => Number(c.i) === i)?.n ?? 0);
    return terms
      .map((t, i) => ({ t, n: of(i) }))
      .sort((a, b) => a.n - b.n)
      .map((x) => x.t);
  }

  async page(q: LogbookQuery, limit: number): Promise<Page> {
    const wanted = await this.terms(q);
    if (wanted === null) return { ids: [], next: null };
    const terms = await this.rarestFirst(wanted);
    const down = q.order !== 'oldest';
    const r: Replacements = { limit: limit + 1 };
    const [first, ...others] = terms;
    const conditions = (t: string, id: string) => [...this.between(q, t, id, down, r), ...this.exist(others, id, r)];
    const order = (t: string, id: string) =>
      `ORDER BY ${t}.createdAt ${down ? 'DESC' : 'ASC'}, ${t}.${id} ${down ? 'DESC' : 'ASC'}`;
    let sql: string;
    if (!first)
      sql = `SELECT j.id AS id, j.createdAt AS at FROM job j FORCE INDEX (${q.ids ? 'PRIMARY' : 'all_jobs'}) WHERE ${['j.shopId = :shopId', 'j.practice = 0', ...conditions('j', 'id')].join(' AND ')} ${order('j', 'id')} LIMIT :limit`;
    else {
      r.kind = first.kind;
      const one = (i: number) =>
        `(SELECT t.jobId AS id, t.createdAt AS at FROM job_tag t FORCE INDEX (found) WHERE ${['t.shopId = :shopId', 't.kind = :kind', `t.value = :value${i}`, ...conditions('t', 'jobId')].join(' AND ')} ${order('t', 'jobId')} LIMIT :limit)`;
      first.values.forEach((v, i) => {
        r[`value${i}`] = v;
      });
      const all = first.values.map((_, i) => one(i)).join(' UNION ALL ');
      sql = `SELECT id, at FROM (${all}) u GROUP BY id, at ORDER BY at ${down ? 'DESC' : 'ASC'}, id ${down ? 'DESC' : 'ASC'} LIMIT :limit`;
    }
    const rows = await this.ask<{ id: string; at: Date }>(sql, r);
    const shown = rows.slice(0, limit);
    const end = shown.at(-1);
    return {
      ids: shown.map((x) => x.id),
      next: rows.length > limit && end ? `${new Date(end.at).getTime()}_${end.id}` : null,
    };
  }

  /** From a day to a day, and on from where the last page ended. */
  private between(q: LogbookQuery, t: string, id: string, down: boolean, r: Replacements): string[] {
    const out: string[] = [];
    if (q.ids) {
      r.ids = q.ids.toLowerCase().split(',');
      out.push(`${t}.${id} IN (:ids)`);
    }
    if (q.from) {
      r.from = new Date(q.from);
      out.push(`${t}.createdAt >= :from`);
    }
    if (q.to) {
      r.to = endOf(q.to);
      out.push(`${t}.createdAt < :to`);
    }
    const m = /^(\d{1,13})_([0-9a-f-]{36})$/i.exec(q.before ?? '');
    if (m) {
      r.lastAt = new Date(Number(m[1]));
      r.lastId = m[2];
      const past = down ? '<' : '>';
      out.push(`${t}.createdAt ${past}= :lastAt`, `(${t}.createdAt ${past} :lastAt OR ${t}.${id} ${past} :lastId)`);
    }
    return out;
  }

  private exist(terms: readonly Term[], id: string, r: Replacements): string[] {
    return terms.map((t, i) => {
      r[`ek${i}`] = t.kind;
      r[`ev${i}`] = t.values;
      const own = id === 'id' ? 'j.id' : 't.jobId';
      return `EXISTS (SELECT 1 FROM job_tag e${i} WHERE e${i}.jobId = ${own} AND e${i}.kind = :ek${i} AND e${i}.value IN (:ev${i}))`;
    });
  }

  /** How many match, and what else they have, each kind's commonest first; of the newest so many. */
  async counts(
    q: LogbookQuery,
  ): Promise<{ total: number; more: boolean; rows: { kind: string; value: string; count: number }[] }> {
    const { ids, next } = await this.page({ ...q, before: undefined, order: undefined } as LogbookQuery, MOST_COUNTED);
    if (ids.length === 0) return { total: 0, more: false, rows: [] };
    const rows = await this.ask<{ kind: string; value: string; n: number }>(
      `SELECT kind, value, n FROM (
         SELECT kind, value, COUNT(*) AS n, ROW_NUMBER() OVER (PARTITION BY kind ORDER BY COUNT(*) DESC, value) AS place
         FROM job_tag WHERE jobId IN (:ids) AND kind IN (:kinds) GROUP BY kind, value
       ) c WHERE place <= ${SHOWN} ORDER BY kind, place`,
      { ids, kinds: LOGBOOK_FILTERS.filter((k) => k !== 'vehicle') },
    );
    return {
      total: ids.length,
      more: next !== null,
      rows: rows.map(({ kind, value, n }) => ({ kind, value, count: Number(n) })),
    };
  }
}
