import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { findPoints } from '../src/capture/index.ts';
import { airflowOver } from '../src/expected/index.ts';
import { judgeDownstream, judgeNarrow, judgeWide, meantSensors, switching } from '../src/oxygen/index.ts';
import { doubtfulChannels } from '../src/recordingFiles/index.ts';
import {
  type Channel,
  COLUMN_MAX_SAMPLES,
  ColumnError,
  decodeColumn,
  encodeColumn,
  pyramid,
  reduce,
  type Series,
} from '../src/series/index.ts';
import { totalsOver, trimMap } from '../src/trims/index.ts';
import { wordsOf } from '../src/units/index.ts';

const channel = (id: string, unit: string, hz: number, seconds: number, of: (t: number) => number): Channel => {
  const time = Float64Array.from({ length: Math.round(hz * seconds) }, (_, i) => Math.round((i / hz) * 1e6) / 1e6);
  return { id, unit, time, value: time.map(of) };
};

describe('a channel as bytes', () => {
  const times = fc.array(fc.integer({ min: 0, max: 5_000_000 }), { maxLength: 60 }).map((steps) => {
    let at = 0;
    return Float64Array.from(steps, (s) => {
      at += s;
      return at / 1e6;
    });
  });

  test('numbers come back bit for bit, times to the microsecond', () => {
    fc.assert(
      fc.property(times, fc.double({ noNaN: true, noDefaultInfinity: true }), fc.integer(), (time, big, seed) => {
        const value = time.map((_, i) => (i % 3 === 0 ? big : ((seed + i) % 7) * 0.78125 - 3));
        const back = decodeColumn(encodeColumn({ time, value }));
        expect(Array.from(back.time)).toEqual(Array.from(time));
        expect(Array.from(back.value as Float64Array)).toEqual(Array.from(value));
      }),
    );
  });

  test('few distinct values make a dictionary, many go plain: both come back', () => {
    const time = Float64Array.from({ length: 4000 }, (_, i) => i / 10);
    for (const value of [time.map((t) => Math.round(3 * Math.sin(t)) * 0.78125), time.map((t) => Math.sin(t))]) {
      const bytes = encodeColumn({ time, value });
      expect(Array.from(decodeColumn(bytes).value as Float64Array)).toEqual(Array.from(value));
    }
    const small = encodeColumn({ time, value: time.map((t) => Math.round(t) % 5) });
    expect(small.length).toBeLessThan(3 * 4000);
  });

  test('the example of docs/formats/column.md', () => {
    const doc = readFileSync(join(__dirname, '../../../docs/formats/column.md'), 'utf8');
    const line = /^4A 42 43 31 .*$/m.exec(doc)![0];
    const bytes = [...encodeColumn({ time: Float64Array.of(0, 0.1, 0.2), value: Float64Array.of(700, 701, 700) })];
    const float = (v: number) => [...new Uint8Array(new Float64Array([v]).buffer)];
    const told = line.split(/\[|\]/).flatMap((part) => {
      const number = /^([\d.]+) float64$/.exec(part);
      return number
        ? float(Number(number[1]))
        : part
            .split(/\s+/)
            .filter(Boolean)
            .map((h) => Number.parseInt(h, 16));
    });
    expect(bytes).toEqual(told);
  });

  test('words come back', () => {
    const c = { time: Float64Array.of(0, 1, 2.5), value: ['closed loop', 'open loop: λ', 'closed loop'] };
    expect(decodeColumn(encodeColumn(c))).toEqual(c);
  });

  test('falling times, infinite values and too many samples are refused', () => {
    expect(() => encodeColumn({ time: Float64Array.of(1, 0), value: Float64Array.of(1, 2) })).toThrow(/goes back/);
    expect(() => encodeColumn({ time: Float64Array.of(0), value: Float64Array.of(Number.NaN) })).toThrow(/value 0/);
    const n = COLUMN_MAX_SAMPLES + 1;
    expect(() => encodeColumn({ time: new Float64Array(n), value: new Float64Array(n) })).toThrow(/at most/);
  });

  test('broken bytes say at which byte, and never hang or crash', () => {
    const good = encodeColumn({ time: Float64Array.of(0, 1, 2), value: Float64Array.of(1, 2, 1) });
    expect(() => decodeColumn(good.subarray(0, good.length - 1))).toThrow(ColumnError);
    expect(() => decodeColumn(Uint8Array.of(1, 2, 3))).toThrow(/byte 0/);
    expect(() => decodeColumn(Uint8Array.of(...good, 0))).toThrow(/too many/);
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 80 }), fc.integer({ min: 0, max: 79 }), fc.integer(), (tail, at, byte) => {
        const bytes = Uint8Array.of(...good, ...tail);
        bytes[at % bytes.length] = byte & 255;
        try {
          decodeColumn(bytes);
        } catch (e) {
          expect(e).toBeInstanceOf(ColumnError);
        }
      }),
      { numRuns: 2000 },
    );
  });
});

