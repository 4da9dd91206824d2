import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  type BackStep,
  CandumpReader,
  COMMA,
  candumpLines,
  csvLines,
  numberOf,
  POINT,
  propose,
  readCapture,
  roleOf,
  secondsOf,
  separatorOf,
  TableReader,
  unitOfChannel,
  writeCapture,
} from '../src/recordingFiles/index.ts';
import {
  between,
  type Channel,
  ChannelBuilder,
  gapsOf,
  heldAt,
  heldIndex,
  holdOnto,
  indexAt,
  median,
  pyramid,
  reduce,
  type Series,
  statistics,
  thinned,
} from '../src/series/index.ts';
import { isoOf, unixOf } from '../src/time/index.ts';

const channel = (id: string, unit: string, pairs: [number, number][]) => {
  const b = new ChannelBuilder(id, unit);
  for (const [t, v] of pairs) b.push(t, v);
  return b.finish();
};

describe('columns', () => {
  test('grow, keep everything, sort what came out of order', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.integer({ min: 0, max: 9999 }), fc.integer()), { maxLength: 3000 }), (pairs) => {
        const c = channel('x', '', pairs);
        expect([...c.time]).toEqual(pairs.map((p) => p[0]).sort((a, b) => a - b));
        expect([...c.value].sort()).toEqual(pairs.map((p) => p[1]).sort());
      }),
      { numRuns: 60 },
    );
  });
  test('a time range is a view', () => {
    const c = channel('x', '', [
      [0, 1],
      [1, 2],
      [2, 3],
      [3, 4],
    ]);
    const w = between(c, 1, 3);
    // Both ends belong to it.
    expect([...w.value]).toEqual([2, 3, 4]);
    expect(w.value.buffer).toBe(c.value.buffer);
    expect([indexAt(c.time, -1), indexAt(c.time, 2), indexAt(c.time, 99)]).toEqual([0, 2, 4]);
  });
  test('statistics: mean, sample deviation (n − 1), no cancellation far from zero', () => {
    expect(statistics(Float64Array.of(2, 4, 4, 4, 5, 5, 7, 9))).toMatchObject({ mean: 5, n: 8, min: 2, max: 9 });
    // Textbook data: population deviation 2, so sample deviation √(32/7).
    expect(statistics(Float64Array.of(2, 4, 4, 4, 5, 5, 7, 9))!.sd).toBeCloseTo(Math.sqrt(32 / 7), 12);
    expect(statistics(Float64Array.of(1e9 + 1, 1e9 + 2, 1e9 + 3))!.sd).toBeCloseTo(1, 6);
    expect(statistics(new Float64Array(0))).toBeNull();
  });
});

