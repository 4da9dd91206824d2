import { execFile, spawn } from 'node:child_process';
import {
  existsSync,
  lstatSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { afterAll, describe, expect, test } from '@jest/globals';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { CASE_EXAMPLE } from '../../../packages/contract/test/contractExamples.ts';
import { FAULTS } from '../../../packages/core/src/catalogue/index.ts';

const ROOT = join(__dirname, '../../..');
const JB = join(ROOT, 'apps/cli/bin/jb.mjs');
const dir = mkdtempSync(join(tmpdir(), 'jb-cli-'));
afterAll(() => rmSync(dir, { recursive: true, force: true }));

interface Ran {
  code: number;
  out: string;
  err: string;
}
/** A process of its own, as a shell starts it. */
function spawned(args: string[], input?: string): Promise<Ran> {
  return new Promise((resolve) => {
    const child = execFile(process.execPath, [JB, ...args], { cwd: dir, maxBuffer: 1 << 28 }, (e, out, err) =>
      resolve({ code: e ? Number(e.code ?? 1) : 0, out, err }),
    );
    if (input !== undefined) child.stdin!.end(input);
  });
}

const calls = spawn(process.execPath, [join(__dirname, 'manyCalls.mjs')], { stdio: ['pipe', 'pipe', 'inherit'] });
const answers = createInterface({ input: calls.stdout })[Symbol.asyncIterator]();
afterAll(() => void calls.stdin.end());
/** The same in a process that all calls of these tests share, one after the other. */
async function jb(args: string[], input?: string): Promise<Ran> {
  calls.stdin.write(`${JSON.stringify({ cwd: dir, args, ...(input === undefined ? {} : { input }) })}\n`);
  return JSON.parse((await answers.next()).value as string) as Ran;
}
const file = (name: string, text: string) => {
  writeFileSync(join(dir, name), text);
  return join(dir, name);
};

const schema = (name: string) =>
  new Ajv2020({ strict: true, allowUnionTypes: true }).compile(
    JSON.parse(readFileSync(join(ROOT, `docs/formats/${name}.schema.json`), 'utf8')),
  );

describe('jb decode', () => {
  const log = join(ROOT, 'examples/idle-and-hold-air-leak.candump');
  test('reads the shipped log of the simulated vehicle', async () => {
    const r = await spawned(['decode', log]);
    expect(r.code).toBe(0);
    const rows = r.out
      .trim()
      .split('\n')
      .map((l) => l.split('\t'));
    expect(rows.length).toBeGreaterThan(1000);
    for (const row of rows.slice(0, 50)) expect(row).toHaveLength(7);
    expect(rows.find((x) => x[4] === 'vin')).toEqual([
      expect.any(String),
      '7E8',
      '09',
      '02',
      'vin',
      'ZZZK18AB9E0004217',
      '',
    ]);
    const trim = (name: string) => rows.filter((x) => x[4] === name).map((x) => Number(x[5]));
    const mean = (v: number[]) => v.reduce((a, b) => a + b, 0) / v.length;
    // An air leak is in: lean at idle.
    expect(mean(trim('stft1').slice(0, 40)) + mean(trim('ltft1').slice(0, 40))).toBeGreaterThan(10);
    expect(rows.filter((x) => x[2] === '03')).toEqual([[expect.any(String), '7E8', '03', '', 'dtcCount', '0', '']]);
  });
  test('standard input, bad lines summed up with their numbers', async () => {
    const r = await spawned(['decode', '-'], '(1.5) can0 7E8#04410C0BB8\nnot a frame\n(2.0) can0 7E8#03410D32\n');
    expect(r).toMatchObject({ code: 0, out: '1.5\t7E8\t01\t0C\trpm\t750\trpm\n2.0\t7E8\t01\t0D\tvss\t50\tkm/h\n' });
    expect(r.err).toMatch(/line 2: no \(time\)/);
  });
  test('--strict stops at the first bad line; no frame at all is an error; a missing file is named', async () => {
    expect(await jb(['decode', '-', '--strict'], '(1.5) can0 7E8#03410D32\nrubbish\n')).toMatchObject({
      code: 2,
      err: expect.stringMatching(/line 2/),
    });
    expect(await jb(['decode', '-'], 'rubbish\n')).toMatchObject({
      code: 2,
      err: expect.stringMatching(/no CAN frame/),
    });
    expect(await jb(['decode', 'nowhere.log'])).toMatchObject({ code: 2, err: expect.stringMatching(/nowhere\.log/) });
  });
});

describe('jb diagnose', () => {
  const line = (o: object) => JSON.stringify({ ...CASE_EXAMPLE, ...o });
  test('one result a case, same order, the same bytes twice', async () => {
    const cases = file('cases.ndjson', `${line({ id: 'a' })}\n${line({ id: 'b', readings: [] })}\n`);
    const once = await jb(['diagnose', '--in', cases, '--out', join(dir, 'r1.ndjson')]);
    await jb(['diagnose', '--in', cases, '--out', join(dir, 'r2.ndjson')]);
    expect(once.code).toBe(0);
    const text = readFileSync(join(dir, 'r1.ndjson'), 'utf8');
    expect(text).toBe(readFileSync(join(dir, 'r2.ndjson'), 'utf8'));
    const results = text
      .trim()
      .split('\n')
      .map((l) => JSON.parse(l));
    expect(results.map((r) => r.id)).toEqual(['a', 'b']);
    expect(results[0].format).toBe('just-balance/diagnosis');
  });
  test('a line that is not a case gives an error record in its place, and exit 2 naming line and field', async () => {
    const cases = file(
      'mixed.ndjson',
      `${line({ id: 'ok' })}\n${line({ id: 'bad', codes: [{ code: 'P0171', state: 'x' }] })}\n{nonsense\n${line({ id: 'ok2' })}\n`,
    );
    const r = await spawned(['diagnose', '--in', cases, '--out', join(dir, 'mixed.out')]);
    expect(r.code).toBe(2);
    expect(r.err.trim().split('\n')).toHaveLength(1);
    expect(r.err).toMatch(/line 2: codes\[0\]\.state/);
    const rows = readFileSync(join(dir, 'mixed.out'), 'utf8')
      .trim()
      .split('\n')
      .map((l) => JSON.parse(l));
    expect(rows.map((x) => x.format.split('/')[1])).toEqual(['diagnosis', 'error', 'error', 'diagnosis']);
    expect(rows[1]).toMatchObject({ id: 'bad', line: 2, errors: [{ field: 'codes[0].state' }] });
    expect(rows[2]).toMatchObject({ id: null, line: 3 });
  });
  test('no line loses the run: each hostile one gives its own error line, in its place', async () => {
    const deep = `{"id":"deep","vehicle":${'['.repeat(5000)}${']'.repeat(5000)}}`;
    const hostile: [string, string][] = [
      [line({ recentWork: [[]] }), 'recentWork'],
      [line({ ambient: { baroKPa: null } }), 'ambient.baroKPa'],
      [deep, 'vehicle'],
      [line({}).replace('"id"', '"constructor":{"a":1},"id"'), ''],
      [line({}).replace('"id"', '"__proto__":{"a":1},"id"'), ''],
      [
        line({ tests: [{ id: 'fuel-pressure', values: { idleKPa: 1e308, loadKPa: 1e308 } }] }),
        'tests[0].values.idleKPa',
      ],
      [line({ tests: [{ id: 'smoke-intake', outcome: { toString: 1 } }] }), 'tests[0].outcome'],
      [line({ vehicle: [] }), 'vehicle'],
      ['null', ''],
      ['[]', ''],
    ];
    // A byte order mark before the first line is none of the line's business.
    const text = `\ufeff${line({ id: 'first' })}\n${hostile.map(([l]) => l).join('\n')}\n${line({ id: 'last' })}\n`;
    const r = await jb(['diagnose', '--in', file('hostile.ndjson', text), '--out', join(dir, 'hostile.out')]);
    expect([r.code, r.err.trim().split('\n').length]).toEqual([2, 1]);
    const rows = readFileSync(join(dir, 'hostile.out'), 'utf8')
      .trim()
      .split('\n')
      .map((l) => JSON.parse(l));
    expect([rows[0].id, rows.at(-1).id]).toEqual(['first', 'last']);
    expect([rows[0].format, rows.at(-1).format]).toEqual(['just-balance/diagnosis', 'just-balance/diagnosis']);
    for (const [i, [, field]] of hostile.entries()) {
      expect(rows[i + 1]).toMatchObject({ format: 'just-balance/error', line: i + 2 });
      expect(rows[i + 1].errors[0].field.startsWith(field)).toBe(true);
    }
    // Starting weights of 0 for all: refused as settings; for all that fit this vehicle: a line of its own.
    const none = file('nothing.json', JSON.stringify({ priors: Object.fromEntries(FAULTS.map((f) => [f.id, 0])) }));
    const one = file('single.ndjson', `${line({})}\n`);
    expect((await jb(['diagnose', '--in', one, '--out', '-', '--settings', none])).err).toMatch(
      /priors: every fault weighs 0/,
    );
    const diesel = FAULTS.filter((f) => f.id !== 'boost-leak' && f.id !== 'turbo-underboost');
    const most = file('most.json', JSON.stringify({ priors: Object.fromEntries(diesel.map((f) => [f.id, 0])) }));
    const left = await jb(['diagnose', '--in', one, '--out', '-', '--settings', most]);
    expect([left.code, JSON.parse(left.out).errors[0].message]).toEqual([
      2,
      expect.stringMatching(/cannot be weighed/),
    ]);
  });
  test('settings change what they say they change; bad ones are refused by field, nothing written', async () => {
    const cases = file('one.ndjson', `${line({ tests: [] })}\n`);
    const settings = file('s.json', JSON.stringify({ tools: [], minutes: { 'pinch-pcv': 1000 } }));
    const r = await jb(['diagnose', '--in', cases, '--out', '-', '--settings', settings]);
    const tests = JSON.parse(r.out).nextTests.map((t: { test: string }) => t.test);
    expect(tests).not.toContain('smoke-intake');
    const bad = file('bad.json', JSON.stringify({ priors: { 'vac-leak': 'x' } }));
    expect(await jb(['diagnose', '--in', cases, '--out', join(dir, 'no.out'), '--settings', bad])).toMatchObject({
      code: 2,
      err: expect.stringMatching(/priors\.vac-leak/),
    });
    expect(existsSync(join(dir, 'no.out'))).toBe(false);
  });
});

describe('jb simulate', () => {
  test('the same scenario gives the same log, and it decodes', async () => {
    const scenario = join(ROOT, 'examples/scenarios/v6-runner-leak.json');
    const short = file(
      'short.json',
      JSON.stringify({ ...JSON.parse(readFileSync(scenario, 'utf8')), settled: false, drive: [{ do: 'idle', s: 4 }] }),
    );
    expect((await jb(['simulate', short, '--out', join(dir, 'a.candump')])).code).toBe(0);
    expect((await jb(['simulate', short, '--out', join(dir, 'b.candump')])).code).toBe(0);
    const text = readFileSync(join(dir, 'a.candump'), 'utf8');
    expect(text).toBe(readFileSync(join(dir, 'b.candump'), 'utf8'));
    const r = await jb(['decode', join(dir, 'a.candump')]);
    expect(r.out).toMatch(/\tvin\tZZZ/);
  });
  test('a wrong scenario says which field', async () => {
    const bad = file(
      'bad-scenario.json',
      JSON.stringify({ format: 'just-balance/scenario', version: 1, vehicle: 'none', drive: [{ do: 'fly', s: 3 }] }),
    );
    expect(await jb(['simulate', bad, '--out', join(dir, 'x.candump')])).toMatchObject({
      code: 2,
      err: expect.stringMatching(/vehicle: unknown.*drive\[0\]\.do/),
    });
    expect(existsSync(join(dir, 'x.candump'))).toBe(false);
  });
});

describe('where results go', () => {
  const cases = file('one.ndjson', `${JSON.stringify(CASE_EXAMPLE)}\n`);
  test('a device stays a device, a link stays a link, a pipe gets the lines', async () => {
    // Whatever stands there on this machine stands there afterwards.
    const before = statSync('/dev/null').isCharacterDevice();
    expect((await spawned(['diagnose', '--in', cases, '--out', '/dev/null'])).code).toBe(0);
    expect(statSync('/dev/null').isCharacterDevice()).toBe(before);
    const piped = await spawned(['diagnose', '--in', cases, '--out', '/dev/stdout']);
    expect([piped.code, JSON.parse(piped.out).format]).toEqual([0, 'just-balance/diagnosis']);
    const real = file('real.ndjson', 'old');
    symlinkSync(real, join(dir, 'link.ndjson'));
    expect((await spawned(['diagnose', '--in', cases, '--out', join(dir, 'link.ndjson')])).code).toBe(0);
    expect(lstatSync(join(dir, 'link.ndjson')).isSymbolicLink()).toBe(true);
    expect(readFileSync(real, 'utf8')).toBe(piped.out);
  });
});

describe('jb convert', () => {
  const read = (name: string) => readFileSync(join(dir, name), 'utf8');
  test('candump → capture → CSV → capture: every value and time again', async () => {
    const log = join(ROOT, 'examples/v6-runner-leak.candump');
    for (const [from, to] of [
      [log, 'a.json'],
      ['a.json', 'a.csv'],
      ['a.csv', 'b.json'],
      ['b.json', 'b.candump'],
      ['b.candump', 'c.json'],
    ])
      expect(await jb(['convert', from!, to!])).toMatchObject({ code: 0 });
    const values = (name: string) =>
      Object.fromEntries(JSON.parse(read(name)).channels.map((c: { id: string; value: number[] }) => [c.id, c.value]));
    const [a, b, c] = [values('a.json'), values('b.json'), values('c.json')];
    expect(Object.keys(a).length).toBeGreaterThan(20);
    expect(b).toEqual(a);
    for (const id of Object.keys(a)) {
      expect(c[id]).toHaveLength(a[id].length);
      for (const [i, v] of c[id].entries()) expect(Math.abs(v - a[id][i])).toBeLessThan(1e-6 + 1e-4 * Math.abs(v));
    }
    const times = (name: string) => JSON.parse(read(name)).channels[0].time;
    expect(times('b.json')).toEqual(times('a.json'));
    expect(JSON.parse(read('a.json')).startedAt).toMatch(/^2023-11-14T22:13:20\.\d{3}Z$/);
  });
  test.each([
    [
      'comma, units in the header',
      'Time (s),Engine RPM,Short term fuel trim bank 1 (%),MAF (g/s)\n0.0,700,1.5,2.1\n0.5,710,2.5,2.2\n',
    ],
    [
      'semicolon, decimal comma, BOM, unit row',
      '\uFEFFTime;Engine speed;STFT B1;Mass air flow\ns;rpm;%;g/s\n0,0;700;1,5;2,1\n0,5;710;2,5;2,2\n',
    ],
    [
      'tab, milliseconds, pounds a minute',
      'time\trpm\tstft1\tMAF (lb/min)\n0\t700\t1.5\t0.27778\n500\t710\t2.5\t0.29101\n',
    ],
    [
      'clock, title lines above, quotes',
      '"Some tool, export"\n"Vehicle","none"\nTime,RPM,"STFT Bank 1 (%)","MAF, g/s","Notes"\n09:59:59.500,700,1.5,2.1,"a, b"\n10:00:00.000,710,2.5,2.2,\n',
    ],
    [
      'long',
      'timestamp,parameter,value,unit\n0,Engine RPM,700,rpm\n0,STFT B1,1.5,%\n0,MAF,2.1,g/s\n0.5,Engine RPM,710,rpm\n0.5,STFT B1,2.5,%\n0.5,MAF,2.2,g/s\n',
    ],
    [
      'a clock for each channel',
      'Time,RPM,Time,STFT B1 (%),Time,MAF (g/s)\n0,700,0.0,1.5,0.0,2.1\n0.5,710,0.5,2.5,0.5,2.2\n',
    ],
  ])('CSV: %s', async (_, text) => {
    file('in.csv', text);
    expect((await jb(['convert', 'in.csv', 'out.json'])).code).toBe(0);
    const { channels } = JSON.parse(read('out.json'));
    const of = (id: string) => channels.find((c: { id: string }) => c.id === id);
    expect(of('rpm')).toMatchObject({ unit: 'rpm', time: [0, 0.5], value: [700, 710] });
    expect(of('stft1')).toMatchObject({ unit: '%', value: [1.5, 2.5] });
    expect(of('maf').value[0]).toBeCloseTo(2.1, 2);
    expect(of('maf').value[1]).toBeCloseTo(2.2, 2);
  });
  test('what cannot be read is said by line, the rest is kept; nothing half-written on failure', async () => {
    file('gaps.csv', 'time,rpm,STFT B1\n0,700,1\nx,710,2\n1,,3\n2,fast,4\n');
    const r = await jb(['convert', 'gaps.csv', 'gaps.json']);
    expect(r.code).toBe(0);
    expect(r.err).toMatch(/line 3: time "x" cannot be read/);
    expect(r.err).toMatch(/line 5: rpm: "fast" is not a number/);
    expect(JSON.parse(read('gaps.json')).channels.map((c: { value: number[] }) => c.value)).toEqual([[700], [1, 3, 4]]);
    file('none.csv', 'a,b\n1,2\n');
    expect(await jb(['convert', 'none.csv', 'none.json'])).toMatchObject({
      code: 2,
      err: expect.stringMatching(/no header row/),
    });
    expect(existsSync(join(dir, 'none.json'))).toBe(false);
    file(
      'bad.json',
      '{"format":"just-balance/capture","version":1,"channels":[{"id":"rpm","unit":"rpm","time":[1,0],"value":[1,2]}]}',
    );
    expect(await jb(['convert', 'bad.json', 'x.csv'])).toMatchObject({
      code: 2,
      err: expect.stringMatching(/channels\[0\]\.time\[1\]: goes back/),
    });
    expect(await jb(['convert', 'in.pdf', 'x.csv'])).toMatchObject({
      code: 2,
      err: expect.stringMatching(/known endings/),
    });
    expect(await jb(['convert', 'missing.csv', 'x.json'])).toMatchObject({
      code: 2,
      err: expect.stringMatching(/no such file/),
    });
  });
});

test('an unknown command or a missing option is one line and exit 2', async () => {
  for (const args of [['fly'], [], ['diagnose', '--in', 'x'], ['simulate', 'x.json']]) {
    const r = await jb(args);
    expect(r.code).toBe(2);
    expect(r.err.trim().split('\n').length).toBeGreaterThan(0);
    expect(r.err).not.toMatch(/ {4}at /);
  }
});

describe('jb pins', () => {
  /** The contract's own two readings, and as many more of the same connector as settle it. */
  const READINGS = {
    format: 'just-balance/pins',
    version: 1,
    pins: ['1', '2', '3', '4', '5'],
    batteryV: 12.6,
    running: false,
    readings: [
      { red: '1', black: '2', volts: 4.6, signed: false },
      { red: '3', black: 'battery-', volts: 0.02, signed: true },
      { red: '1', black: 'battery-', volts: 12.5, signed: false },
      { red: '1', black: '3', volts: 12.48, signed: false },
      { red: '2', black: '3', volts: 0.03, signed: false },
      { red: '2', black: 'battery-', volts: 0.05, signed: false },
      { red: '4', black: '3', volts: 5.01, signed: false },
      { red: '1', black: '4', volts: 7.47, signed: false },
      { red: '5', black: '4', volts: 3.9, signed: false },
      { red: '5', black: '2', volts: 1.07, signed: false },
    ],
  };
  test('readings to voltages and roles, as the schemas say', async () => {
    expect(schema('pins')(READINGS)).toBe(true);
    const r = await jb(['pins', file('pins.json', JSON.stringify(READINGS))]);
    expect(r.code).toBe(0);
    const result = JSON.parse(r.out);
    expect(schema('pins-result')(result)).toBe(true);
    expect(result).toMatchObject({ format: 'just-balance/pins-result', version: 1, outliers: [0], ambiguous: false });
    expect(result.pins.map((p: { role: string }) => p.role)).toEqual([
      'supply',
      'ground',
      'ground',
      'reference',
      'signal',
    ]);
  });

  test.each<[string, object, RegExp]>([
    ['another format', { format: 'just-balance/case' }, /format: must be "just-balance\/pins"/],
    ['a newer version', { version: 2 }, /version: version 2 is newer/],
    ['a pin twice', { pins: ['1', '1'] }, /pins: each pin once/],
    [
      'a lead on no pin',
      { readings: [{ red: '9', black: '1', volts: 1, signed: true }] },
      /readings\[0\]\.red: "9" is no pin/,
    ],
    [
      'both leads on one',
      { readings: [{ red: '1', black: '1', volts: 0, signed: true }] },
      /readings\[0\]\.black: both leads/,
    ],
    [
      'no voltage',
      { readings: [{ red: '1', black: '2', volts: 'low', signed: true }] },
      /readings\[0\]\.volts: must be a number/,
    ],
  ])('%s is said with its field, exit 2, nothing printed', async (_, change, words) => {
    const r = await jb(['pins', file('bad-pins.json', JSON.stringify({ ...READINGS, ...change }))]);
    expect([r.code, r.out]).toEqual([2, '']);
    expect(r.err).toMatch(words);
  });
});

describe('jb relearn', () => {
  /** Idle after a repair, first-order: the long term from 14 to 1.8 with a time constant of 40 s. */
  const csv = (seconds: number) => {
    const lines = ['Time (s),Engine speed (rpm),STFT B1 (%),LTFT B1 (%)'];
    for (let i = 0; i < 5 * seconds; i++) {
      const t = i / 5;
      const e = Math.exp(-t / 40);
      lines.push(
        [t.toFixed(1), 735, (-12.2 * e + (i % 2 ? 0.8 : -0.8)).toFixed(2), (1.8 + 12.2 * e).toFixed(2)].join(','),
      );
    }
    return lines.join('\n');
  };

  test('a log after a repair to where it is going, as the schema says; --from leaves out what lies before', async () => {
    const log = file('after.csv', csv(45));
    const r = await jb(['relearn', log]);
    expect(r.code).toBe(0);
    const result = JSON.parse(r.out);
    expect(schema('relearn')(result)).toBe(true);
    const [b] = result.banks;
    expect(b).toMatchObject({ bank: 1, state: 'settling' });
    expect(Math.abs(b.settled.totalPct - 1.8)).toBeLessThan(1);
    // 40·ln(12.2) s from the start: 55 s more.
    expect(Math.abs(b.longSettlesInS - 55)).toBeLessThan(15);
    const late = JSON.parse((await jb(['relearn', log, '--from', '20'])).out);
    expect(Math.abs(late.banks[0].settled.totalPct - 1.8)).toBeLessThan(1.5);
    expect(late.warnings.join(' ')).toMatch(/2[45] s of closed loop/);
  });

  test('the shipped log, a log without trims, a wrong number of seconds', async () => {
    const shipped = await jb(['relearn', join(ROOT, 'examples/idle-and-hold-air-leak.candump')]);
    expect(schema('relearn')(JSON.parse(shipped.out))).toBe(true);
    const none = JSON.parse((await jb(['relearn', file('none.csv', 'time,rpm\n0,700\n1,705\n2,702')])).out);
    expect(none).toMatchObject({ banks: [], warnings: ['No fuel trims in the recording.'] });
    const bad = await jb(['relearn', file('after2.csv', csv(10)), '--from', 'soon']);
    expect([bad.code, bad.out]).toEqual([2, '']);
    expect(bad.err).toMatch(/--from: "soon" is not a number of seconds/);
  });
});

describe('jb procedure', () => {
  const ours = readFileSync(join(ROOT, 'examples/procedures/airflow-sensor-clean.yaml'), 'utf8');

  test('YAML is printed as JSON, and that JSON is read again', async () => {
    const r = await jb(['procedure', file('clean.yaml', ours)]);
    expect(r.code).toBe(0);
    const result = JSON.parse(r.out);
    expect(schema('procedure')(result)).toBe(true);
    expect(result).toMatchObject({ format: 'just-balance/procedure', version: 1, id: 'airflow-sensor-clean' });
    expect((await jb(['procedure', file('clean.json', r.out)])).out).toBe(r.out);
  });

  test('every error with its line and field, exit 2, nothing printed', async () => {
    const bad = ours
      .replace('goTo: note', 'goTo: later')
      .replace('item: airflow sensor\n    count: 2\n  - id: plug', 'item: lamp\n  - id: plug');
    const r = await jb(['procedure', file('bad.yaml', bad)]);
    expect([r.code, r.out]).toEqual([2, '']);
    const line = (part: string) => bad.split('\n').findIndex((l) => l.includes(part)) + 1;
    expect(r.err).toContain(
      `bad.yaml, line ${line('goTo: later')}: steps[0].answers[0].goTo: no step has the id "later"`,
    );
    expect(r.err).toContain(`bad.yaml, line ${line('item: lamp')}: steps[9].item: "lamp" was not taken off before`);
  });
});

describe('jb coach and jb plan', () => {
  const rows = Array.from({ length: 820 }, (_, t) => {
    const mph = t < 20 ? 0 : t >= 600 && t < 615 ? 49 : 41.5;
    return `${t},${(mph * 1.609344).toFixed(2)},${mph === 0 ? 760 : 1750},${Math.min(90, 20 + t * 0.3).toFixed(1)}`;
  });
  const log = file('drive.csv', ['time,vss (km/h),rpm,ect (°C)', ...rows].join('\n'));
  const state = file(
    'state.json',
    JSON.stringify({
      engineOffSince: '2026-01-10T21:00:00Z',
      startedAt: '2026-01-11T07:00:00Z',
      ambientC: 14,
      altitudeM: 80,
      fuelPct: 61,
      lamp: 'off',
      codes: [],
      incomplete: ['evap'],
    }),
  );

  test('a recorded drive: what broke, at which second, what remains; the same from a candump', async () => {
    const r = await jb(['coach', log, '--procedure', 'steady-cruise', '--before', state]);
    expect([r.code, r.err]).toEqual([0, '']);
    const review = JSON.parse(r.out);
    expect(schema('drive-review')(review)).toBe(true);
    expect(review).toMatchObject({ result: 'incomplete', monitors: { before: ['evap'], after: null } });
    expect(review.steps.at(-1)).toMatchObject({
      id: 'cruise-evap',
      state: 'running',
      broken: [{ atS: 600, condition: 'vss', value: 49, unit: 'mph' }],
    });
    const candump = join(dir, 'drive.candump');
    expect((await jb(['convert', log, candump])).code).toBe(0);
    const again = JSON.parse((await jb(['coach', candump, '--procedure', 'steady-cruise', '--before', state])).out);
    expect(again.result).toBe('incomplete');
    // A candump carries whole km/h: 66.8 is 67, and the band is kept.
    expect(Math.abs(again.steps.at(-1).broken[0].atS - 600)).toBeLessThanOrEqual(1);
  });

  test('a procedure of one’s own from a file; what is wrong with it is said with its line', async () => {
    const own = (seconds: string) =>
      [
        'format: just-balance/drive-procedure',
        'version: 1',
        'id: own',
        'title: Own',
        'source: invented for this test',
        'before: []',
        'steps:',
        '  - id: steady',
        '    says: Steady.',
        '    finishes: [catalyst]',
        '    hold: [{channel: vss, low: 60, high: 75, unit: km/h}]',
        `    seconds: ${seconds}`,
        '    graceSeconds: 10',
      ].join('\n');
    const good = file('own.yaml', own('300'));
    const r = await jb(['coach', log, '--procedure', good]);
    expect(JSON.parse(r.out)).toMatchObject({ procedure: 'own', result: 'complete', steps: [{ toS: 320 }] });
    expect(JSON.parse((await jb(['procedure', good])).out)).toMatchObject({ id: 'own', steps: [{ seconds: 300 }] });
    const bad = file('bad.yaml', own('ages'));
    for (const args of [
      ['procedure', bad],
      ['coach', log, '--procedure', bad],
    ]) {
      const wrong = await jb(args);
      expect([wrong.code, wrong.out]).toEqual([2, '']);
      expect(wrong.err).toMatch(/bad\.yaml, line 12: steps\[0\]\.seconds: /);
    }
    const none = await jb(['coach', log, '--procedure', 'moon-shot']);
    expect([none.code, none.err]).toEqual([
      2,
      expect.stringMatching(/moon-shot.*steady-cruise, seven-stations, general/),
    ]);
  });

  test('a plan; a state that cannot be is said by its field', async () => {
    const request = {
      format: 'just-balance/drive-plan-request',
      version: 1,
      procedure: 'general',
      now: '2026-01-11T07:00:00Z',
      state: { altitudeM: 80, incomplete: ['catalyst'] },
      forecast: [
        { at: '2026-01-11T06:00:00Z', airC: -12 },
        { at: '2026-01-11T10:00:00Z', airC: -2 },
      ],
    };
    const r = await jb(['plan', file('plan.json', JSON.stringify(request))]);
    expect([r.code, r.err]).toEqual([0, '']);
    // From −12 °C by 2.5 °C an hour: −7 °C after two hours.
    expect(JSON.parse(r.out)).toMatchObject({ earliestStart: '2026-01-11T08:00:00Z', goStraightTo: 'cruise' });
    const bad = await jb(['plan', file('bad.json', JSON.stringify({ ...request, state: { fuelPct: 'full' } }))]);
    expect([bad.code, bad.err]).toEqual([2, expect.stringMatching(/bad\.json: state\.fuelPct: /)]);
    expect((await jb(['plan', join(dir, 'nowhere.json')])).code).toBe(2);
  });
});