describe('the min/max pyramid', () => {
  test('every peak of the column is in every level and in what is drawn', () => {
    const time = Float64Array.from({ length: 72_000 }, (_, i) => i / 10);
    const value = time.map((t) => Math.sin(t / 50));
    value[51_234] = 9;
    value[7] = -8;
    const levels = pyramid(time, value);
    expect(levels.length).toBeGreaterThan(1);
    for (const l of levels) expect([Math.max(...l.max), Math.min(...l.min)]).toEqual([9, -8]);
    const drawn = reduce({ time, value, levels }, 0, 7200, 200);
    expect([Math.max(...drawn.max), Math.min(...drawn.min)]).toEqual([9, -8]);
    expect(drawn.time.length).toBeLessThanOrEqual(200);
    // A narrow view comes from the samples themselves.
    expect(reduce({ time, value, levels }, 5120, 5130, 200)).toEqual(
      reduce({ time, value, levels: [] }, 5120, 5130, 200),
    );
  });

  test('a short column has none', () => {
    expect(pyramid(Float64Array.of(0, 1), Float64Array.of(0, 1))).toEqual([]);
  });
});

/** A square-ish narrow-band signal: `period` s, rising and falling in `edgeMs` between 0.1 and 0.8 V. */
function sensor(hz: number, seconds: number, period: number, edgeMs: number) {
  return channel('o2s11', 'V', hz, seconds, (t) => {
    const phase = t % period;
    const edge = edgeMs / 1000;
    const up = Math.min(1, phase / edge);
    const down = Math.min(1, Math.max(0, (phase - period / 2) / edge));
    return 0.1 + 0.7 * (up - down);
  });
}

