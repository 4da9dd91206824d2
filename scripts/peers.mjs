/**
 * npm run test:peers: comparisons with outside programs; installs what it needs. `--write` renews the golden files
 * that npm test checks without those programs. Ends in failure where a value differs by more than half a step of its
 * parameter, and where fewer were compared than are asked for.
 *
 * The network analyser's OBD dissector rests on a public encyclopedia page's PID table, not on the standard's text.
 * GNU units rests on NIST and SI definitions.
 */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuilt, ensureModules, ROOT } from './lib/build.mjs';
import { ensurePrograms, PEERS, which } from './lib/packages.mjs';
import { run } from './lib/run.mjs';
import { say } from './lib/say.mjs';
import { Report } from './peers/report.mjs';

const report = new Report(process.argv.includes('--write'));

try {
  await ensurePrograms(PEERS);
  await ensureModules();
  await ensureBuilt();
  const { dissect, held } = await import('./peers/dissector.mjs');
  const { byTheirList, readinessFrames, synthetic } = await import('./peers/frames.mjs');
  const version = (await run(which('tshark'), ['--version']))
    .split('\n')
    .find((l) => l.startsWith('TShark'))
    .replace(/^TShark \(([^)]*)\) ([\d.]+).*/, '$1 $2');
  const lines = await synthetic();
  report.golden(
    'obd-dissector.tsv',
    [
      `Made by scripts/peers.mjs with ${version}'s OBD-II dissector over ISO 15765.`,
      "Its parameter table rests on a public encyclopedia page, not on the text of SAE J1979: agreement is not proof of the standard's.",
      'Columns: candump frame(s), parameter, values in order of position.',
    ],
    dissect(lines).map((r) => {
      const last = r.number - 1;
      const frames = r.pid === '02' && lines[last].includes('#22') ? lines.slice(last - 2, last + 1) : [lines[last]];
      return [frames.map((l) => l.split(' ')[2]).join(' '), r.pid, r.values.join('|')].join('\t');
    }),
    400,
  );

  const status = readinessFrames();
  report.golden(
    'readiness-dissector.tsv',
    [
      `Made by scripts/peers.mjs with ${version}'s OBD-II dissector over ISO 15765: the bytes it takes as the status.`,
      'Columns: candump frame, parameter, raw value.',
    ],
    dissect(status, true).map((r) => [status[r.number - 1].split(' ')[2], r.pid, r.values.join('|')].join('\t')),
    14,
  );

  const asked = [
    ['kPa', 'inHg'],
    ['kPa', 'psi'],
    ['bar', 'kPa'],
    ['mph', 'kph'],
    ['mile', 'km'],
    ['lb/min', 'g/s'],
    ['kg/hour', 'g/s'],
    ['lbf ft', 'N m'],
    ['96 in lbf', 'N m'],
    ['in', 'mm'],
    ['in^2', 'mm^2'],
    ['ft', 'm'],
    ['in^3', 'liter'],
    ['tempF(212)', 'tempC'],
    ['tempC(-40)', 'tempF'],
    ['tempC(90)', 'K'],
  ];
  const unitRows = [];
  for (const [from, to] of asked)
    unitRows.push([from, to, (await run(which('units'), ['-t', '-o', '%.12g', from, to])).trim()].join('\t'));
  report.golden(
    'gnu-units.tsv',
    [
      `Printed by GNU units (${(await run(which('units'), ['--version'])).split('\n')[0].trim()}).`,
      'Columns: from, to, value of one (or of the number given).',
    ],
    unitRows,
    16,
  );

  await (await import('./peers/slcanClient.mjs')).slcanClient(report);
  await (await import('./peers/realLink.mjs')).realLink(report);

  const theirs = held('frames of their list', byTheirList(24), report);
  report.agreed('frames of every parameter that the dissector knows, random bytes', theirs.agree, 200);
  if (theirs.theirsAlone.size > 0)
    say(`parameters that the dissector alone gives a figure for: ${[...theirs.theirsAlone].sort().join(' ')}`);

  // Example logs of the simulated vehicle: every value that the dissector gives must be ours as well.
  const { candumpOf } = await import(join(ROOT, 'packages/vehicle/dist/index.js'));
  const tenMinutes = {
    format: 'just-balance/scenario',
    version: 1,
    vehicle: 'aldwin-30',
    seed: 12,
    warm: true,
    fault: { id: 'fuel-low', severity: 90 },
    drive: [
      { do: 'idle', s: 120 },
      { do: 'hold', rpm: 2500, s: 120 },
      { do: 'speed', kmh: 80, s: 300 },
      { do: 'idle', s: 60 },
    ],
  };
  const logs = {
    ...Object.fromEntries(
      ['idle-and-hold-air-leak', 'v6-runner-leak'].map((n) => [
        n,
        readFileSync(join(ROOT, `examples/${n}.candump`), 'utf8')
          .trim()
          .split('\n'),
      ]),
    ),
    'ten minutes of a V6': [...candumpOf(tenMinutes)],
  };
  const least = { 'idle-and-hold-air-leak': 1500, 'v6-runner-leak': 900, 'ten minutes of a V6': 13_000 };
  const { exports } = await import('./peers/exports.mjs');
  for (const [name, whole] of Object.entries(logs)) {
    const log = whole.filter((l) => l.includes('7E8#'));
    report.agreed(`${name}: messages`, held(name, log, report).agree, least[name]);
    exports(name, log, Math.round(least[name] / 4), report);
  }
} catch (e) {
  report.fail(e.stack ?? e);
}
process.exit(report.failures === 0 ? 0 : 1);
