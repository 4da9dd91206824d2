import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  type CanFrame,
  decodeSlcanFrame,
  encodeSlcan,
  formatCandumpLine,
  fromHex,
  ISOTP_TIMEOUT_US,
  IsoTpReceiver,
  idText,
  packFrames,
  parseCandumpLine,
  SlcanReader,
  segment,
  stMinUs,
  toHex,
  unpackFrames,
} from '../src/can/index.ts';

const anyFrame = fc
  .tuple(fc.boolean(), fc.integer({ min: 0, max: 0x1fffffff }), fc.uint8Array({ maxLength: 8 }))
  .map(([extended, id, data]): CanFrame => ({ extended, id: extended ? id : id & 0x7ff, data }));

describe('frames as bytes', () => {
  const timed = fc
    .array(fc.tuple(fc.integer({ min: -50_000, max: 2_000_000 }), anyFrame), { maxLength: 60 })
    .map((steps) => {
      let atUs = 1_700_000_000_000_000;
      return steps.map(([step, frame]) => {
        atUs += step;
        return { atUs, frame };
      });
    });
  test('every frame comes back with its microsecond, steps back too', () => {
    fc.assert(
      fc.property(timed, (frames) => {
        const from = frames[0]?.atUs ?? 0;
        expect([...unpackFrames(packFrames(frames, from), from)]).toEqual(frames);
      }),
    );
  });
  test('bytes that are cut, and any others, are refused or read, never hung on', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 80 }), (bytes) => {
        try {
          for (const { frame } of unpackFrames(bytes, 0)) expect(frame.data.length).toBeLessThanOrEqual(8);
        } catch (e) {
          expect(e).toBeInstanceOf(RangeError);
        }
      }),
    );
    const one = packFrames([{ atUs: 5, frame: { id: 0x7e8, extended: false, data: Uint8Array.of(1, 2, 3) } }], 0);
    // A step of 5 µs, three bytes, the identifier in two, the data.
    expect([...one]).toEqual([10, 3, 0xe8, 0x0f, 1, 2, 3]);
    for (let n = 1; n < one.length; n++) expect(() => [...unpackFrames(one.subarray(0, n), 0)]).toThrow(RangeError);
  });
});

describe('hex', () => {
  test('there and back', () => {
    fc.assert(fc.property(fc.uint8Array({ maxLength: 40 }), (b) => expect(fromHex(toHex(b))).toEqual(b)));
  });
  test.each(['0', 'zz', '0x', ' 00'])('"%s" is not hex pairs', (t) => expect(fromHex(t)).toBeNull());
  test('identifiers', () => {
    expect(idText(0x7e8)).toBe('7E8');
    expect(idText(0x18daf110, true)).toBe('18DAF110');
  });
});

