import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';
import { FAULTS, NO_REASON, NOTICES, outcomesOf, TESTS } from '../../packages/core/src/catalogue/index.ts';
import { outcomeProbability } from '../../packages/core/src/diagnosis/index.ts';

const WORLD = join(__dirname, '../accuracy/world');
/** What the world shows, worked out by drawing from it: it has functions where the product has tables. */
const world: {
  weights: Record<string, number>;
  owners: Record<string, number>;
  codes: Record<string, number>;
  shows: Record<string, Record<string, Record<string, number>>>;
} = JSON.parse(execFileSync(process.execPath, [join(__dirname, 'worldTables.mjs')], { encoding: 'utf8' }));

/** Share of pairs whose figures are within a twentieth of each other. */
function agreeing(pairs: readonly (readonly [number, number])[]): number {
  return pairs.filter(([a, b]) => Math.abs(a - b) <= 0.05 * Math.max(a, b)).length / pairs.length;
}

describe('the drawn world is not the diagnosis over again', () => {
  test('it imports nothing of the product', () => {
    for (const file of readdirSync(WORLD).filter((f) => f.endsWith('.mjs')))
      for (const [, from] of readFileSync(join(WORLD, file), 'utf8').matchAll(/from '([^']+)'/g))
        expect(from).toMatch(/^\.\/[a-z]+\.mjs$/);
  });
  test('its faults are not as frequent', () => {
    const of = (list: readonly number[]) => list.reduce((a, b) => a + b, 0);
    const ours = of(FAULTS.map((f) => f.weight));
    const theirs = of(Object.values(world.weights));
    const pairs = FAULTS.map((f) => [f.weight / ours, world.weights[f.id]! / theirs] as const);
    expect(agreeing(pairs)).toBeLessThan(0.25);
  });
  test('its owners and control units do not notice as much', () => {
    const pairs = FAULTS.flatMap((f) => {
      const row = NOTICES[f.id]!;
      const out: [number, number][] = [];
      if (row.owner > 0) out.push([row.owner, world.owners[f.id]!]);
      if (row.code) out.push([row.code, world.codes[f.id]!]);
      return out;
    });
    expect(agreeing(pairs)).toBeLessThan(0.3);
    // Unfounded talk: one rate here for all, a table there.
    expect(new Set(Object.values(NO_REASON)).size).toBeGreaterThan(3);
  });
  test('its tests do not show as much, nor err as often', () => {
    const pairs = TESTS.flatMap((t) =>
      FAULTS.flatMap((f) =>
        outcomesOf(t)
          .slice(1)
          .flatMap((o) => {
            const theirs = world.shows[t.id]?.[f.id]?.[o];
            const ours = outcomeProbability(t, o, f.id, null, 1);
            return theirs !== undefined && ours > 0.15 ? [[ours, theirs] as const] : [];
          }),
      ),
    );
    expect(pairs.length).toBeGreaterThan(60);
    expect(agreeing(pairs)).toBeLessThan(0.2);
  });
});
