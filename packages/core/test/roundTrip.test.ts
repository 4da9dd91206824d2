/**
 * Out and in again: a file of every layout, with gaps, times before zero, two rates, cells that say nothing, midnight, a
 * clock set by daylight saving and spikes, goes through all formats and comes back as it was.
 */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import Papa from 'papaparse';
import { decodeResponse, encodePid, FUEL_SYSTEM_TEXT, PIDS, QUANTUM } from '../src/obd/index.ts';
import {
  CandumpReader,
  candumpLines,
  csvLines,
  propose,
  readCapture,
  TableReader,
  unitOfChannel,
  writeCapture,
} from '../src/recordingFiles/index.ts';
import type { Series } from '../src/series/index.ts';

interface Sample {
  /** Whole ms from the start. */
  ms: number;
  values: Record<string, number | string | null>;
}

/** Values that its bytes can carry, without those that mean "not there": as they are decoded. */
const rawOf = (id: string) => {
  const row = PIDS.find((p) => p.elements.some((x) => x.id === id && !x.kind))!;
  const e = row.elements.find((x) => x.id === id)!;
  return fc.integer({ min: 0, max: 256 ** e.bytes - 2 }).map((n) => {
    const answer = Uint8Array.of(0x41, row.pid, ...encodePid(row, { [id]: n * e.scale + e.offset }));
    return decodeResponse(answer).find((v) => v.name === id)!.value as number;
  });
};
const IDS = ['rpm', 'maf', 'stft1', 'ltft2', 'ect', 'o2s12', 'vbat', 'fuelLevel'] as const;
/** A sensor's λ and its voltage are of one answer. */
const PAIR = ['lambda11', 'o2sWide11'] as const;
const loops = Object.values(FUEL_SYSTEM_TEXT).filter((w) => w !== 'not reported');

/** A log: rows of two rates, with a gap of half a minute somewhere, cells that say nothing, and a spike. */
const log = (fromMs: number): fc.Arbitrary<{ ids: string[]; rows: Sample[] }> =>
  fc
    .record({
      ids: fc.uniqueArray(fc.constantFrom(...IDS), { minLength: 1, maxLength: 4 }),
      pair: fc.boolean(),
      words: fc.boolean(),
      steps: fc.array(fc.constantFrom(40, 100, 100, 1000, 31_000), { minLength: 1, maxLength: 30 }),
    })
    .chain(({ ids, pair, words, steps }) => {
      const all = [...ids, ...(pair ? PAIR : []), ...(words ? ['fuelSys1'] : [])];
      let ms = fromMs;
      const moments = [ms, ...steps.map((d) => (ms += d))];
      return fc
        .tuple(
          ...moments.map((m) =>
            fc
              .record({
                ...Object.fromEntries(ids.map((id) => [id, fc.option(rawOf(id), { freq: 4 })])),
                ...(pair ? { pair: fc.option(fc.tuple(...PAIR.map(rawOf)), { freq: 4 }) } : {}),
                ...(words ? { fuelSys1: fc.option(fc.constantFrom(...loops), { freq: 4 }) } : {}),
              } as Record<string, fc.Arbitrary<unknown>>)
              .map(({ pair: both, ...rest }): Sample => {
                const two = both as number[] | null | undefined;
                const values = rest as Sample['values'];
                for (const [k, id] of pair ? PAIR.entries() : []) values[id] = two?.[k] ?? null;
                return { ms: m, values };
              }),
          ),
        )
        .map((rows) => ({ ids: all, rows }));
    })
    // Nothing can be said of a file without a single figure, or of a channel that has none.
    .filter(({ ids, rows }) => ids.every((id) => rows.some((r) => r.values[id] != null)));

const clock = (ms: number) => {
  const day = ((ms % 86_400_000) + 86_400_000) % 86_400_000;
  const two = (n: number, w = 2) => String(Math.floor(n)).padStart(w, '0');
  return `${two(day / 3.6e6)}:${two((day / 60_000) % 60)}:${two((day / 1000) % 60)}.${two(day % 1000, 3)}`;
};

