/** What a run of comparisons came to: every figure is said, and too few are a failure as well as a wrong one. */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT } from '../lib/build.mjs';
import { say } from '../lib/say.mjs';

/** Wrong ones that are shown in full. */
const SHOWN = 6;

export class Report {
  failures = 0;

  constructor(write) {
    this.write = write;
  }

  fail(text) {
    if (++this.failures <= SHOWN) process.stdout.write(`${text}\n`);
  }

  right(what, ok) {
    if (!ok) this.failures++;
    say(`${what}: ${ok ? 'right' : 'WRONG'}`);
  }

  /** So many were compared and agree; fewer than `least` compare nothing. */
  agreed(what, n, least) {
    if (n < least) this.failures++;
    say(
      `${what}: ${n} agree${n < least ? `: TOO FEW, at least ${least} were to be compared` : ` (at least ${least} asked)`}`,
    );
  }

  /** Rows against a golden file of core's tests, or into it. */
  golden(name, header, rows, least) {
    const file = join(ROOT, 'packages/core/test/golden', name);
    const text = `${header.map((h) => `# ${h}`).join('\n')}\n${rows.join('\n')}\n`;
    if (this.write) {
      writeFileSync(file, text);
      say(`${name}: ${rows.length} rows written`);
      return;
    }
    if (readFileSync(file, 'utf8') !== text) this.fail(`${name}: DIFFERENT from the golden file`);
    this.agreed(`${name}, rows`, rows.length, least);
  }
}