describe('what a strip draws', () => {
  const drawn = (time: Float64Array, value: Float64Array, from: number, to: number, buckets: number) =>
    reduce({ time, value, levels: pyramid(time, value) }, from, to, buckets);

  test('no peak is lost, however few buckets', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -1e3, max: 1e3, noNaN: true }), { minLength: 1, maxLength: 500 }),
        fc.integer({ min: 1, max: 60 }),
        (v, buckets) => {
          const time = Float64Array.from(v, (_, i) => i / 10);
          const m = drawn(time, Float64Array.from(v), 0, v.length / 10, buckets);
          expect(m.time.length).toBeLessThanOrEqual(buckets);
          expect(Math.max(...m.max)).toBe(Math.max(...v));
          expect(Math.min(...m.min)).toBe(Math.min(...v));
        },
      ),
    );
  });
  test('gaps stay gaps; both ends belong to it; nonsense is refused', () => {
    expect([...drawn(Float64Array.of(0, 9), Float64Array.of(1, 2), 0, 10, 10).time]).toEqual([0.5, 9.5]);
    expect([...drawn(Float64Array.of(0, 5, 10), Float64Array.of(1, 2, 3), 0, 10, 2).max]).toEqual([1, 3]);
    expect(() => drawn(new Float64Array(0), new Float64Array(0), 5, 5, 10)).toThrow(RangeError);
  });
  test('at any zoom every extreme stands within one bucket of its place, over gaps and changes of rate too', () => {
    fc.assert(
      fc.property(
        // Stretches: so many samples at so many a second, then nothing for so long.
        fc.array(
          fc.tuple(fc.integer({ min: 1, max: 4000 }), fc.constantFrom(0.5, 2, 20, 100), fc.constantFrom(0, 3, 1200)),
          {
            minLength: 1,
            maxLength: 4,
          },
        ),
        fc.double({ min: 0, max: 0.9, noNaN: true }),
        fc.double({ min: 0.001, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (stretches, share, width, place) => {
          const times: number[] = [];
          let t = 0;
          for (const [n, hz, pause] of stretches) {
            for (let i = 0; i < n; i++, t += 1 / hz) times.push(t);
            t += pause;
          }
          const time = Float64Array.from(times);
          // A ramp, and one spike on it.
          const value = time.map((x) => x / 1e4);
          const at = Math.floor(place * (times.length - 1));
          value[at] = 1e3;
          const end = times.at(-1)! + 1;
          const from = share * end;
          const to = Math.min(end, from + Math.max(0.01, width * end));
          const buckets = 40;
          const m = drawn(time, value, from, to, buckets);
          const spikes = [...m.max].flatMap((v, k) => (v === 1e3 ? [m.time[k]!] : []));
          const inside = time[at]! >= from && time[at]! <= to;
          expect(spikes).toHaveLength(inside ? 1 : 0);
          if (inside) expect(Math.abs(spikes[0]! - time[at]!)).toBeLessThanOrEqual((to - from) / buckets + 1e-9);
        },
      ),
      { numRuns: 150 },
    );
  });
  test('a spike in front of a long gap is not drawn where the gap begins', () => {
    // Samples of ten seconds, twenty minutes of nothing, ten seconds: in one coarse entry they are neighbours.
    const time = Float64Array.from({ length: 40_000 }, (_, i) => (i < 20_020 ? i / 100 : 1200 + i / 100));
    const value = new Float64Array(40_000);
    value[20_030] = 7;
    const m = drawn(time, value, 0, time.at(-1)!, 400);
    const k = [...m.max].indexOf(7);
    expect(Math.abs(m.time[k]! - time[20_030]!)).toBeLessThan(time.at(-1)! / 400);
  });
});

describe('gaps of a channel', () => {
  const at = (...times: number[]) => gapsOf(Float64Array.from(times));
  test('by its own rhythm: two seconds are one at ten a second, none of a channel that comes every five', () => {
    const ten = Array.from({ length: 50 }, (_, i) => i / 10);
    expect(at(...ten, ...ten.map((t) => t + 6.9))).toEqual([{ from: 4.9, to: 6.9 }]);
    expect(at(...ten, ...ten.map((t) => t + 6.8))).toEqual([]);
    const slow = Array.from({ length: 20 }, (_, i) => 5 * i);
    expect(at(...slow)).toEqual([]);
    expect(at(...slow, 200, 205)).toEqual([{ from: 95, to: 200 }]);
    expect(at(0, 100)).toEqual([]);
    expect(at()).toEqual([]);
  });
});

describe('points of a scatter', () => {
  test('few stay as they are; of many every extreme stays, in order, and not many more than asked', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ x: fc.integer(), y: fc.integer() }), { minLength: 1, maxLength: 3000 }),
        fc.integer({ min: 20, max: 400 }),
        (points, most) => {
          const kept = thinned(points, most);
          if (points.length <= most) return expect(kept).toEqual(points);
          expect(kept.length).toBeLessThanOrEqual(Math.max(most + 4, 4));
          for (const axis of ['x', 'y'] as const) {
            const of = (list: typeof points) => list.map((p) => p[axis]);
            expect([Math.min(...of(kept)), Math.max(...of(kept))]).toEqual([
              Math.min(...of(points)),
              Math.max(...of(points)),
            ]);
          }
          const places = kept.map((p) => points.indexOf(p));
          expect(places).toEqual([...places].sort((a, b) => a - b));
        },
      ),
      { numRuns: 80 },
    );
  });
});