describe('oxygen sensors', () => {
  test.each([
    // SAE J2012: six codes a sensor from P0130 on, bank 2 from P0150 on.
    ['P0129', null],
    ['P0130', [1, 1]],
    ['P0135', [1, 1]],
    ['P0136', [1, 2]],
    ['P0141', [1, 2]],
    ['P0142', null],
    ['P0149', null],
    ['P0150', [2, 1]],
    ['P0155', [2, 1]],
    ['P0156', [2, 2]],
    ['P0161', [2, 2]],
    ['P0162', null],
    ['P1131', null],
    ['U0131', null],
  ] as const)('%s means the sensor %j', (code, sensor) => {
    expect(meantSensors([code])).toEqual(sensor ? [{ bank: sensor[0], sensor: sensor[1] }] : []);
    expect(meantSensors([code, code])).toHaveLength(sensor ? 1 : 0);
  });
  test('crossings in ten seconds and transition times of a known signal', () => {
    // Two crossings a period of 1 s: 20 in 10 s. 0.3 to 0.6 V is 3/7 of the edge: 60 ms of 140.
    const c = sensor(100, 20, 1, 140);
    const s = switching(c.time, c.value)!;
    expect(s.crossingsPer10s).toBeCloseTo(20, 0);
    expect(s.leanToRichMs!).toBeGreaterThan(57);
    expect(s.leanToRichMs!).toBeLessThan(63);
    expect(s.richToLeanMs!).toBeGreaterThan(57);
    expect(s.richToLeanMs!).toBeLessThan(63);
    expect([s.minV, s.maxV].map((v) => v.toFixed(1))).toEqual(['0.1', '0.8']);
    expect(judgeNarrow(s).verdict).toBe('switching');
  });

  test('what may have happened in a gap is not counted, nor is its time: two halves read as the whole', () => {
    const wave = (t: number) => 0.45 + 0.4 * Math.tanh(20 * Math.sin(2 * Math.PI * 0.8 * t + 0.3));
    const whole = Float64Array.from({ length: 1200 }, (_, i) => i / 30);
    // The same forty seconds with ten minutes of nothing in the middle.
    const halves = whole.map((t) => (t < 20 ? t : t + 600));
    const volts = whole.map(wave);
    const [one, two] = [switching(whole, volts)!, switching(halves, volts)!];
    expect(two.seconds).toBeCloseTo(one.seconds, 0);
    expect(two.sampleHz).toBeCloseTo(30, 1);
    expect(Math.abs(two.crossingsPer10s - one.crossingsPer10s)).toBeLessThan(0.5);
    expect(one.crossingsPer10s).toBeCloseTo(16, 0);
    expect(two.leanToRichMs).toBeCloseTo(one.leanToRichMs!, 0);
    const down = whole.map((t) => 0.68 + 0.02 * Math.sin(t));
    const ratio = (time: Float64Array) => judgeDownstream({ time, volts }, { time, volts: down }).activityRatio;
    expect(ratio(halves)).toBeCloseTo(ratio(whole)!, 3);
    // Six seconds of signal about a long silence are not ten.
    const short = Float64Array.from({ length: 60 }, (_, i) => (i < 30 ? i / 10 : i / 10 + 60));
    expect(
      judgeWide(
        short,
        short.map(() => 1),
      )!.verdict,
    ).toBe('undecided');
    expect(judgeNarrow(switching(short, short.map(wave))!).verdict).toBe('undecided');
  });
  test('slow edges are slow only where the rate allows saying so', () => {
    const fast = sensor(100, 20, 2, 500);
    expect(judgeNarrow(switching(fast.time, fast.value)!).verdict).toBe('slow');
    const coarse = sensor(8, 20, 2, 500);
    const s = switching(coarse.time, coarse.value)!;
    expect(s.leanToRichMs).toBeNull();
    expect(judgeNarrow(s)).toMatchObject({ verdict: 'switching', why: expect.stringMatching(/undecided at 8/) });
  });

  test('one that stays at an end asks for a forced step; too slow a poll decides nothing', () => {
    const flat = channel('o2s11', 'V', 20, 12, () => 0.08);
    expect(judgeNarrow(switching(flat.time, flat.value)!)).toMatchObject({ verdict: 'stays-lean' });
    const rich = channel('o2s11', 'V', 20, 12, () => 0.88);
    expect(judgeNarrow(switching(rich.time, rich.value)!)).toMatchObject({ verdict: 'stays-rich' });
    const rare = channel('o2s11', 'V', 1, 12, (t) => (t < 6 ? 0.2 : 0.8));
    expect(judgeNarrow(switching(rare.time, rare.value)!).verdict).toBe('undecided');
    const few = channel('o2s11', 'V', 10, 20, (t) => (t < 10 ? 0.2 : 0.8));
    expect(judgeNarrow(switching(few.time, few.value)!).verdict).toBe('few');
    expect(switching([0, 1], [0.1, 0.2])).toBeNull();
  });

  test('noise at the switch point is no crossing', () => {
    const c = channel('o2s11', 'V', 50, 10, (t) => 0.45 + 0.03 * Math.sin(40 * t));
    expect(switching(c.time, c.value)!.crossingsPer10s).toBe(0);
  });

  test('wide-band is judged as wide-band', () => {
    const at = (of: (t: number) => number) => {
      const c = channel('lambda11', 'λ', 10, 12, of);
      return judgeWide(c.time, c.value)!.verdict;
    };
    expect(at((t) => 1 + 0.005 * Math.sin(t))).toBe('at-target');
    expect(at(() => 1.06)).toBe('off-target');
    expect(at((t) => 1 + 0.1 * Math.sin(3 * t))).toBe('restless');
    const short = channel('lambda11', 'λ', 10, 3, () => 1);
    expect(judgeWide(short.time, short.value)!.verdict).toBe('undecided');
  });

  test('downstream activity: steady, following, and what is not decided', () => {
    const up = sensor(20, 20, 1, 140);
    const upstream = { time: up.time, volts: up.value };
    const steady = channel('o2s12', 'V', 10, 20, (t) => 0.65 + 0.01 * Math.sin(t));
    expect(judgeDownstream(upstream, { time: steady.time, volts: steady.value }).verdict).toBe('steady');
    expect(judgeDownstream(upstream, { time: up.time, volts: up.value })).toMatchObject({
      verdict: 'follows',
      activityRatio: 1,
    });
    const half = up.value.map((v) => 0.45 + (v - 0.45) * 0.45);
    expect(judgeDownstream(upstream, { time: up.time, volts: half }).verdict).toBe('undecided');
    expect(judgeDownstream(null, { time: up.time, volts: up.value }).why).toMatch(/forced step/);
    expect(
      judgeDownstream({ time: up.time, volts: up.value.map(() => 0.1) }, { time: up.time, volts: up.value }).verdict,
    ).toBe('undecided');
  });
});

