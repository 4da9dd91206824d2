import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { fromHex, IsoTpReceiver, parseCandumpLine } from '../src/can/index.ts';
import {
  codeText,
  decodeMonitors,
  decodeResponse,
  decodeTestResults,
  dtcBytes,
  dtcText,
  encodeMonitors,
  encodePid,
  isVin,
  logBytes,
  logDecoder,
  logLine,
  MONITORS,
  modelYear,
  monitorLabel,
  oxygenSensors,
  PIDS,
  pidRow,
  QUANTUM,
  supportBitmap,
  supportedPids,
  vinCheckDigit,
} from '../src/obd/index.ts';

const bytes = (hex: string) => fromHex(hex.replaceAll(' ', ''))!;
const values = (hex: string) => decodeResponse(bytes(hex)).map((d): [string, string | number] => [d.name, d.value]);

/** Parameters the dissector reads another way, with what it rests on; each is checked by hand below. */
const READ_OTHERWISE: Record<string, string> = {
  '03': 'it prints the raw status bits, we print their text',
  '13': 'bit map',
  '1C': 'it prints the number, we print the text',
  '1D': 'bit map',
  '51': 'it prints the number, we print the text',
};

describe("decoding against a network analyser's OBD dissector (its table: a public encyclopedia page)", () => {
  const rows = readFileSync(join(__dirname, 'golden/obd-dissector.tsv'), 'utf8')
    .split('\n')
    .filter((l) => l && !l.startsWith('#'))
    .map((l) => l.split('\t') as [string, string, string]);
  test('it covers the parameters we poll', () => {
    expect(new Set(rows.map((r) => r[1])).size).toBeGreaterThan(45);
  });
  let compared = 0;
  test.each(rows.filter((r) => !(r[1] in READ_OTHERWISE)))('%s (%s)', (frames, _pid, theirs) => {
    const receiver = new IsoTpReceiver();
    const decoded = frames
      .split(' ')
      .flatMap((f) => receiver.feed(bytes(f.split('#')[1]!), 0))
      .flatMap((r) => (r.kind === 'message' ? decodeResponse(r.payload) : []));
    const ours = decoded.map((d) => d.value);
    const want = theirs.split('|');
    // For the narrow-band sensors the dissector gives the voltage only.
    want.forEach((w, i) => {
      const mine = ours[i];
      if (typeof mine === 'string') expect(mine).toBe(w);
      // It prints some values rounded: half a unit of its last digit.
      else expect(Math.abs(mine! - Number(w))).toBeLessThanOrEqual(0.006 + 1e-4 * Math.abs(mine!));
      compared++;
    });
  });
  test('the comparison really ran', () => expect(compared).toBeGreaterThan(230));
});

