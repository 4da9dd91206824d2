/**
 * Calls of jb one after the other in one process, as lines of JSON on standard input: {cwd, args, input}; each is answered
 * with a line {code, out, err}. What a call writes is caught; a process of its own for each would start the whole again.
 */
import { createInterface } from 'node:readline';
import { Readable } from 'node:stream';
import { jb } from '../dist/cli.js';

const say = process.stdout.write.bind(process.stdout);
const own = Object.getOwnPropertyDescriptor(process, 'stdin');
for await (const line of createInterface({ input: process.stdin })) {
  const { cwd, args, input } = JSON.parse(line);
  const caught = { stdout: '', stderr: '' };
  const write = {};
  for (const name of ['stdout', 'stderr']) {
    write[name] = process[name].write;
    process[name].write = (text, done) => {
      caught[name] += typeof text === 'string' ? text : Buffer.from(text).toString();
      if (typeof done === 'function') done();
      return true;
    };
  }
  Object.defineProperty(process, 'stdin', {
    value: Readable.from(input === undefined ? [] : [Buffer.from(input)]),
    configurable: true,
  });
  process.chdir(cwd);
  const code = await jb(args);
  for (const name of ['stdout', 'stderr']) process[name].write = write[name];
  Object.defineProperty(process, 'stdin', own);
  say(`${JSON.stringify({ code, out: caught.stdout, err: caught.stderr })}\n`);
}
