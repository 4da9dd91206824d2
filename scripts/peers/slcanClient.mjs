/** An independent CAN library's slcan client against the simulated vehicle. */
import { spawn } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT } from '../lib/build.mjs';
import { say } from '../lib/say.mjs';
import { withCar } from './car.mjs';

/** Over TCP; its bytes and answers are kept, so that npm test can replay it without the library. */
export async function slcanClient(report) {
  const { result: out, sent } = await withCar(
    (port) =>
      new Promise((resolve) => {
        const p = spawn('/usr/bin/python3', [join(ROOT, 'scripts/peers/slcan_client.py'), String(port)]);
        let text = '';
        p.stdout.on('data', (d) => {
          text += d;
        });
        p.stderr.on('data', (d) => process.stderr.write(d));
        p.on('exit', () => resolve(text));
      }),
  );
  const answers = out
    .trim()
    .split('\n')
    .map((l) => l.split(' '));
  const of = (request, id = '7E8') => answers.filter((a) => a[0] === request && a[1] === id).map((a) => a[2]);
  const vin = of('0902')
    .map((d, i) => Buffer.from(d, 'hex').subarray(i === 0 ? 5 : 1))
    .reduce((a, b) => Buffer.concat([a, b]), Buffer.alloc(0))
    .toString('latin1');
  const rpm = Number.parseInt(of('010C')[0]?.slice(6, 10) ?? '', 16) / 4;
  const trim = (Number.parseInt(of('0106')[0]?.slice(6, 8) ?? '', 16) - 128) / 1.28;
  const right = {
    'supported parameters of two units':
      of('0100')[0]?.startsWith('064100') && of('0100', '7E9')[0]?.startsWith('064100'),
    'engine speed at idle': rpm > 600 && rpm < 900,
    'short-term trim': Math.abs(trim) < 25,
    'VIN over three frames': vin.startsWith('ZZZK18AB9E0004217'),
  };
  for (const [what, ok] of Object.entries(right)) report.right(`slcan client: ${what}`, ok);
  const bytes = sent.replaceAll('\r', '|');
  const file = join(ROOT, 'packages/vehicle/test/golden/slcan-client.txt');
  const text = `# What an independent CAN library's slcan client (python-can of Debian's packages) sent, carriage returns as |.\n${bytes}\n`;
  if (report.write) writeFileSync(file, text);
  else if (readFileSync(file, 'utf8') !== text)
    say('slcan client: its bytes differ from the golden file (a newer library?)');
}