describe('time', () => {
  test('ISO of Unix seconds as the platform writes it', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 4_000_000_000_000 }), (ms) => {
        expect(isoOf(ms / 1000)).toBe(new Date(ms).toISOString());
        expect(unixOf(new Date(ms).toISOString())).toBeCloseTo(ms / 1000, 3);
      }),
    );
    expect(unixOf('yesterday')).toBeNull();
  });
});

describe('forms', () => {
  const anySeries = fc
    .uniqueArray(fc.constantFrom('rpm', 'maf', 'map', 'stft1', 'ltft1', 'ect', 'vss'), { minLength: 1 })
    .chain((ids) =>
      fc.tuple(
        ...ids.map((id) =>
          fc
            .uniqueArray(fc.integer({ min: 0, max: 5000 }), { minLength: 1, maxLength: 20 })
            .map((t) => [id, t.sort((a, b) => a - b)] as const),
        ),
      ),
    )
    .map(
      (cs): Series => ({
        startedAt: '2026-05-04T09:12:33.120Z',
        marks: [{ at: 'idle', from: 0, to: 1 }],
        channels: cs.map(([id, t]) =>
          channel(
            id,
            unitOfChannel(id),
            t.map((x, i) => [x / 100, (i * 37) % 50]),
          ),
        ),
      }),
    );
  test('capture JSON: what is written is read', () => {
    fc.assert(
      fc.property(anySeries, (s) => {
        const r = readCapture(JSON.parse(JSON.stringify(writeCapture(s))));
        expect(r).toEqual({ ok: true, series: s });
      }),
    );
  });
  test('CSV: what is written is read', () => {
    fc.assert(
      fc.property(anySeries, (s) => {
        const rows = [...csvLines(s)].map((l) => l.split(','));
        const p = propose(rows);
        if (p.missing) throw new Error(p.missing);
        const reader = new TableReader({ ...p.mapping, timeFormat: 'seconds' });
        for (const r of rows) reader.row(r);
        expect(reader.summary().problems).toEqual([]);
        const back = reader.finish();
        expect(back.channels.map((c) => [c.id, [...c.time], [...c.value]])).toEqual(
          s.channels.map((c) => [c.id, [...c.time], [...c.value]]),
        );
      }),
    );
  });
  test('a spreadsheet-safe header is a separate choice', () => {
    const s: Series = { startedAt: null, marks: [], channels: [channel('=cmd', '', [[0, -1]])] };
    expect([...csvLines(s)][0]).toBe('time,=cmd');
    expect([...csvLines(s, true)]).toEqual(["time,'=cmd", '0,-1']);
  });
  test('candump: in the steps of the standard; channels nobody carries are named', () => {
    const s: Series = {
      startedAt: '2026-05-04T09:12:33.120Z',
      marks: [],
      channels: [
        channel('rpm', 'rpm', [
          [0, 750],
          [0.5, 760.25],
        ]),
        channel('stft1', '%', [[0.1, 3.125]]),
        channel('mood', '', [[0, 1]]),
      ],
    };
    const { left, lines } = candumpLines(s);
    expect(left).toEqual([{ id: 'mood', why: 'no parameter carries it' }]);
    const reader = new CandumpReader();
    for (const l of lines()) reader.line(l);
    const back = reader.finish();
    expect(back.startedAt).toBe(s.startedAt);
    expect(back.channels.map((c) => [c.id, [...c.value]])).toEqual([
      ['rpm', [750, 760.25]],
      ['stft1', [3.125]],
    ]);
  });
  test('candump: of two units that say the same the engine’s counts, whoever comes first; what only another says is kept', () => {
    const reader = new CandumpReader();
    // A gearbox: 1,500 rpm and a voltage; the engine: coolant 90 °C, 750 rpm, a trim.
    for (const line of ['7E9#04410C1770', '7E9#0441423458', '7E8#03410582', '7E8#04410C0BB8', '7E8#03410684'])
      reader.line(`(1700000000.000000) can0 ${line}`);
    const { channels } = reader.finish();
    expect(Object.fromEntries(channels.map((c) => [c.id, [...c.value]]))).toEqual({
      rpm: [750],
      ect: [90],
      stft1: [3.125],
      vbat: [13.4],
    });
  });
  test('candump: what was not recorded beside a value is never made up; companions come back together', () => {
    const at = (values: number[]): [number, number][] => values.map((v, i) => [i / 2, v]);
    const written = (...channels: Channel[]) => {
      const { left, lines } = candumpLines({ startedAt: '2026-05-04T09:12:33.120Z', marks: [], channels });
      const reader = new CandumpReader();
      for (const l of lines()) reader.line(l);
      return { left, back: reader.finish().channels.map((c) => [c.id, [...c.value].map((v) => Number(v.toFixed(2)))]) };
    };
    const lambda = channel('lambda11', 'λ', at([1, 0.99, 1.01]));
    // Alone, its parameter would say a voltage or a current of 0 beside it.
    expect(written(lambda)).toEqual({
      left: [{ id: 'lambda11', why: 'its parameter carries o2sWide11 too, which is not recorded' }],
      back: [],
    });
    expect(written(lambda, channel('o2sWide11', 'V', at([2.1, 2.2, 2]))).back).toEqual([
      ['lambda11', [1, 0.99, 1.01]],
      ['o2sWide11', [2.1, 2.2, 2]],
    ]);
    // A sensor's voltage alone: the standard has a mark for a trim that is not there (J1979, PID 14: FF).
    expect(written(channel('o2s11', 'V', at([0.1, 0.8]))).back).toEqual([['o2s11', [0.1, 0.8]]]);
    // Trims keep their own parameter, and are not repeated in the sensor's.
    const trim = channel('stft1', '%', at([3.125, 1.5625]));
    expect(written(channel('o2s11', 'V', at([0.1, 0.8])), trim).back).toEqual([
      ['o2s11', [0.1, 0.8]],
      ['stft1', [3.13, 1.56]],
    ]);
  });
  test.each([
    [null, ''],
    [{ format: 'x' }, 'format'],
    [{ format: 'just-balance/capture', version: 2 }, 'version'],
    [{ format: 'just-balance/capture', version: 1 }, 'channels'],
    [{ format: 'just-balance/capture', version: 1, channels: [{ id: '' }] }, 'channels[0].id'],
    [
      { format: 'just-balance/capture', version: 1, channels: [{ id: 'a', unit: '', time: [1], value: [] }] },
      'channels[0].value',
    ],
    [
      { format: 'just-balance/capture', version: 1, channels: [{ id: 'a', unit: '', time: [null], value: [1] }] },
      'channels[0].time[0]',
    ],
  ])('%j is refused by field', (json, field) => {
    const r = readCapture(json);
    expect(!r.ok && r.field).toBe(field);
  });
});

