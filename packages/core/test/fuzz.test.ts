import { execFile } from 'node:child_process';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { describe, expect, test } from '@jest/globals';

/**
 * Random frames, mangled tables, captures of any shape, outside Jest's sandbox. A hang ends with the time limit of the
 * test; what keeps all it reads dies of the heap it is given, whenever the machine comes to collect.
 */
async function fuzz(seed: number, frames: number) {
  const { stdout } = await promisify(execFile)(process.execPath, [
    '--max-old-space-size=96',
    '--expose-gc',
    join(__dirname, 'fuzz.mjs'),
    `${seed}`,
    `${frames}`,
  ]);
  return JSON.parse(stdout);
}

describe('rubbish', () => {
  test('a million random frames and thousands of mangled files: no crash, no hang, every bad line named', async () => {
    const r = await fuzz(1, 1_000_000);
    // Something was decoded, something refused: neither way is asleep.
    expect(r.rows).toBeGreaterThan(300_000);
    expect(r.bad).toBeGreaterThan(5000);
    expect(r.firstBad).toMatchObject({ line: expect.any(Number), reason: expect.any(String) });
    // The fast way over bytes says the same, byte for byte, as the plain one over strings.
    expect(r).toMatchObject({ sameBytes: true, sameBad: true, unnamed: 0 });
    expect(r.tables).toBeGreaterThan(1000);
    expect(r.refused).toBeGreaterThan(500);
    expect(r.tableProblems).toBeGreaterThan(1000);
    // An interleaved, never finished message keeps nothing for ever.
    expect(r.keptMb).toBeLessThan(60);
  });
});