describe('candump text', () => {
  test('a line of the format', () => {
    const p = parseCandumpLine('(1436509052.249713) can0 7E8#03410C0BB8');
    expect(p).toMatchObject({ ok: true, frame: { timeText: '1436509052.249713', iface: 'can0', id: 0x7e8 } });
    expect(p.ok && toHex(p.frame.data)).toBe('03410C0BB8');
  });
  test('what is written reads back', () => {
    fc.assert(
      fc.property(anyFrame, fc.integer({ min: 0, max: 2_000_000_000_000_000 }), (frame, us) => {
        const p = parseCandumpLine(formatCandumpLine(frame, us));
        expect(p).toMatchObject({ ok: true, frame: { id: frame.id, extended: frame.extended } });
        expect(p.ok && p.frame.data).toEqual(frame.data);
        expect(p.ok && Math.round(Number(p.frame.timeText) * 1e6)).toBeCloseTo(us, -1);
      }),
    );
  });
  test.each([
    ['hello', /no \(time\)/],
    ['(x) can0 7E8#00', /not a number of seconds/],
    ['(1.0) can0', /no interface and frame/],
    ['(1.0) can0 7E8', /no # between/],
    ['(1.0) can0 7E#00', /3 or 8 hex digits/],
    ['(1.0) can0 7E8#0', /pairs of hex digits/],
    ['(1.0) can0 7E8##000', /CAN FD/],
    ['(1.0) can0 7E8#R', /remote frame/],
    ['(1.0) can0 7E8#000102030405060708', /9 data bytes/],
  ])('%s is refused with a reason', (line, reason) => {
    const p = parseCandumpLine(line);
    expect(p.ok).toBe(false);
    expect(!p.ok && p.reason).toMatch(reason);
  });
  test('no text crashes it', () => {
    fc.assert(fc.property(fc.string(), (s) => expect(typeof parseCandumpLine(s).ok).toBe('boolean')));
  });
});

describe('slcan text', () => {
  test('a frame is a line', () => {
    expect(encodeSlcan({ id: 0x7df, extended: false, data: Uint8Array.of(2, 1, 0x0c) })).toBe('t7DF302010C\r');
  });
  test('frames survive any cutting of the stream', () => {
    fc.assert(
      fc.property(fc.array(anyFrame, { maxLength: 8 }), fc.array(fc.nat(60)), (frames, cuts) => {
        const text = frames.map(encodeSlcan).join('');
        const reader = new SlcanReader();
        const got: CanFrame[] = [];
        let at = 0;
        for (const c of [...cuts, text.length]) {
          for (const m of reader.feed(text.slice(at, at + c))) if (m.kind === 'frame') got.push(m.frame);
          at += c;
        }
        for (const m of reader.feed(text.slice(at))) if (m.kind === 'frame') got.push(m.frame);
        expect(got).toEqual(frames);
      }),
    );
  });
  test('acknowledgements, bells, rubbish and endless lines', () => {
    const reader = new SlcanReader();
    expect(reader.feed('\r')).toEqual([{ kind: 'ok', text: '' }]);
    expect(reader.feed('z\r\x07')).toEqual([{ kind: 'ok', text: 'z' }, { kind: 'error' }]);
    expect(reader.feed('tXYZ\r')).toEqual([{ kind: 'junk', text: 'tXYZ' }]);
    const endless = reader.feed(`${'9'.repeat(100_000)}\r`);
    expect(endless).toHaveLength(1);
    expect(endless[0]!.kind).toBe('junk');
    expect((endless[0] as { text: string }).text.length).toBeLessThan(64);
    expect(reader.feed('t7E8100\r')).toHaveLength(1);
  });
  test.each(['t7E8', `t7E89${'00'.repeat(9)}`, 't80010', 't7E82AA', 'T200000000', 'q'])('"%s" is no frame', (l) => {
    expect(decodeSlcanFrame(l)).toBeNull();
  });
  test('a timestamp after the data is ignored', () => {
    expect(decodeSlcanFrame('t7E81AA1234')?.data).toEqual(Uint8Array.of(0xaa));
  });
});

describe('ISO-TP (ISO 15765-2)', () => {
  const whole = (frames: Uint8Array[]) => {
    const r = new IsoTpReceiver();
    return frames.flatMap((f, i) => r.feed(f, i * 1000));
  };
  test('every message of 1 to 4,095 bytes comes through', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 1, maxLength: 4095 }), (payload) => {
        const messages = whole(segment(payload)).filter((x) => x.kind === 'message');
        expect(messages).toEqual([{ kind: 'message', payload }]);
      }),
      { numRuns: 40 },
    );
  });
  test('sequence numbers wrap after 15', () => {
    const frames = segment(new Uint8Array(200));
    expect(frames[16]![0]).toBe(0x20);
    expect(frames.every((f) => f.length === 8)).toBe(true);
  });
  test('too long or empty is refused', () => {
    expect(() => segment(new Uint8Array(4096))).toThrow(RangeError);
    expect(() => segment(new Uint8Array(0))).toThrow(RangeError);
  });
  const errorsOf = (frames: [Uint8Array, number][]) => {
    const r = new IsoTpReceiver(64);
    return frames.flatMap(([f, at]) => r.feed(f, at)).flatMap((x) => (x.kind === 'error' ? [x.error] : []));
  };
  const long = segment(new Uint8Array(30));
  test('a lost frame, a late frame, an early start, a stray and an oversize are each named', () => {
    expect(
      errorsOf([
        [long[0]!, 0],
        [long[2]!, 10],
      ]),
    ).toEqual(['sequence']);
    expect(
      errorsOf([
        [long[0]!, 0],
        [long[1]!, ISOTP_TIMEOUT_US + 1],
      ]),
    ).toEqual(['timeout', 'unexpected']);
    expect(
      errorsOf([
        [long[0]!, 0],
        [long[0]!, 5],
      ]),
    ).toEqual(['unexpected']);
    expect(errorsOf([[long[1]!, 0]])).toEqual(['unexpected']);
    expect(errorsOf([[segment(new Uint8Array(65))[0]!, 0]])).toEqual(['overflow']);
    expect(errorsOf([[Uint8Array.of(0x05, 1), 0]])).toEqual(['length']);
    expect(errorsOf([[new Uint8Array(0), 0]])).toEqual(['length']);
    expect(errorsOf([[Uint8Array.of(0x90), 0]])).toEqual(['unexpected']);
  });
  test('random frames never break it', () => {
    const r = new IsoTpReceiver();
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 8 }), fc.nat(2_000_000), (f, at) => {
        for (const x of r.feed(f, at)) expect(x.kind).toBeTruthy();
      }),
      { numRuns: 2000 },
    );
  });
  test('STmin byte (ISO 15765-2 table)', () => {
    expect(stMinUs(0x14)).toBe(20_000);
    expect(stMinUs(0xf3)).toBe(300);
    expect(stMinUs(0x80)).toBe(127_000);
  });
});
