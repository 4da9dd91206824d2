import { fork } from 'node:child_process';
import { once } from 'node:events';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { expect, test } from '@jest/globals';

const CHOOSER = join(__dirname, 'portsChooser.mjs');

test('two processes that choose at once never choose the same; what one leaves is free again', async () => {
  const choosers = [fork(CHOOSER), fork(CHOOSER)];
  const chosen = (await Promise.all(choosers.map(async (c) => (await once(c, 'message'))[0] as number[]))).flat();
  // Of 12,000, chosen blindly, thirteen would be in both.
  expect(chosen).toHaveLength(800);
  expect(new Set(chosen).size).toBe(800);
  // Each is free for whoever chose it.
  const used = createServer().listen(chosen[0], '127.0.0.1');
  await once(used, 'listening');
  used.close();
  await Promise.all(
    choosers.map((c) => {
      const ended = once(c, 'exit');
      c.kill('SIGKILL');
      return ended;
    }),
  );
  const claim = createServer().listen(chosen[0], '127.0.0.2');
  await once(claim, 'listening');
  claim.close();
});