describe('what the standard fixes (SAE J1979, from memory)', () => {
  test.each([
    ['41 0C 0B B8', 'rpm', 750],
    ['41 05 7B', 'ect', 83],
    ['41 06 80', 'stft1', 0],
    ['41 07 90', 'ltft1', 12.5],
    ['41 10 01 3A', 'maf', 3.14],
    ['41 0B 21', 'map', 33],
    ['41 24 80 00 80 00', 'lambda11', 1],
    ['41 34 80 00 80 00', 'pumpCurrent11', 0],
    ['41 44 80 00', 'lambdaCmd', 1],
    ['41 0E 80', 'sparkAdv', 0],
    ['41 45 FF', 'tpRel', 100],
    ['41 32 FF FF', 'evapPressure', -0.25],
    // Sensor 1 alone: 4,000 steps of a tenth from −40 °C.
    ['41 78 01 0F A0 00 00 00 00 00 00', 'egt11', 360],
    ['41 61 AF', 'torqueDemanded', 50],
    ['41 5D 69 00', 'injectionTiming', 0],
  ])('%s: %s %d', (hex, name, value) => expect(new Map(values(hex)).get(name)).toBe(value));
  test('λ below 1 is rich: not inverted', () =>
    expect(new Map(values('41 24 73 33 00 00')).get('lambda11')).toBeCloseTo(0.9, 4));
  test('quanta: trims 0.781 %, throttle 0.392 %, MAP 1 kPa, O₂ 0.005 V, MAF 0.01 g/s', () => {
    expect(QUANTUM.get('stft1')).toBeCloseTo(0.781, 3);
    expect(QUANTUM.get('tpRel')).toBeCloseTo(0.392, 3);
    expect(QUANTUM.get('map')).toBe(1);
    expect(QUANTUM.get('o2s11')).toBe(0.005);
    expect(QUANTUM.get('maf')).toBe(0.01);
  });
  test('PID 14 gives voltage and trim; FF means no trim', () => {
    expect(values('41 14 5A 8C')).toEqual([
      ['o2s11', 0.45],
      ['stft1', 9.375],
    ]);
    expect(values('41 14 5A FF')).toEqual([['o2s11', 0.45]]);
  });
  test('several parameters in one response', () => {
    expect(values('41 0C 0B B8 0B 21 06 85')).toEqual([
      ['rpm', 750],
      ['map', 33],
      ['stft1', 3.90625],
    ]);
  });
  test('freeze frame carries a frame number', () => {
    expect(values('42 02 00 01 71')).toEqual([['freezeDtc', 'P0171']]);
    expect(values('42 0C 00 0B B8')).toEqual([['rpm', 750]]);
  });
  test('fuel system, fuel type', () => {
    expect(values('41 03 02 00')).toEqual([
      ['fuelSys1', 'closed loop'],
      ['fuelSys2', 'not reported'],
    ]);
    expect(values('41 51 04')).toEqual([['fuelType', 'diesel']]);
  });
  test('codes, none, cut short', () => {
    expect(values('43 02 01 71 C1 00')).toEqual([
      ['dtc', 'P0171'],
      ['dtc', 'U0100'],
    ]);
    expect(values('47 00')).toEqual([['dtcCount', 0]]);
    expect(values('43 02 01 71')).toEqual([
      ['dtc', 'P0171'],
      ['raw', ''],
    ]);
  });
  test('negative, unknown and cut-off answers stay visible', () => {
    expect(values('7F 01 12')).toEqual([['negativeResponse', '12']]);
    expect(values('41 F0 12 34')).toEqual([['raw', '1234']]);
    expect(values('41 0C 0B')).toEqual([['raw', '0B']]);
    expect(values('')).toEqual([]);
    expect(values('01 0C')).toEqual([]);
  });
  test('identity', () => {
    const vin = 'ZZZK18AB9E0004217';
    const hex = [...vin].map((c) => c.charCodeAt(0).toString(16)).join('');
    expect(values(`49 02 01 ${hex}`)).toEqual([['vin', vin]]);
    expect(values('49 06 01 12 34 AB CD')).toEqual([['cvn', '1234ABCD']]);
    expect(values('49 00 14 00 00 00')).toEqual([['supported00', '14000000']]);
  });
});

describe('service 06 (SAE J1979, from memory)', () => {
  test('a catalyst and an oxygen sensor with limits; several tests in one answer; signed values', () => {
    // Monitor 21, test 80, unit 1E (ratio); monitor 01, test 05, unit 10 (ms); unit 96: signed 0.1 °C.
    const rows = decodeTestResults(
      bytes('21 80 1E 20 00 00 00 40 00 01 05 10 00 50 00 00 00 64 41 81 96 FF F6 FF 00 00 64'),
    )!;
    expect(rows.map((r) => [r.label, r.value, r.unit, r.passed])).toEqual([
      ['Catalyst, bank 1: test 80', expect.closeTo(0.2499, 3), 'λ', true],
      ['Oxygen sensor, bank 1 sensor 1: rich to lean switch time', 80, 'ms', true],
      ['Oxygen sensor heater, bank 1 sensor 1: test 81', -1, '°C', true],
    ]);
    expect(values('46 01 05 10 00 96 00 00 00 64')).toEqual([
      ['test05', 150],
      ['test05Min', 0],
      ['test05Max', 100],
    ]);
  });
  test('what does not fit stays raw; the bitmap of monitors is kept; names of monitors', () => {
    expect(values('46 21 80 1E 20')).toEqual([['raw', '801E20']]);
    expect(values('46 00 C0 00 00 01')).toEqual([['supported00', 'C0000001']]);
    expect([0x05, 0x22, 0x3c, 0x42, 0xa3, 0xee].map(monitorLabel)).toEqual([
      'Oxygen sensor, bank 2 sensor 1',
      'Catalyst, bank 2',
      'EVAP, 0.5 mm',
      'Oxygen sensor heater, bank 1 sensor 2',
      'Misfire, cylinder 2',
      'Monitor EE',
    ]);
  });
});