describe('headers and cells of logs', () => {
  test.each([
    ['Short term fuel trim bank 1 (%)', 'stft1'],
    ['Long Term Fuel Trim - Bank 2', 'ltft2'],
    ['STFT B1', 'stft1'],
    ['LTFT_B2', 'ltft2'],
    ['STFT (%)', 'stft1'],
    ['Engine RPM', 'rpm'],
    ['Mass Air Flow (g/s)', 'maf'],
    ['Intake Manifold Absolute Pressure [kPa]', 'map'],
    ['Coolant (°F)', 'ect'],
    ['O2 Sensor Bank 1 Sensor 2 (V)', 'o2s12'],
    ['Vehicle Speed (mph)', 'vss'],
    ['Barometric pressure', 'baro'],
    ['lambda11', 'lambda11'],
  ])('"%s" is %s', (header, id) => expect(roleOf(header)).toMatchObject({ kind: 'channel', id }));
  test('units in the cell or the row below; what is not known is left alone', () => {
    expect(roleOf('Coolant (°F)')).toMatchObject({ from: '°F', unit: '°C' });
    expect(roleOf('Vehicle speed', 'mph')).toMatchObject({ from: 'mph', unit: 'km/h' });
    expect(roleOf('Driver mood')).toEqual({ kind: 'ignore' });
    expect(roleOf('Time (ms)')).toEqual({ kind: 'time' });
  });
  test('separators, decimal commas, clocks, midnight', () => {
    expect(separatorOf(['a;b;c', '1,5;2,5;3,5'])).toBe(';');
    expect(separatorOf(['a\tb', '1\t2'])).toBe('\t');
    expect(numberOf('−1,25', COMMA)).toBe(-1.25);
    expect(numberOf('', POINT)).toBeNaN();
    expect(secondsOf('01:02:03.5', 'clock', POINT)).toBe(3723.5);
    expect(secondsOf('12:30', 'clock', POINT)).toBe(750);
    expect(
      secondsOf('2026-05-04 09:12:33.120', 'datetime', POINT) - secondsOf('2026-05-03T09:12:33Z', 'datetime', POINT),
    ).toBeCloseTo(86_400.12, 6);
    const rows = [
      ['Time', 'RPM'],
      ['23:59:59', '700'],
      ['00:00:01', '710'],
    ];
    const p = propose(rows);
    const reader = new TableReader(p.mapping);
    for (const r of rows) reader.row(r);
    expect([...reader.finish().channels[0]!.time]).toEqual([0, 2]);
  });
  const readAs = (back: BackStep | undefined, ...rows: string[][]) => {
    const all = [['Time', 'RPM', 'Loop status'].slice(0, rows[0]!.length), ...rows];
    const reader = new TableReader({ ...propose(all).mapping, ...(back ? { back } : {}) });
    for (const r of all) reader.row(r);
    const { channels, texts } = reader.finish();
    const { problems, stepsBack, leftOut } = reader.summary();
    const words = texts?.flatMap((t) => t.value.map((w, i) => [t.time[i], w])) ?? [];
    return { time: [...(channels[0]?.time ?? [])], words, problems, stepsBack, left: leftOut };
  };
  const readRows = (...rows: string[][]) => {
    const { time, problems } = readAs(undefined, ...rows);
    return { time, problems };
  };
  test('an offset that a time says of itself counts: the hour of a daylight change is none', () => {
    // RFC 3339 5.6: 02:59:59+02:00 is 00:59:59Z, 02:00:01+01:00 is 01:00:01Z: two seconds later.
    const across = readRows(['2026-10-25T02:59:59+02:00', '700'], ['2026-10-25T02:00:01+01:00', '710']);
    expect(across).toEqual({ time: [0, 2], problems: [] });
    const utc = secondsOf('2026-05-04T07:12:33Z', 'datetime', POINT);
    for (const same of ['2026-05-04T09:12:33+02:00', '2026-05-04 09:12:33 +0200', '2026-05-04T02:42:33-04:30'])
      expect([same, secondsOf(same, 'datetime', POINT)]).toEqual([same, utc]);
    expect(utc).toBe(Date.UTC(2026, 4, 4, 7, 12, 33) / 1000);
  });
  describe('a clock that steps back', () => {
    const log: string[][] = [
      ['2026-10-25 02:59:58', '700', 'CL'],
      ['2026-10-25 02:59:59', '705', 'CL'],
      ['2026-10-25 02:00:00', '', 'OL'],
      ['2026-10-25 02:00:01', '720', 'CL'],
    ];
    test('is said with its line, and the lines put in order until somebody says what it was', () => {
      const read = readAs(undefined, ...log);
      expect(read.stepsBack).toEqual([{ line: 4, byS: 3599 }]);
      expect([read.time, read.problems]).toEqual([[1, 3598, 3599], []]);
      expect(readAs('unsorted', ...log)).toEqual(read);
    });
    test('that was set back: the log runs on, words too', () => {
      const read = readAs('runs-on', ...log);
      expect(read.time).toEqual([0, 1, 3]);
      expect(read.words.map(([t]) => t)).toEqual([0, 1, 2, 3]);
      expect(read.words[2]![1]).toBe('open loop');
    });
    test('where a second log begins: it is left out, and named', () => {
      const read = readAs('second-log', ...log);
      expect([read.time, read.words]).toEqual([
        [0, 1],
        [
          [0, 'closed loop'],
          [1, 'closed loop'],
        ],
      ]);
      expect(read.left).toEqual([{ name: 'line 4 and all below', why: 'a second log' }]);
    });
    test('of one value a line', () => {
      const rows = [
        ['Time', 'Name', 'Value'],
        ['1', 'rpm', '700'],
        ['9', 'rpm', '710'],
        ['1.5', 'rpm', '720'],
      ];
      const times = (back: BackStep) => {
        const reader = new TableReader({ ...propose(rows).mapping, back });
        for (const r of rows) reader.row(r);
        return [...reader.finish().channels[0]!.time];
      };
      expect([times('unsorted'), times('runs-on'), times('second-log')]).toEqual([
        [1, 1.5, 9],
        [1, 9, 17],
        [1, 9],
      ]);
    });
    test('a little disorder is none', () => {
      const read = readAs(undefined, ['10.0', '700'], ['9.8', '710'], ['10.2', '720']);
      expect([read.time, read.stepsBack]).toEqual([[9.8, 10, 10.2], []]);
    });
  });
  test('what a log counts before its own zero is seen: it begins with its first sample', () => {
    expect(readRows(['-5', '700'], ['0', '710'], ['2.5', '720']).time).toEqual([0, 5, 7.5]);
    expect(readRows(['3', '700'], ['4', '710']).time).toEqual([3, 4]);
  });
  test('no text crashes the proposal or the reader', () => {
    fc.assert(
      fc.property(fc.array(fc.array(fc.string({ maxLength: 12 }), { maxLength: 5 }), { maxLength: 8 }), (rows) => {
        const all = [['time', 'rpm', 'x'], ...rows];
        const p = propose(all);
        if (p.missing) return;
        const reader = new TableReader(p.mapping);
        for (const r of all) reader.row(r);
        for (const c of reader.finish().channels) for (const v of c.value) expect(Number.isFinite(v)).toBe(true);
      }),
      { numRuns: 300 },
    );
  });
});

