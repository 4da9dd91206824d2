import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { QueryTypes } from 'sequelize';
import { type Fixture, startFixture } from './harness.ts';

/**
 * Every table as a new database has it: a column that is changed here is changed in databases that stand in shops, by a
 * migration that adds to them. `JB_SCHEMA=write npx jest apps/server/test/rows` writes the file anew.
 */
const FILE = join(__dirname, 'golden/schema.tsv');

let fixture: Fixture;
beforeAll(async () => {
  fixture = await startFixture({ sim: null });
});
afterAll(() => fixture.close());

const asked = <T extends object>(sql: string) => fixture.running.sequelize.query<T>(sql, { type: QueryTypes.SELECT });

async function tables(): Promise<string[]> {
  const columns = await asked<Record<'t' | 'c' | 'type' | 'nullable' | 'standard', string | null>>(
    `SELECT table_name t, column_name c, column_type type, is_nullable nullable, column_default standard
       FROM information_schema.columns WHERE table_schema = DATABASE() ORDER BY t, c`,
  );
  const keys = await asked<Record<'t' | 'k' | 'c', string> & { other: number }>(
    `SELECT table_name t, index_name k, non_unique other, GROUP_CONCAT(column_name ORDER BY seq_in_index) c
       FROM information_schema.statistics WHERE table_schema = DATABASE() GROUP BY t, k, other ORDER BY t, k`,
  );
  return [
    ...columns.map((x) => [x.t, x.c, x.type, x.nullable === 'YES' ? 'may be null' : '', x.standard ?? ''].join('\t')),
    ...keys.map((x) => [x.t, `key ${x.k}`, Number(x.other) === 0 ? 'unique' : '', x.c].join('\t')),
  ];
}

test('every table, column and key is as it was', async () => {
  const now = await tables();
  if (process.env.JB_SCHEMA === 'write') writeFileSync(FILE, `${now.join('\n')}\n`);
  expect(now.length).toBeGreaterThan(100);
  expect(now).toEqual(readFileSync(FILE, 'utf8').trimEnd().split('\n'));
});

test('what a row holds is a column of its table, and each column is held by a row', async () => {
  const now = await tables();
  const there = new Set(now.filter((l) => !/^\S+\tkey /.test(l)).map((l) => l.split('\t').slice(0, 2).join('.')));
  const held = Object.values(fixture.running.sequelize.models).flatMap((m) =>
    Object.values(m.getAttributes()).map((a) => `${m.getTableName()}.${(a as { field?: string }).field}`),
  );
  expect(held.filter((h) => !there.has(h))).toEqual([]);
  const computed = await asked<{ c: string }>(
    `SELECT CONCAT(table_name, '.', column_name) c FROM information_schema.columns
      WHERE table_schema = DATABASE() AND generation_expression IS NOT NULL`,
  );
  // What the database works out by itself is for its own keys.
  for (const { c } of computed) there.delete(c);
  const of = new Set(held.map((h) => h.split('.')[0]));
  expect([...there].filter((c) => of.has(c.split('.')[0]!) && !held.includes(c))).toEqual([]);
});

test('a row says of its columns what the table says: kind, length, whether there may be none', async () => {
  const { sequelize } = fixture.running;
  const columns = await asked<{ at: string; type: string; nullable: string }>(
    `SELECT CONCAT(table_name, '.', column_name) at, column_type type, is_nullable nullable
       FROM information_schema.columns WHERE table_schema = DATABASE()`,
  );
  const table = new Map(columns.map((c) => [c.at, c]));
  /** As MariaDB writes the kinds that Sequelize asks for; widths shown are no lengths. */
  const written = (sql: string) =>
    sql
      .toLowerCase()
      .replace(/^json$/, 'longtext')
      .replace(/^integer/, 'int')
      .replace(/^double precision$/, 'double')
      .replace(/^((?:tiny|small|big|medium)?int)\(\d+\)/, '$1');
  const differing = Object.values(sequelize.models).flatMap((m) =>
    Object.values(m.getAttributes()).flatMap((a) => {
      const { field, type, allowNull, primaryKey } = a as unknown as {
        field: string;
        type: { toSql(): string };
        allowNull?: boolean;
        primaryKey?: boolean;
      };
      const at = `${m.getTableName()}.${field}`;
      const c = table.get(at)!;
      const may = allowNull !== false && !primaryKey;
      const said = `${at} ${written(type.toSql())}${may ? ' or none' : ''}`;
      const is = `${at} ${written(c.type)}${c.nullable === 'YES' ? ' or none' : ''}`;
      // When a row was made is Sequelize’s own column.
      return said === is || field === 'createdAt' ? [] : [`${said}, the table: ${is}`];
    }),
  );
  expect(differing).toEqual([]);
});