describe('properties', () => {
  test('encode and decode are inverse on every numeric element', () => {
    for (const row of PIDS) {
      const numeric = row.elements.filter((e) => !e.kind);
      if (numeric.length === 0) continue;
      fc.assert(
        fc.property(fc.uint8Array({ minLength: row.length, maxLength: row.length }), (data) => {
          const decoded = decodeResponse(Uint8Array.of(0x41, row.pid, ...data));
          if (numeric.some((e) => e.absent !== undefined && data[e.at] === e.absent)) return;
          const back = encodePid(row, Object.fromEntries(decoded.map((d) => [d.name, Number(d.value)])));
          const there = new Set(decoded.map((d) => d.name));
          for (const e of numeric.filter((x) => there.has(x.id)))
            for (let k = 0; k < e.bytes; k++) expect(back[e.at + k]).toBe(data[e.at + k]);
        }),
        { numRuns: 30 },
      );
    }
  });
  test('no bytes crash it and nothing is dropped without a trace', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 60 }), (b) => {
        for (const d of decodeResponse(b)) expect(typeof d.name).toBe('string');
      }),
      { numRuns: 3000 },
    );
  });
  test('ids are unique and the table is in order', () => {
    const numbers = PIDS.map((p) => p.pid);
    expect(new Set(numbers).size).toBe(numbers.length);
    for (const p of PIDS) for (const e of p.elements) expect(e.at + e.bytes).toBeLessThanOrEqual(p.length);
    expect(pidRow(0xff)).toBeUndefined();
  });

  /**
   * How many bytes each parameter has: the tables of SAE J1979-DA, typed a second time, from memory. Only 53 and later
   * have lengths that no common tool shows; the others are in every printed list of them.
   */
  const LENGTHS: Record<number, string> = {
    1: '04 05 06 07 08 09 0A 0B 0D 0E 0F 11 12 13 1C 1D 1E 2C 2D 2E 2F 30 33 45 46 47 48 49 4A 4B 4C 51 52 5A 5B 5C 5F 61 62 7D 7E 84 8D 8E',
    2: '02 03 0C 10 14 15 16 17 18 19 1A 1B 1F 21 22 23 31 32 3C 3D 3E 3F 42 43 44 4D 4E 53 54 55 56 57 58 59 5D 5E 63 65 92 9E A2',
    3: '67 6F 90 93',
    4: '00 01 20 24 25 26 27 28 29 2A 2B 34 35 36 37 38 39 3A 3B 40 41 4F 50 60 80 9B 9D A0 A4 A5 A6 A7 A8 A9',
    5: '64 66 6A 6B 6C 72 73 74 77 86 87 91',
    6: '71 9A',
    7: '68 69 75 76 7A 7B 8B 8F',
    9: '6E 78 79 7C 83 98 99 9F A1 A3',
    10: '70 85',
    11: '6D',
    12: '94',
    13: '7F 88',
    17: '8C 9C',
    41: '81 82 89 8A',
  };

  test('every parameter has the bytes its standard gives it', () => {
    const typed = Object.entries(LENGTHS).flatMap(([n, pids]) => pids.split(' ').map((p) => `${p} ${n}`));
    const have = PIDS.map((p) => `${p.pid.toString(16).toUpperCase().padStart(2, '0')} ${p.length}`);
    expect([...have].sort()).toEqual([...typed].sort());
  });

  test('a long record reads every byte it has, but for those that are kept whole', () => {
    for (const p of PIDS) {
      const read = Math.max(0, ...p.elements.map((e) => e.at + e.bytes));
      // 50 keeps three bytes for later use; the secondary trims give two banks in one answer.
      if (read > 0 && ![0x50, 0x55, 0x56, 0x57, 0x58].includes(p.pid)) expect([p.pid, read]).toEqual([p.pid, p.length]);
    }
  });
});

