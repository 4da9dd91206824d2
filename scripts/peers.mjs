/**
 * npm run test:peers: comparisons with outside programs; installs what it needs. `--write` renews the golden files
 * that npm test checks without those programs.
 *
 * The network analyser's OBD dissector rests on a public encyclopedia page's PID table, not on the standard's text.
 * GNU units rests on NIST and SI definitions.
 */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureBuilt, ensureModules, ROOT } from './lib/build.mjs';
import { ensurePrograms, PEERS, which } from './lib/packages.mjs';
import { run } from './lib/run.mjs';
import { say } from './lib/say.mjs';

const write = process.argv.includes('--write');
const golden = join(ROOT, 'packages/core/test/golden');
const work = mkdtempSync(join(tmpdir(), 'jb-peers-'));
let failed = 0;

function compare(name, header, rows) {
  const file = join(golden, name);
  const text = `${header.map((h) => `# ${h}`).join('\n')}\n${rows.join('\n')}\n`;
  if (write) {
    writeFileSync(file, text);
    say(`${name}: ${rows.length} rows written`);
    return;
  }
  const same = readFileSync(file, 'utf8') === text;
  if (!same) failed++;
  say(`${name}: ${rows.length} rows, ${same ? 'as the golden file' : 'DIFFERENT from the golden file'}`);
}

/** Response frames for every single-frame parameter of our table, five patterns each, plus a VIN over three frames. */
async function synthetic() {
  const { PIDS } = await import(join(ROOT, 'packages/core/dist/obd/index.js'));
  const frames = [];
  for (const p of PIDS) {
    if (p.pid % 0x20 === 0 || p.length > 5 || p.elements.every((e) => e.kind === 'hex')) continue;
    for (const seed of [0x00, 0x01, 0x3c, 0x80, 0xfe]) {
      const data = Array.from({ length: p.length }, (_, i) => (seed === 0 ? 0 : (seed + i * 37 + p.pid) & 0xff));
      frames.push([2 + p.length, 0x41, p.pid, ...data]);
    }
  }
  const vin = [...'ZZZA30V62C0011853'].map((c) => c.charCodeAt(0));
  frames.push(
    [0x10, 0x14, 0x49, 0x02, 0x01, ...vin.slice(0, 3)],
    [0x21, ...vin.slice(3, 10)],
    [0x22, ...vin.slice(10, 17)],
  );
  return frames.map((f, i) => {
    const bytes = [...f, ...Array(8 - f.length).fill(0x55)];
    return `(${(1_700_000_000 + i / 100).toFixed(6)}) can0 7E8#${bytes.map((b) => b.toString(16).toUpperCase().padStart(2, '0')).join('')}`;
  });
}

/** Monitor status since clearing and this drive, petrol and diesel: the dissector gives their bytes as they are. */
const READINESS = [
  '00 07 65 00',
  '81 07 65 04',
  '00 07 65 61',
  '03 77 FF FF',
  '00 0F C3 02',
  '82 4F EB 88',
  '00 08 00 00',
];

function readinessFrames() {
  return [0x01, 0x41].flatMap((pid, k) =>
    READINESS.map((text, i) => {
      const bytes = [6, 0x41, pid, ...text.split(' ').map((b) => Number.parseInt(b, 16)), 0x55];
      const hex = bytes.map((b) => b.toString(16).toUpperCase().padStart(2, '0')).join('');
      return `(${(1_700_000_100 + k + i / 100).toFixed(6)}) can0 7E8#${hex}`;
    }),
  );
}

/** An independent CAN library's slcan client against the simulated vehicle over TCP; its bytes and answers are kept. */
async function slcanClient() {
  const { fork, spawn } = await import('node:child_process');
  const { createServer, connect } = await import('node:net');
  const { freePorts } = await import('./lib/ports.mjs');
  const [sim, control, proxy] = await freePorts(3);
  const car = fork(join(ROOT, 'packages/vehicle/dist/process/main.js'), [], {
    env: {
      ...process.env,
      JB_SIM_PORT: String(sim),
      JB_SIM_CONTROL_PORT: String(control),
      JB_SIM_TOKEN: 'token of the peers run',
      JB_DEMO: '1',
    },
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
  });
  await new Promise((r) => car.once('message', r));
  // What the client sends is kept, so that npm test can replay it without the library.
  let sent = '';
  const between = createServer((client) => {
    const vehicle = connect(sim, '127.0.0.1');
    client.on('data', (d) => {
      sent += d.toString('latin1');
      vehicle.write(d);
    });
    vehicle.on('data', (d) => client.write(d));
    client.on('close', () => vehicle.destroy());
    for (const s of [client, vehicle]) s.on('error', () => {});
  });
  await new Promise((r) => between.listen(proxy, '127.0.0.1', r));
  const out = await new Promise((resolve) => {
    const p = spawn('/usr/bin/python3', [join(ROOT, 'scripts/peers/slcan_client.py'), String(proxy)]);
    let text = '';
    p.stdout.on('data', (d) => {
      text += d;
    });
    p.stderr.on('data', (d) => process.stderr.write(d));
    p.on('exit', () => resolve(text));
  });
  between.close();
  car.kill('SIGTERM');
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
  for (const [what, ok] of Object.entries(right)) {
    if (!ok) failed++;
    say(`slcan client: ${what}: ${ok ? 'right' : 'WRONG'}`);
  }
  const bytes = sent.replaceAll('\r', '|');
  const file = join(ROOT, 'packages/vehicle/test/golden/slcan-client.txt');
  const text = `# What an independent CAN library's slcan client (python-can of Debian's packages) sent, carriage returns as |.\n${bytes}\n`;
  if (write) writeFileSync(file, text);
  else if (readFileSync(file, 'utf8') !== text)
    say('slcan client: its bytes differ from the golden file (a newer library?)');
}

