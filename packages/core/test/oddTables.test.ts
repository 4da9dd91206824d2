import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import Papa from 'papaparse';
import {
  encodingOf,
  isText,
  numberOf,
  numberStyles,
  POINT,
  plainNumber,
  propose,
  separatorOf,
  TableReader,
  writtenUnits,
} from '../src/recordingFiles/index.ts';
import { ODD_TABLES } from './oddTables.ts';

describe('tables of any layout', () => {
  test('forty of them', () => expect(ODD_TABLES.length).toBeGreaterThanOrEqual(40));

  test.each(ODD_TABLES.map((t) => [t.name, t] as const))('%s', (_, t) => {
    const rows = Papa.parse<string[]>(t.text, { delimiter: separatorOf(t.text.split('\n').slice(0, 20)) }).data;
    const p = propose(rows);
    if (t.missing) {
      expect(p.missing).toMatch(t.missing);
      return;
    }
    expect(p.missing).toBeNull();
    expect(p.asks.map((a) => p.mapping.headers[a.column])).toEqual(t.asks ?? []);
    if (t.asks) return;
    const reader = new TableReader(p.mapping);
    for (const r of rows) reader.row(r);
    const series = reader.finish();
    const summary = reader.summary();
    for (const [id, values] of Object.entries(t.channels!)) {
      const c = series.channels.find((x) => x.id === id);
      expect([id, c?.value.length]).toEqual([id, values.length]);
      c!.value.forEach((v, i) => {
        expect(v).toBeCloseTo(values[i]!, 3);
      });
    }
    const times = t.times ?? [0, 0.5, 1, 1.5];
    const first = series.channels.find((c) => c.id === Object.keys(t.channels!)[0])!;
    first.time.forEach((v, i) => {
      expect(v).toBeCloseTo(times[i]!, 5);
    });
    if (t.loop) expect(series.texts![0]!.value).toEqual(t.loop);
    expect(Object.fromEntries(summary.leftOut.map((l) => [l.name, l.why]))).toEqual(
      Object.fromEntries(Object.entries(t.left ?? {}).map(([k, why]) => [k, expect.stringMatching(why)])),
    );
    const said = summary.problems.map((x) => `line ${x.line}: ${x.message}`).join('\n');
    if (!t.problems) expect(said).toBe('');
    for (const words of t.problems ?? []) expect(said).toMatch(words);
  });
});

describe('what a person says of the layout is taken', () => {
  const rows = ['Tool 3', 'a;b;c', '0;700;2.513', '1;710;2.514'].map((l) => l.split(';'));
  test('another header line, none, units below or not, the form of the clock', () => {
    expect(propose(rows, { header: 1 }).mapping).toMatchObject({ header: 1, skip: 2, headers: ['a', 'b', 'c'] });
    const none = propose(rows.slice(2), { header: null });
    expect(none.mapping).toMatchObject({ header: null, skip: 0, headers: ['column 1', 'column 2', 'column 3'] });
    const roles = none.mapping.roles.map((r, i) => (i === 0 ? ({ kind: 'time' } as const) : r));
    roles[1] = { kind: 'channel', id: 'rpm', unit: 'rpm', from: 'rpm' };
    const reader = new TableReader({ ...none.mapping, roles });
    for (const r of rows.slice(2)) reader.row(r);
    expect([...reader.finish().channels[0]!.value]).toEqual([700, 710]);
    expect(
      propose(
        [
          ['time', 'rpm'],
          ['s', 'x'],
          ['0', '1'],
        ],
        { header: 0, units: false },
      ).mapping.skip,
    ).toBe(1);
    expect(
      propose(
        [
          ['time', 'rpm'],
          ['1', '1'],
        ],
        { timeFormat: 'milliseconds' },
      ).mapping.timeFormat,
    ).toBe('milliseconds');
  });
  test('how numbers are written: nothing is asked any more', () => {
    const lambda = [
      ['time', 'Lambda'],
      ['0,5', '1.002'],
      ['1,0', '1.013'],
    ];
    // The clock shows how numbers are written; the other column may be read two ways.
    const open = propose([...lambda, ['1,5', '1.001']]);
    expect([open.mapping.style.decimal, open.asks.map((a) => a.column)]).toEqual([',', [1]]);
    const said = propose(lambda, { style: { decimal: ',', thousands: '.' } });
    expect([said.asks, said.mapping.style]).toEqual([[], { decimal: ',', thousands: '.' }]);
  });
});