describe('codes (SAE J2012 / ISO 15031-6)', () => {
  test.each([
    ['P0171', 0x01, 0x71],
    ['P0300', 0x03, 0x00],
    ['C1234', 0x52, 0x34],
    ['B2ABC', 0xaa, 0xbc],
    ['U0100', 0xc1, 0x00],
    ['U3FFF', 0xff, 0xff],
  ])('%s', (text, a, b) => {
    expect(dtcText(a, b)).toBe(text);
    expect(dtcBytes(text)).toEqual([a, b]);
  });
  test('every pair of bytes survives', () => {
    fc.assert(fc.property(fc.nat(255), fc.nat(255), (a, b) => expect(dtcBytes(dtcText(a, b))).toEqual([a, b])));
  });
  test('what is not a code', () => {
    for (const t of ['P4000', 'X0100', 'P017', 'p0171', '']) expect(dtcBytes(t)).toBeNull();
  });
  test('texts of our own; maker codes have none', () => {
    expect(codeText('P0171')).toMatch(/bank 1 lean/);
    expect(codeText('P0304')).toMatch(/misfire/);
    expect(codeText('P0105')).toMatch(/pressure/);
    expect(codeText('P1234')).toBeNull();
  });
});

describe('monitors (SAE J1979 PID 01, from memory)', () => {
  test('lamp, count, a spark engine with EVAP open', () => {
    const s = decodeMonitors(bytes('82 07 65 04'));
    expect(s).toMatchObject({ lampOn: true, codeCount: 2, ignition: 'spark' });
    const open = s.monitors.filter((m) => m.state === 'incomplete').map((m) => m.id);
    expect(open).toEqual(['evap']);
    const fitted = s.monitors.filter((m) => m.state !== 'unsupported').map((m) => m.id);
    expect(fitted).toEqual(['misfire', 'fuelSystem', 'comprehensive', 'catalyst', 'evap', 'o2Sensor', 'o2Heater']);
  });
  test('bit 3 of B is compression ignition', () => {
    const s = decodeMonitors(bytes('00 0F EB 02'));
    expect(s.ignition).toBe('compression');
    expect(s.monitors.map((m) => m.id)).toContain('dpf');
    expect(s.monitors.find((m) => m.id === 'noxScr')?.state).toBe('incomplete');
  });
  test('encode is the inverse', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 4, maxLength: 4 }), (raw) => {
        const s = decodeMonitors(raw);
        expect(decodeMonitors(encodeMonitors(s))).toEqual({
          ...s,
          // "incomplete" without "supported" means nothing and is not written.
          monitors: s.monitors,
        });
      }),
    );
  });
  test('too few bytes', () => expect(() => decodeMonitors(bytes('00 07'))).toThrow(/needs 4 bytes, got 2/));
  test('every monitor has a name', () => expect(Object.values(MONITORS).every((n) => n.length > 2)).toBe(true));
});

describe('supported bitmaps', () => {
  test('BE 1F A8 13 lists 01, 03–07, 0C–11, 13, 15, 1C, 1F, 20 (worked from the definition)', () => {
    expect(supportedPids(0, 0xbe1fa813)).toEqual([1, 3, 4, 5, 6, 7, 12, 13, 14, 15, 16, 17, 19, 21, 28, 31, 32]);
  });
  test('there and back, the last bit saying that more follows', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.integer({ min: 1, max: 0x5f }).filter((p) => p % 32 !== 0)), (pids) => {
        const got = [0, 0x20, 0x40].flatMap((base) =>
          supportedPids(base, supportBitmap(base, pids)).filter((p) => p % 32 !== 0),
        );
        expect(got).toEqual([...pids].sort((a, b) => a - b));
        expect((supportBitmap(0, pids) & 1) === 1).toBe(pids.some((p) => p > 0x20));
      }),
    );
  });
});