/** What the dissector says: one row a message: time, pid, its values in order of position. */
async function dissect(lines, raw = false) {
  const log = join(work, 'log.candump');
  writeFileSync(log, `${lines.join('\n')}\n`);
  const out = join(work, 'out.pdml');
  const { execFileSync } = await import('node:child_process');
  const pdml = execFileSync(
    which('tshark'),
    ['-r', log, '-d', 'can.subdissector,iso15765', '-d', 'iso15765.subdissector,obd-ii', '-Y', 'obd-ii', '-T', 'pdml'],
    { encoding: 'utf8', maxBuffer: 1 << 28, stdio: ['ignore', 'pipe', 'ignore'] },
  );
  writeFileSync(out, pdml);
  const rows = [];
  for (const packet of pdml.split('</packet>')) {
    const obd = packet.split('name="obd-ii"')[1];
    if (!obd) continue;
    const time = /name="timestamp".*?value="([\d.]+)"/.exec(packet)?.[1] ?? '';
    const number =
      /name="num" pos="0" show="(\d+)"/.exec(packet)?.[1] ??
      /name="frame\.number".*?show="(\d+)"/.exec(packet)?.[1] ??
      '';
    const pid = /name="obd-ii\.mode0[19]_pid".*?value="([0-9a-f]+)"/.exec(obd)?.[1] ?? '';
    const values = [...obd.matchAll(/name="obd-ii\.([a-zA-Z0-9_]+)".*?show="([^"]*)"/g)]
      // which parameter, and which sensor of a group: known from the parameter already
      .filter(([, name]) =>
        raw ? name === 'raw_value' : !name.endsWith('_pid') && !/sensor_id$|^(mode|raw_value)$/.test(name),
      )
      .map(([, , show]) => show);
    if (values.length > 0) rows.push({ time, number: Number(number), pid: pid.toUpperCase(), values });
  }
  return rows;
}

try {
  await ensurePrograms(PEERS);
  await ensureModules();
  await ensureBuilt();
  const version = (await run(which('tshark'), ['--version']))
    .split('\n')
    .find((l) => l.startsWith('TShark'))
    .replace(/^TShark \(([^)]*)\) ([\d.]+).*/, '$1 $2');
  const lines = await synthetic();
  const rows = await dissect(lines);
  compare(
    'obd-dissector.tsv',
    [
      `Made by scripts/peers.mjs with ${version}'s OBD-II dissector over ISO 15765.`,
      "Its parameter table rests on a public encyclopedia page, not on the text of SAE J1979: agreement is not proof of the standard's.",
      'Columns: candump frame(s), parameter, values in order of position.',
    ],
    rows.map((r) => {
      const last = r.number - 1;
      const frames = r.pid === '02' && lines[last].includes('#22') ? lines.slice(last - 2, last + 1) : [lines[last]];
      return [frames.map((l) => l.split(' ')[2]).join(' '), r.pid, r.values.join('|')].join('\t');
    }),
  );

  const status = readinessFrames();
  compare(
    'readiness-dissector.tsv',
    [
      `Made by scripts/peers.mjs with ${version}'s OBD-II dissector over ISO 15765: the bytes it takes as the status.`,
      'Columns: candump frame, parameter, raw value.',
    ],
    (await dissect(status, true)).map((r) =>
      [status[r.number - 1].split(' ')[2], r.pid, r.values.join('|')].join('\t'),
    ),
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
  compare(
    'gnu-units.tsv',
    [
      `Printed by GNU units (${(await run(which('units'), ['--version'])).split('\n')[0].trim()}).`,
      'Columns: from, to, value of one (or of the number given).',
    ],
    unitRows,
  );

  await slcanClient();

  // Example logs of the simulated vehicle: every value that the dissector gives must be ours as well.
  const { logDecoder } = await import(join(ROOT, 'packages/core/dist/obd/index.js'));
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
  for (const [name, whole] of Object.entries(logs)) {
    const log = whole.filter((l) => l.includes('7E8#'));
    const theirs = await dissect(log);
    const decoder = logDecoder();
    const ours = log.map((l) => decoder.line(l));
    let agree = 0;
    for (const r of theirs) {
      const mine = ours[r.number - 1]
        .filter((o) => typeof o.value === 'number' || o.name === 'vin')
        .map((o) => o.value);
      const numbers = r.values.filter((v) => v !== '' && (!Number.isNaN(Number(v)) || v.length === 17));
      if (mine.length === 0 || numbers.length === 0 || numbers.some((v) => v.startsWith('0x'))) continue;
      // for the narrow-band sensors the dissector gives the voltage only
      const ok = mine
        .slice(0, numbers.length)
        .every((m, i) =>
          typeof m === 'string' ? m === numbers[i] : Math.abs(m - Number(numbers[i])) <= Math.abs(m) * 1e-4 + 0.006,
        );
      if (ok) agree++;
      else {
        failed++;
        if (failed < 6)
          process.stdout.write(`${name} frame ${r.number} pid ${r.pid}: ours ${mine}, theirs ${r.values}\n`);
      }
    }
    say(`${name}: ${agree} messages agree`);
  }
} catch (e) {
  failed++;
  process.stdout.write(`${e.stack ?? e}\n`);
} finally {
  rmSync(work, { recursive: true, force: true });
}
process.exit(failed === 0 ? 0 : 1);