describe('numbers', () => {
  test.each([
    ['1,013.2', '.', ',', 1013.2],
    ['1.013,2', ',', '.', 1013.2],
    ['1,01,3', '.', ',', Number.NaN],
    ['12.345.678', ',', '.', 12_345_678],
    ['1.5', ',', '.', Number.NaN],
    ['-0,5', ',', '', -0.5],
    ['1e3', '.', '', 1000],
    ['1 234,5', ',', ' ', 1234.5],
  ] as const)('%s with decimal %s and thousands “%s”', (cell, decimal, thousands, value) => {
    expect(numberOf(cell, { decimal, thousands })).toBe(value);
  });
  test('a plain number is the one JavaScript reads, to the last bit; what is none is left to the longer way', () => {
    fc.assert(
      fc.property(fc.double({ min: -1e9, max: 1e9, noNaN: true }), fc.integer({ min: 0, max: 6 }), (x, places) => {
        const cell = x.toFixed(places);
        for (const decimal of ['.', ','] as const) {
          const v = plainNumber(cell.replace('.', decimal), decimal);
          if (cell.replace(/\D/g, '').length <= 15) expect(v).toBe(Number(cell));
          else expect(v).toBeNaN();
        }
      }),
    );
    expect([plainNumber('.5', '.'), plainNumber('5.', '.'), plainNumber('007', '.')]).toEqual([0.5, 5, 7]);
    for (const cell of ['', '-', '.', '-.', '+5', '5 ', '0x12', '1e3', '1.2.3', '1,2', '12345678901234567'])
      expect([cell, plainNumber(cell, '.')]).toEqual([cell, Number.NaN]);
  });
  test('any number written in any style is found again, and its style where a cell shows it', () => {
    const styles = [
      { decimal: '.', thousands: ',' },
      { decimal: ',', thousands: '.' },
      { decimal: ',', thousands: ' ' },
      { decimal: '.', thousands: "'" },
    ] as const;
    fc.assert(
      fc.property(
        fc.constantFrom(...styles),
        fc.array(fc.integer({ min: -9_999_999, max: 9_999_999 }), { minLength: 3, maxLength: 20 }),
        (style, list) => {
          const write = (n: number) => {
            const [whole, part] = (Math.abs(n) / 100).toFixed(2).split('.') as [string, string];
            return `${n < 0 ? '-' : ''}${whole.replaceAll(/\B(?=(\d{3})+$)/g, style.thousands)}${style.decimal}${part}`;
          };
          const cells = list.map(write);
          const found = numberStyles(
            cells.map((c) => [c]),
            [0],
          );
          expect(found.asks).toEqual([]);
          const read = found.numbers[0] ?? found.style;
          cells.forEach((c, i) => {
            expect(numberOf(c, read)).toBeCloseTo(list[i]! / 100, 6);
          });
        },
      ),
    );
  });
  test('every unit a channel may be written in is one of its quantity', () => {
    expect(writtenUnits('kPa')).toEqual(expect.arrayContaining(['kPa', 'hPa', 'mbar', 'psi', 'inHg']));
    expect(writtenUnits('%')).toEqual(['%']);
    expect(numberOf('12 %', POINT)).toBeNaN();
  });
});

describe('the encoding of a text', () => {
  const utf16 = (text: string, little: boolean, mark: boolean) => {
    const codes = [...(mark ? '\uFEFF' : ''), ...text].map((c) => c.charCodeAt(0));
    return Uint8Array.from(codes.flatMap((c) => (little ? [c & 255, c >> 8] : [c >> 8, c & 255])));
  };
  const text = 'Time;ECT [°C]\n0;90\n';
  test.each([
    ['utf-8', new TextEncoder().encode(text)],
    ['utf-8', new TextEncoder().encode(text).subarray(0, 11)],
    ['utf-16le', utf16(text, true, true)],
    ['utf-16le', utf16(text, true, false)],
    ['utf-16be', utf16(text, false, true)],
    ['utf-16be', utf16(text, false, false)],
    ['windows-1252', Uint8Array.from([...text].map((c) => c.charCodeAt(0)))],
    ['utf-8', new Uint8Array()],
  ])('%s', (encoding, bytes) => {
    expect(encodingOf(bytes)).toBe(encoding);
  });
  test('a sign whose low byte is none does not hide it; padding is still text, other bytes are not', () => {
    // U+0100 and U+2000 have a low byte of zero.
    expect(encodingOf(utf16(`${text.repeat(20)}\u0100\u2000`, true, false))).toBe('utf-16le');
    expect(isText(text + '\u0000'.repeat(2))).toBe(true);
    expect(isText(text)).toBe(true);
    expect(isText(`PK\u0003\u0004${'\u0000\u0001'.repeat(30)}`)).toBe(false);
  });
});