describe('a value held', () => {
  const rising = fc
    .array(fc.double({ min: 0, max: 60, noNaN: true }), { maxLength: 40 })
    .map((l) => l.sort((a, b) => a - b));

  test('onto moments: the newest sample that is not after each, as looking through them all finds it', () => {
    fc.assert(
      fc.property(rising, rising, (moments, time) => {
        const plain = moments.map((m) => time.filter((t) => t <= m).length - 1);
        expect([...holdOnto(moments, time)]).toEqual(plain);
      }),
    );
  });

  test('at one moment: itself counts, before the first and after it is stale there is none', () => {
    const c = { time: Float64Array.of(1, 2, 5), value: Float64Array.of(10, 20, 50) };
    const at = (t: number) => heldAt(c, t, 2);
    expect([0.9, 1, 1.9, 2, 4, 4.1, 5, 7, 7.1].map(at)).toEqual([
      Number.NaN,
      10,
      10,
      20,
      20,
      Number.NaN,
      50,
      50,
      Number.NaN,
    ]);
    expect([heldIndex(c.time, 0), heldIndex(c.time, 5)]).toEqual([-1, 2]);
  });

  test('the median: the middle, the mean of the middle two, of nothing none; the order of what it was given stays', () => {
    const given = [9, 1, 5, 3];
    expect([median([7]), median(given), median([3, 1, 2]), median([])]).toEqual([7, 4, 2, Number.NaN]);
    expect(given).toEqual([9, 1, 5, 3]);
    fc.assert(
      fc.property(fc.array(fc.double({ min: -1e6, max: 1e6, noNaN: true }), { minLength: 1 }), (list) => {
        const m = median(list);
        // As many on either side of it.
        expect(Math.abs(list.filter((v) => v < m).length - list.filter((v) => v > m).length)).toBeLessThanOrEqual(
          list.filter((v) => v === m).length,
        );
      }),
    );
  });
});