/** A warm engine: a minute of idle, a ramp, half a minute of hold at 2,600, engine off at the end. */
function drive(with_: { ect?: boolean; loop?: boolean } = {}): Series {
  const rpm = (t: number) => (t < 60 ? 720 : t < 65 ? 720 + (t - 60) * 376 : t < 95 ? 2600 : t < 100 ? 900 : 0);
  const wobble = (t: number) => Math.sin(7 * t) * 0.005;
  const series: Series = {
    startedAt: null,
    marks: [],
    channels: [
      channel('rpm', 'rpm', 5, 110, rpm),
      channel('maf', 'g/s', 5, 110, (t) => (rpm(t) / 240) * (1 + wobble(t))),
      channel('map', 'kPa', 5, 110, (t) => (rpm(t) === 0 ? 99 : 32)),
      channel('stft1', '%', 5, 110, (t) => (rpm(t) > 2000 ? 1 : 4) + wobble(t)),
      channel('ltft1', '%', 1, 110, () => 8),
      channel('load', '%', 2, 110, (t) => (rpm(t) > 2000 ? 24 : 17)),
    ],
    texts: [{ id: 'fuelSys1', time: Float64Array.of(0), value: ['closed loop'] }],
  };
  if (with_.ect !== false) series.channels.push(channel('ect', '°C', 0.2, 110, () => 91));
  if (with_.loop === false) delete series.texts;
  return series;
}
const ENGINE = { banks: 1, metered: true, fuel: 'petrol', turbo: false, baroKPa: 99 } as const;

describe('operating points found in a recording', () => {
  test('idle and the hold, with their own figures; key on engine off at the end', () => {
    const found = findPoints(drive(), ENGINE);
    expect(found.map((f) => f.at)).toEqual(['koeo', 'idle', 'hold-2500']);
    const [, idle, hold] = found;
    expect(idle!.reading).toMatchObject({ rpm: 720, loop: 'closed', ectC: 91 });
    expect(idle!.reading.trims!.bank1!.stft!).toBeCloseTo(4, 1);
    expect(idle!.reading.trims!.bank1!.ltft).toBe(8);
    expect(hold!.reading.rpm).toBe(2600);
    expect(hold!.fromS).toBeGreaterThan(64);
    expect(hold!.toS).toBeLessThan(95.5);
    expect(found.flatMap((f) => f.flags)).toEqual([]);
    expect(idle!.windows).toBeGreaterThan(2);
  });

  test('what the log does not hold is assumed, and said', () => {
    const found = findPoints(drive({ ect: false, loop: false }), ENGINE);
    expect(found.find((f) => f.at === 'idle')!.flags).toEqual([
      'coolant is not in the recording: warm is assumed',
      'loop state is not in the recording: closed is assumed',
    ]);
    expect(found.some((f) => f.at === 'cold-idle')).toBe(false);
  });

  test('one half of the trims alone gives no total, and that is said', () => {
    const s = drive();
    s.channels = s.channels.filter((c) => c.id !== 'ltft1');
    const idle = findPoints(s, ENGINE).find((f) => f.at === 'idle')!;
    expect(idle.reading.trims).toBeUndefined();
    expect(idle.flags).toEqual([
      'long-term trim of bank 1 is not in the recording: without it there is no total, and none is taken',
    ]);
  });

  test('open loop all the way: no closed-loop point is found', () => {
    const s = drive();
    s.texts![0]!.value = ['open loop'];
    expect(findPoints(s, ENGINE).map((f) => f.at)).toEqual(['koeo']);
  });

  test('progress rises to one, and a throw out of it cancels', () => {
    const seen: number[] = [];
    findPoints(drive(), ENGINE, (share) => seen.push(share));
    expect(seen.at(-1)).toBe(1);
    expect(seen).toEqual([...seen].sort((a, b) => a - b));
    expect(() =>
      findPoints(drive(), ENGINE, () => {
        throw new Error('cancelled');
      }),
    ).toThrow('cancelled');
  });

  test('a pull and a coast-down of a drive are found where they are', () => {
    const s = drive();
    const find = (id: string) => s.channels.find((c) => c.id === id)!;
    // A pull from 70 to 76 s in the hold, a coast-down from 80 to 86 s, at road speed all the while.
    s.channels.push(channel('vss', 'km/h', 5, 110, (t) => (t > 62 && t < 95 ? 60 : 0)));
    const map = find('map');
    map.value = map.time.map((t, i) => (t >= 70 && t < 76 ? 96 : t >= 80 && t < 86 ? 22 : map.value[i]!));
    const found = findPoints(s, ENGINE);
    expect(found.map((f) => f.at)).toEqual(expect.arrayContaining(['idle', 'full-load', 'decel']));
    const at = (id: string) => found.find((f) => f.at === id)!;
    expect([at('full-load').fromS >= 69.8, at('full-load').toS <= 76.5]).toEqual([true, true]);
    // Windows follow each other: this one reaches into the coast-down.
    expect([at('decel').fromS < 86, at('decel').toS > 80]).toEqual([true, true]);
    expect(at('decel').reading.mapKPa!).toBeLessThan(30);
    // At full load trims are no evidence.
    expect(at('full-load').reading.trims).toBeUndefined();
    expect(found.some((f) => f.at === 'snap' && f.fromS < 60)).toBe(false);
  });

  test('nothing without engine speed', () => {
    const s = drive();
    s.channels = s.channels.filter((c) => c.id !== 'rpm');
    expect(findPoints(s, ENGINE)).toEqual([]);
  });
});

