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
  /** Shares of the cars that come in with it: whose owner speaks of anything, of what, and that left its own code. */
  owners: Record<string, number>;
  says: Record<string, Record<string, number>>;
  codes: Record<string, number>;
  shows: Record<string, Record<string, Record<string, number>>>;
} = JSON.parse(execFileSync(process.execPath, [join(__dirname, 'worldTables.mjs')], { encoding: 'utf8' }));

/** The world has no plugs that were swapped: they come from a repair, not from age. */
const DRAWN = FAULTS.filter((f) => f.id in world.weights);

/** Share of pairs whose figures are within a twentieth of each other. */
function agreeing(pairs: readonly (readonly [number, number])[]): number {
  return pairs.filter(([a, b]) => Math.abs(a - b) <= 0.05 * Math.max(a, b)).length / pairs.length;
}

/** Spearman's: of the places in order, equal ones sharing the mean of theirs. */
function rankCorrelation(pairs: readonly (readonly [number, number])[]): number {
  const places = (values: readonly number[]) => {
    const sorted = [...values].sort((a, b) => a - b);
    return values.map((v) => (sorted.indexOf(v) + sorted.lastIndexOf(v)) / 2);
  };
  const [x, y] = [places(pairs.map((p) => p[0])), places(pairs.map((p) => p[1]))];
  const mid = (pairs.length - 1) / 2;
  const sum = (f: (i: number) => number) => pairs.reduce((total, _, i) => total + f(i), 0);
  return (
    sum((i) => (x[i]! - mid) * (y[i]! - mid)) /
    Math.sqrt(sum((i) => (x[i]! - mid) ** 2) * sum((i) => (y[i]! - mid) ** 2))
  );
}

describe('the drawn world is not the diagnosis over again', () => {
  test('it imports nothing of the product', () => {
    for (const file of readdirSync(WORLD).filter((f) => f.endsWith('.mjs')))
      for (const [, from] of readFileSync(join(WORLD, file), 'utf8').matchAll(/from '([^']+)'/g))
        expect(from).toMatch(/^\.\/[a-z]+\.mjs$/);
  });
  test('its faults are not as frequent', () => {
    const of = (list: readonly number[]) => list.reduce((a, b) => a + b, 0);
    const ours = of(DRAWN.map((f) => f.weight));
    const theirs = of(Object.values(world.weights));
    const pairs = DRAWN.map((f) => [f.weight / ours, world.weights[f.id]! / theirs] as const);
    expect(agreeing(pairs)).toBeLessThan(0.25);
  });
  test('its owners and control units do not notice as much: not by ratio after one factor for all, nor by rank', () => {
    const owners = DRAWN.filter((f) => NOTICES[f.id]!.owner > 0).map(
      (f) => [NOTICES[f.id]!.owner, world.owners[f.id]!] as const,
    );
    const codes = DRAWN.filter((f) => NOTICES[f.id]!.code).map(
      (f) => [NOTICES[f.id]!.code!, world.codes[f.id]!] as const,
    );
    for (const pairs of [owners, codes]) {
      const factor = Math.exp(pairs.reduce((sum, [a, b]) => sum + Math.log(b / a), 0) / pairs.length);
      const near = pairs.filter(([a, b]) => Math.abs(Math.log(b / a / factor)) < 0.1).length / pairs.length;
      expect(near).toBeLessThan(0.5);
      // An open circuit leaves its code in any world: some order is common.
      expect(rankCorrelation(pairs)).toBeLessThan(0.93);
    }
    // Unfounded talk: one rate here for all, a table there.
    expect(new Set(Object.values(NO_REASON)).size).toBeGreaterThan(3);
  });
  test('its owners do not use the same words in the same parts', () => {
    const spoken = DRAWN.filter((f) => NOTICES[f.id]!.owner > 0);
    const ours = (f: string) => Object.keys(NOTICES[f]!.says).sort().join();
    // What is heard of in one car out of fifty and more.
    const theirs = (f: string) => {
      const said = Object.entries(world.says[f]!).filter(([, share]) => share > 0.02);
      return said
        .map(([word]) => word)
        .sort()
        .join();
    };
    expect(spoken.filter((f) => ours(f.id) === theirs(f.id)).length / spoken.length).toBeLessThan(0.1);
    const pairs = spoken.flatMap((f) => {
      const all = Object.values(world.says[f.id]!).reduce((a, b) => a + b, 0);
      return Object.entries(NOTICES[f.id]!.says).map(
        ([word, part]) => [part, (world.says[f.id]![word] ?? 0) / all] as const,
      );
    });
    expect(agreeing(pairs)).toBeLessThan(0.1);
    expect(rankCorrelation(pairs)).toBeLessThan(0.93);
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