/** Layouts that tools write: each a file and where its time begins. */
const LAYOUTS: Record<string, { fromMs: number; text: (ids: string[], rows: Sample[]) => string }> = {
  'seconds, commas': {
    fromMs: 0,
    text: (ids, rows) => wide(ids, rows, (ms) => String(ms / 1000), { time: 'Time (s)' }),
  },
  'seconds before zero': {
    fromMs: -20_000,
    text: (ids, rows) => wide(ids, rows, (ms) => String(ms / 1000), { time: 'Time (s)' }),
  },
  'milliseconds named': {
    fromMs: 5000,
    text: (ids, rows) => wide(ids, rows, String, { time: 'Time (ms)' }),
  },
  'decimal commas, semicolons': {
    fromMs: 0,
    text: (ids, rows) =>
      wide(ids, rows, (ms) => (ms / 1000).toFixed(3).replace('.', ','), {
        sign: ';',
        time: 'Time (s)',
        number: (v) => (Number.isInteger(v) ? `${v},0` : String(v).replace('.', ',')),
      }),
  },
  'time of day over midnight': { fromMs: 86_390_000, text: (ids, rows) => wide(ids, rows, clock) },
  'moments with their offset, over the change to winter': {
    // 03:00 becomes 02:00 on the last Sunday of October (directive 2000/84/EC).
    fromMs: Date.parse('2026-10-25T00:59:50Z'),
    text: (ids, rows) =>
      wide(ids, rows, (ms) => {
        const hours = ms < Date.parse('2026-10-25T01:00:00Z') ? 2 : 1;
        return `${new Date(ms + hours * 3.6e6).toISOString().slice(0, 23)}+0${hours}:00`;
      }),
  },
  'one value a line': {
    fromMs: 0,
    text: (ids, rows) =>
      [
        'time (s),name,value',
        ...rows.flatMap((r) =>
          ids.flatMap((id) => (r.values[id] == null ? [] : [`${r.ms / 1000},${id},${cell(r.values[id]!)}`])),
        ),
      ].join('\n'),
  },
};

const cell = (v: number | string) => (typeof v === 'string' ? `"${v}"` : String(v));

function wide(
  ids: string[],
  rows: Sample[],
  time: (ms: number) => string,
  { sign = ',', time: head = 'time', number = String as (v: number) => string } = {},
): string {
  const nothing = ['', 'NaN', '-'];
  return [
    [head, ...ids].join(sign),
    ...rows.map((r, k) =>
      [
        time(r.ms),
        ...ids.map((id, i) => {
          const v = r.values[id];
          return v == null ? nothing[(k + i) % 3]! : typeof v === 'string' ? `"${v}"` : number(v);
        }),
      ].join(sign),
    ),
  ].join('\n');
}

/** As the page and the command line read a table. */
function readTable(text: string): Series {
  const delimiter = /^[^\n]*;/.test(text) ? ';' : ',';
  const rows = Papa.parse<string[]>(text, { delimiter }).data;
  const p = propose(rows);
  expect([p.missing, p.asks]).toEqual([null, []]);
  const reader = new TableReader(p.mapping);
  for (const r of rows) reader.row(r);
  expect(reader.summary()).toMatchObject({ problems: [], leftOut: [] });
  return reader.finish();
}

const plain = (s: Series): Record<string, { time: number[]; value: (number | string)[] }> =>
  Object.fromEntries([
    ...s.channels.map((c) => [c.id, { unit: c.unit, time: [...c.time], value: [...c.value] }]),
    ...(s.texts ?? []).map((t) => [t.id, { time: [...t.time], value: t.value }]),
  ]);

const throughLog = (s: Series) => {
  const { left, dropped, lines } = candumpLines(s);
  const reader = new CandumpReader();
  for (const l of lines()) reader.line(l);
  return { left, dropped: [...dropped], back: reader.finish() };
};

describe.each(Object.entries(LAYOUTS))('%s', (_name, { fromMs, text }) => {
  test('comes in as it is, and comes back from every format', () => {
    fc.assert(
      fc.property(log(fromMs), ({ ids, rows }) => {
        const series = readTable(text(ids, rows));
        // What the file says, from its first figure or from its own zero.
        const first = rows.find((r) => ids.some((id) => r.values[id] != null))!.ms;
        const zero = Math.abs(fromMs) < 60_000 && first >= 0 ? 0 : first;
        for (const id of ids) {
          const own = rows.flatMap((r) => (r.values[id] == null ? [] : [[(r.ms - zero) / 1000, r.values[id]]]));
          const c = series.channels.find((x) => x.id === id) ?? series.texts!.find((x) => x.id === id)!;
          expect([...c.time].map((t, i) => [t, c.value[i]])).toEqual(own);
        }
        expect(plain(readTable([...csvLines(series)].join('\n')))).toEqual(plain(series));
        expect(readCapture(JSON.parse(JSON.stringify(writeCapture(series))))).toEqual({ ok: true, series });
        // A log begins with its first frame, and holds steps of the standard: these are of it.
        const { left, dropped, back } = throughLog(series);
        expect([left, dropped]).toEqual([[], []]);
        const begin = Math.min(...Object.values(plain(series)).map((c) => c.time[0]!));
        const moved = Object.entries(plain(series)).map(([id, c]) => [
          id,
          { ...c, time: c.time.map((t) => Math.round((t - begin) * 1e6) / 1e6) },
        ]);
        expect(plain(back)).toEqual(Object.fromEntries(moved));
      }),
      { numRuns: 60 },
    );
  });
});