describe('what is drawn over a recording', () => {
  test('trim map: cells of engine speed and load with mean totals; open loop left out', () => {
    const m = trimMap(drive(), 1)!;
    expect(m.loadChannel).toBe('load');
    const idle = m.cells.find((c) => c.rpmFrom === 500 && c.loadFrom === 10)!;
    expect(idle.totalPct).toBeCloseTo(12, 0);
    expect(m.cells.find((c) => c.rpmFrom === 2500 && c.loadFrom === 20)!.totalPct).toBeCloseTo(9, 0);
    const open = drive();
    open.texts![0]!.value = ['open loop'];
    expect(trimMap(open, 1)).toBeNull();
    expect(trimMap(drive(), 2)).toBeNull();
  });

  test('totals beside airflow', () => {
    const m = totalsOver(drive(), 1, ['maf']);
    expect(m.length).toBeGreaterThan(400);
    expect(m[0]!.beside[0]!).toBeCloseTo(3, 1);
  });

  test('airflow beside speed-density: at 100 % of station pressure the textbook flow', () => {
    // Heywood, Internal Combustion Engine Fundamentals, ch. 2 (from memory): 2.0 L, 6,000 rpm, 1.184 kg/m³: 118.4 g/s at VE 1.
    const s: Series = {
      startedAt: null,
      marks: [],
      channels: [
        channel('rpm', 'rpm', 5, 4, () => 6000),
        channel('map', 'kPa', 5, 4, () => 101.325),
        channel('iat', '°C', 1, 4, () => 25),
        channel('maf', 'g/s', 5, 4, () => 100.6),
      ],
    };
    const [m] = airflowOver(s, { displacementL: 2, baroKPa: 101.325, airC: 25 });
    expect(m!.expectedGps / 118.4).toBeGreaterThan(0.75);
    expect(m!.expectedGps / 118.4).toBeLessThan(1.05);
    expect(
      airflowOver({ ...s, channels: s.channels.slice(0, 1) }, { displacementL: 2, baroKPa: 101, airC: 25 }),
    ).toEqual([]);
  });
});

describe('figures that no engine has are asked about before anything is taken from them', () => {
  const engine = { turbo: false, baroKPa: 98 };
  const doubts = (of: Channel[], more: Partial<typeof engine> = {}) =>
    doubtfulChannels({ startedAt: null, channels: of, marks: [] }, { ...engine, ...more }).map((d) => [
      d.channel,
      wordsOf(d.text, 'metric'),
    ]);
  test('the most telling of the odd figures is said, to a tenth, in its unit', () => {
    // Kelvin taken for °C: every one is odd, the last is the farthest.
    const kelvin = channel('ect', '°C', 2, 20, (t) => 350.04 + t / 9);
    expect(doubts([kelvin])).toEqual([['ect', '352.2 °C cannot be: another unit, or another channel?']]);
    const low = channel('baro', 'kPa', 2, 20, (t) => (t < 10 ? 52 : 14.7));
    expect(doubts([low])[0]![1]).toMatch(/^14\.7 kPa/);
  });
  test('one in twenty outside is a spike, more is another unit', () => {
    const odd = (share: number) => channel('vbat', 'V', 10, 10, (t) => (t < 10 * share ? 33 : 14));
    expect(doubts([odd(0.05)])).toEqual([]);
    expect(doubts([odd(0.06)])).toHaveLength(1);
  });
  test('a manifold above the air outside is odd only where nothing charges it', () => {
    const at = (kPa: number) => [channel('map', 'kPa', 4, 10, () => kPa)];
    expect(doubts(at(112))).toEqual([]);
    expect(doubts(at(120))).toEqual([
      ['map', '120 kPa on an engine without a charger: another unit, or another channel?'],
    ]);
    expect(doubts(at(120), { turbo: true })).toEqual([]);
    expect(doubts(at(455))[0]![1]).toMatch(/cannot be/);
    expect(doubts([channel('mine', 'V', 4, 10, () => 1e6)])).toEqual([]);
  });
});
