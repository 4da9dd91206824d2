import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';

interface Summary {
  first: number;
  tied: number;
  three: number;
  right: number;
  sureRight: number;
  minutes: number;
  ece: number;
}

/** Below what `npm run accuracy` reports on more cases: a change that makes the diagnosis worse is seen here. */
describe('the diagnosis on cases it was not built from', () => {
  const { every, movers }: Record<'every' | 'movers', Summary> = JSON.parse(
    execFileSync(process.execPath, [join(__dirname, '../accuracy/quick.mjs'), '200', '8'], { encoding: 'utf8' }),
  );
  test('the true fault leads, or is among the first three', () => {
    for (const s of [every, movers]) expect(s.tied).toBeGreaterThan(0.55);
    for (const s of [every, movers]) expect(s.three).toBeGreaterThan(0.78);
  });
  test('its own tests lead to it in little time', () => {
    for (const s of [every, movers]) expect(s.right).toBeGreaterThan(0.79);
    for (const s of [every, movers]) expect(s.minutes).toBeLessThan(19);
  });
  test('what it says is about as often so, and sure it is only when it may be', () => {
    for (const s of [every, movers]) expect(s.ece).toBeLessThan(0.12);
    for (const s of [every, movers]) expect(s.sureRight).toBeGreaterThan(0.9);
  });
});