describe('a log of frames', () => {
  const at = (time: number[], value: number[], id: string) => ({
    id,
    unit: unitOfChannel(id),
    time: Float64Array.from(time),
    value: Float64Array.from(value),
  });
  const of = (...channels: Series['channels']): Series => ({
    startedAt: '2026-05-04T09:12:33.120Z',
    channels,
    marks: [],
  });

  test('companions of two moments are not put together, and it is counted', () => {
    const { dropped, back } = throughLog(of(at([0, 1], [1, 0.9375], 'lambda11'), at([0.5, 1], [2, 2.5], 'o2sWide11')));
    expect(plain(back)).toMatchObject({ lambda11: { value: [0.9375] }, o2sWide11: { value: [2.5] } });
    expect(dropped).toEqual([
      ['lambda11', 1],
      ['o2sWide11', 1],
    ]);
  });
  test('two samples of one moment are two answers', () => {
    expect(plain(throughLog(of(at([0, 0, 1], [750, 900, 800], 'rpm'))).back)).toMatchObject({
      rpm: { value: [750, 900, 800] },
    });
  });
  test('what no answer can say is left out, never cut to the greatest', () => {
    // SAE J1979 PID 0C: at most 16,383.75 rpm.
    const { dropped, back } = throughLog(of(at([0, 1, 2], [750, 20_000, 800], 'rpm')));
    expect(plain(back)).toMatchObject({ rpm: { value: [750, 800] } });
    expect(dropped).toEqual([['rpm', 1]]);
    expect(QUANTUM.get('rpm')).toBe(0.25);
  });
  test('the state of the monitors and of both fuel systems is kept; a word without a code leaves its channel out', () => {
    const words = (id: string, value: string[]) => ({ id, time: Float64Array.from(value, (_, i) => i), value });
    const series: Series = {
      ...of(at([0, 1], [750, 760], 'rpm')),
      texts: [
        words('fuelSys1', ['open loop, not yet warm', 'closed loop']),
        words('fuelSys2', ['open loop', 'closed loop']),
        words('monitorStatus', ['00076500', '00076504']),
      ],
    };
    const { left, back } = throughLog(series);
    expect(left).toEqual([{ id: 'fuelSys2', why: 'its parameter has no word for “open loop”' }]);
    expect(back.texts).toEqual([series.texts![0], series.texts![2]]);
    expect(readTable([...csvLines(series)].join('\n')).texts).toEqual(series.texts);
  });
});

test('where nobody knows when it began, the capture says so; 1970 in older files is read as that', () => {
  const series: Series = { startedAt: null, channels: [], marks: [] };
  expect(writeCapture(series).startedAt).toBeNull();
  const older = { ...writeCapture(series), startedAt: '1970-01-01T00:00:00.000Z' };
  expect(readCapture(older)).toMatchObject({ ok: true, series: { startedAt: null } });
});

test('words of a capture are held against their times as figures are', () => {
  const capture = (t: object) => ({ ...writeCapture({ startedAt: null, channels: [], marks: [] }), texts: [t] });
  const field = (t: object) => {
    const r = readCapture(capture(t));
    return r.ok ? null : r.field;
  };
  expect(field({ id: 'fuelSys1', time: [0, 1], value: ['closed loop'] })).toBe('texts[0].value');
  expect(field({ id: 'fuelSys1', time: [1, 0], value: ['a', 'b'] })).toBe('texts[0].time[1]');
  expect(field({ id: 'fuelSys1', time: [0], value: [2] })).toBe('texts[0].value[0]');
  expect(field({ id: '', time: [], value: [] })).toBe('texts[0].id');
  expect(field({ id: 'fuelSys1', time: [0], value: ['closed loop'] })).toBeNull();
});