describe('VIN (ISO 3779, 49 CFR 565)', () => {
  test('the check digit: all ones give 1; one worked by hand from the table of 49 CFR 565.15', () => {
    expect(vinCheckDigit('11111111111111111')).toBe('1');
    // 9·21 + 2·5 + 4 + 24 + 2 + 20 + 45 + 20 + 8 + 3 + 14 = 339 = 30·11 + 9
    expect(vinCheckDigit('ZZZK18ABXE0004217')).toBe('9');
  });
  test('I, O and Q do not occur', () => {
    expect(isVin('ZZZQ18AB9E0004217')).toBe(false);
    expect(isVin('ZZZP24S4390007731')).toBe(true);
    expect(vinCheckDigit('SHORT')).toBeNull();
  });
});

describe('a whole log', () => {
  const decode = (lines: string[]) => {
    const d = logDecoder();
    return { rows: lines.flatMap((l) => d.line(l)), summary: d.summary() };
  };
  test('interleaved multi-frame answers of two ECUs are kept apart', () => {
    const { rows } = decode([
      '(1.000) can0 7E8#1014490201515157',
      '(1.001) can0 7E9#1014490201525257',
      '(1.002) can0 7E8#2131323334353637',
      '(1.003) can0 7E9#2141424344454647',
      '(1.004) can0 7E9#2248494A4B4C4D4E',
      '(1.005) can0 7E8#2238393031323334',
    ]);
    expect(rows.map((r) => [r.timeText, r.ecu, r.name, r.value])).toEqual([
      ['1.004', '7E9', 'vin', 'RRWABCDEFGHIJKLMN'],
      ['1.005', '7E8', 'vin', 'QQW12345678901234'],
    ]);
  });
  test('29-bit identifiers, other traffic, blank and bad lines', () => {
    const { rows, summary } = decode([
      '(1.0) can0 18DAF110#03410D32',
      '',
      '(1.1) can0 123#0011',
      'rubbish',
      '(1.2) can0 7E8#21AA',
    ]);
    expect(rows).toEqual([
      { timeText: '1.0', timeS: 1, ecu: '18DAF110', service: 1, pid: 0x0d, name: 'vss', value: 50, unit: 'km/h' },
    ]);
    expect(summary.frames).toBe(3);
    expect(summary.badLines).toEqual([{ line: 4, reason: expect.stringContaining('time') }]);
    expect(summary.transportErrors[0]).toMatch(/^line 5, 7E8: unexpected/);
  });
  test('a time with spaces or a long number stays as written', () => {
    const p = parseCandumpLine('(1700000000.000001) can0 7E8#0341050A');
    expect(p.ok && p.frame.timeText).toBe('1700000000.000001');
  });
});

