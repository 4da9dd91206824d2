/** The server's own link to an adapter, its samples held against what the dissector reads off the same wire. */

import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { ROOT } from '../lib/build.mjs';
import { withCar } from './car.mjs';
import { dissect, figuresOf, same } from './dissector.mjs';

/** One parameter a question: the dissector reads the first of an answer only. */
const CHANNELS = { rpm: '0C', maf: '10', map: '0B', stft1: '06', ltft1: '07', ect: '05' };
const EACH_MS = 1500;
/** Values of each channel that must have been compared. */
const LEAST = 20;

/** Frames of an adapter's text as lines of a log (Lawicel's slcan: `t`, three digits, a length, the bytes). */
function logOf(came) {
  let rest = '';
  return came.flatMap(({ atS, text }) => {
    const lines = (rest + text).split('\r');
    rest = lines.pop();
    return lines.flatMap((l) => {
      const [, id, data] = /^\W*t([0-9A-F]{3})\d([0-9A-F]*)$/i.exec(l) ?? [];
      return id?.toUpperCase() === '7E8' ? [`(${atS.toFixed(6)}) can0 7E8#${data.toUpperCase()}`] : [];
    });
  });
}

export async function realLink(report) {
  const { AdapterLink } = await import(join(ROOT, 'apps/server/dist/links/adapterLink.js'));
  const { planAlone } = await import(join(ROOT, 'packages/core/dist/link/index.js'));
  const samples = new Map(Object.keys(CHANNELS).map((id) => [id, []]));
  const { came } = await withCar(async (port) => {
    let ready = () => {};
    const isReady = new Promise((r) => {
      ready = r;
    });
    const link = new AdapterLink(
      '127.0.0.1',
      port,
      planAlone('rpm'),
      {
        samples: (list) => {
          for (const { channel, value } of list) samples.get(channel)?.push(value);
        },
        state: (s) => s === 'ready' && ready(),
      },
      async () => {},
    );
    link.open();
    await isReady;
    for (const id of Object.keys(CHANNELS)) {
      link.poll(planAlone(id));
      await wait(EACH_MS);
    }
    await link.close();
  });
  const read = dissect(logOf(came));
  for (const [id, pid] of Object.entries(CHANNELS)) {
    const theirs = read.filter((r) => r.pid === pid).flatMap((r) => figuresOf(r)[0] ?? []);
    // Every sample of the link stands on the wire, in this order; the wire may carry what came too late to count.
    let at = 0;
    let found = 0;
    for (const value of samples.get(id)) {
      while (at < theirs.length && !same(id, value, theirs[at])) at++;
      if (at++ < theirs.length) found++;
      else report.fail(`link: ${id} ${value} is not on the wire`);
    }
    report.agreed(`link, ${id}: samples that the dissector reads off the wire`, found, LEAST);
  }
}