describe('a whole log on bytes is the same as line by line', () => {
  const slow = (text: string) => {
    const d = logDecoder();
    const rows = text.split('\n').flatMap((l) => d.line(l));
    return {
      tsv: rows.map(logLine).join(''),
      frames: d.summary().frames,
      bad: d.summary().badLines,
    };
  };
  const fast = (text: string, cuts: number[]) => {
    const parts: string[] = [];
    const d = logBytes((b) => parts.push(new TextDecoder().decode(b)));
    const all = new TextEncoder().encode(text);
    let at = 0;
    for (const c of cuts) {
      d.chunk(all.subarray(at, at + c));
      at += c;
    }
    d.chunk(all.subarray(Math.min(at, all.length)));
    d.end();
    return { tsv: parts.join(''), frames: d.summary().frames, bad: d.summary().badLines };
  };
  const anyLine = fc.oneof(
    fc
      .tuple(
        fc.nat(99_999),
        fc.constantFrom('7E8', '7E9', '7EF', '7DF', '123', '18DAF110'),
        fc.uint8Array({ maxLength: 8 }),
      )
      .map(([t, id, d]) => `(${t}.5) can0 ${id}#${[...d].map((x) => x.toString(16).padStart(2, '0')).join('')}`),
    fc
      .tuple(fc.nat(99_999), fc.constantFrom(...PIDS.map((p) => p.pid)), fc.uint8Array({ minLength: 4, maxLength: 4 }))
      .map(([t, pid, d]) => {
        const n = pidRow(pid)!.length;
        const bytes = [2 + n, 0x41, pid, ...d.subarray(0, n)].slice(0, 8);
        return `(${t}.000001) can0 7E8#${bytes.map((x) => x.toString(16).toUpperCase().padStart(2, '0')).join('')}`;
      }),
    // An answer that says another length than it has, or none that a single frame can have.
    fc
      .tuple(fc.nat(99_999), fc.nat(16), fc.constantFrom(...PIDS.map((p) => p.pid)), fc.uint8Array({ maxLength: 5 }))
      .map(([t, length, pid, d]) => {
        const bytes = [length, 0x41, pid, ...d];
        return `(${t}.5) can0 7E8#${bytes.map((x) => x.toString(16).toUpperCase().padStart(2, '0')).join('')}`;
      }),
    fc.constantFrom(
      '',
      'rubbish',
      '(1.0) can0 7E8#1014490201515157',
      '(1.1) can0 7E8#2131323334353637',
      '(1.2) can0 7E8#2238393031323334',
      '(1) can0 7E8#03410D32',
      '(1.5)  can0  7E8#03410D32 ',
      '(.5) can0 7E8#03410D32',
      // Nine bytes are no frame, nor is half of one.
      '(1.6) can0 7E8#03410D320000000000',
      '(1.7) can0 7E8#03410D3',
    ),
  );
  test('rows, counts and complaints agree however the file is cut', () => {
    fc.assert(
      fc.property(
        fc.array(anyLine, { maxLength: 40 }),
        fc.array(fc.nat(200), { maxLength: 10 }),
        fc.constantFrom('\n', '\r\n'),
        (lines, cuts, eol) => {
          const text = lines.join(eol);
          expect(fast(text, cuts)).toEqual(slow(text.replaceAll('\r\n', '\n')));
        },
      ),
      { numRuns: 400 },
    );
  });
});

describe('oxygen sensors fitted', () => {
  // SAE J1979, from memory: PID 13 has four sensors a bank, 1D two.
  test.each([
    [0x33, 0x13, [], 'B1S1 B1S2 B2S1 B2S2'],
    [0x0f, 0x1d, [], 'B1S1 B1S2 B2S1 B2S2'],
    [0x03, 0x13, [], 'B1S1 B1S2'],
    [0x03, 0x13, [0x24], 'B1S1w B1S2'],
    [0x33, 0x13, [0x34, 0x38], 'B1S1w B1S2 B2S1w B2S2'],
    [0x81, 0x1d, [0x24], 'B1S1w B4S2'],
    [0, 0x13, [], ''],
  ] as const)('%p of PID %p', (bits, pid, wide, text) => {
    const fitted = oxygenSensors(bits, pid, new Set(wide));
    expect(fitted.map((s) => `B${s.bank}S${s.sensor}${s.wide ? 'w' : ''}`).join(' ')).toBe(text);
  });
});

test('model year from the tenth character, the round from the seventh (49 CFR 565, from memory)', () => {
  expect(modelYear('ZZZK18AB9E0004217', 2027)).toBe(2014);
  expect(modelYear('ZZZK181B9E0004217', 2027)).toBe(1984);
  expect(modelYear('ZZZP24S4390007731', 2027)).toBe(2009);
  expect(modelYear('ZZZP244439000773A', 2027)).toBe(2009);
  // U, Z and 0 are no years.
  expect(modelYear('ZZZK18AB9Z0004217', 2027)).toBeNull();
  expect(modelYear('ZZZK18AB900004217', 2027)).toBeNull();
  expect(modelYear('no VIN', 2027)).toBeNull();
});

test('a value is the decimal that its bytes stand for, without the last digits of a binary fraction', () => {
  // SAE J1979 (from memory): airflow is 0.01 g/s a bit, speed of the engine a quarter of a revolution.
  const value = (...bytes: number[]) => decodeResponse(Uint8Array.from([0x41, ...bytes]))[0]!.value;
  expect([value(0x10, 0x00, 0xbc), value(0x10, 0x01, 0x1b), value(0x0c, 0x0a, 0xf1)]).toEqual([1.88, 2.83, 700.25]);
});
