import { describe, expect, test } from '@jest/globals';
import { type CanFrame, fromHex, segment, toHex } from '@just-balance/core/can';
import { decodeResponse, isVin, supportedPids, vinCheckDigit } from '@just-balance/core/obd';
import { Car, carById, EcuPort, FLEET, SlcanPort } from '../src/index.ts';

function ask(car: Car, hex: string, id = 0x7e0): string[] {
  const port = new EcuPort(car);
  const request: CanFrame = { id, extended: false, data: segment(fromHex(hex.replaceAll(' ', ''))!)[0]! };
  return port.receive(request, 0).map((f) => toHex(f.data));
}
const running = (id = 'quillon-18') => {
  const car = new Car(carById(id), { baroKPa: 99, airC: 18 }, 1);
  car.start();
  car.warmUp();
  car.run(30);
  return car;
};

describe('slcan as a client expects it', () => {
  const client = () => {
    const replies: string[] = [];
    const sent: CanFrame[] = [];
    const port = new SlcanPort(
      (t) => replies.push(t),
      (f) => sent.push(f),
    );
    return { port, replies, sent };
  };
  test('the opening of a general-purpose CAN library: C, S6, O, O', () => {
    const { port, replies } = client();
    port.feed('C\rS6\rO\rO\r');
    expect(replies).toEqual(['\r', '\r', '\r', '\x07']);
  });
  test('frames only while open, acknowledged, in any segmentation', () => {
    const { port, replies, sent } = client();
    port.feed('t7DF802010C0000000000\r');
    expect(replies).toEqual(['\x07']);
    port.feed('O\rt7D');
    port.feed('F802010C000');
    port.feed('0000000\rT18DB33F1101\r');
    expect(replies).toEqual(['\x07', '\r', 'z\r', 'Z\r']);
    expect(sent.map((f) => [f.id, f.extended])).toEqual([
      [0x7df, false],
      [0x18db33f1, true],
    ]);
    port.deliver({ id: 0x7e8, extended: false, data: Uint8Array.of(1, 2) });
    expect(replies.at(-1)).toBe('t7E820102\r');
    port.feed('C\r');
    port.deliver({ id: 0x7e8, extended: false, data: Uint8Array.of(1, 2) });
    expect(replies.at(-1)).toBe('\r');
  });
  test('version, serial, unknown commands', () => {
    const { port, replies } = client();
    port.feed('V\rN\rq\rS9\r');
    expect(replies).toEqual(['V0100\r', 'NJB01\r', '\x07', '\x07']);
  });
});

describe('J1979 services of the simulated car', () => {
  test('every PID it says it supports it answers, and only those', () => {
    for (const spec of FLEET) {
      const car = running(spec.id);
      const said = [0x00, 0x20, 0x40].flatMap((base) => {
        const frame = ask(car, `01 ${base.toString(16).padStart(2, '0')}`)[0]!;
        return supportedPids(base, Number.parseInt(frame.slice(6, 14), 16));
      });
      for (const pid of said) {
        const frames = ask(car, `01 ${pid.toString(16).padStart(2, '0')}`);
        expect(frames.length).toBeGreaterThan(0);
        expect(frames[0]!.slice(2, 4)).toBe('41');
      }
      expect(ask(car, '01 7F')[0]!.slice(0, 8)).toBe('037F0112');
    }
  });
  test('functional requests for what it has not stay silent; physical ones are refused', () => {
    const car = running();
    expect(ask(car, '01 FE', 0x7df)).toEqual([]);
    expect(ask(car, '22 F1 90', 0x7df)).toEqual([]);
    expect(ask(car, '22 F1 90')[0]!.slice(0, 8)).toBe('037F2211');
  });
  test('several parameters in one request', () => {
    const payload = fromHex(ask(running(), '01 0C 0B')[0]!)!.subarray(1, 8);
    expect(decodeResponse(payload.subarray(0, 6)).map((d) => d.name)).toEqual(['rpm', 'map']);
  });
  test('a VIN over three frames with flow control', () => {
    const car = running();
    const port = new EcuPort(car);
    const send = (hex: string) =>
      port.receive({ id: 0x7e0, extended: false, data: fromHex(hex)! }, 0).map((f) => toHex(f.data));
    const first = send('0209025555555555');
    expect(first).toHaveLength(1);
    expect(first[0]!.slice(0, 4)).toBe('1014');
    expect(send('3001005555555555')).toHaveLength(1);
    expect(send('3000005555555555')).toHaveLength(1);
  });
  test('no key, no answer', () => {
    const car = running();
    car.stop(false);
    expect(ask(car, '01 0C')).toEqual([]);
    car.stop(true);
    expect(decodeResponse(fromHex(ask(car, '01 0C')[0]!)!.subarray(1, 5))[0]).toMatchObject({ name: 'rpm' });
  });
});

test('the fleet is invented: a manufacturer code nobody holds, a right check digit', () => {
  for (const c of FLEET) {
    expect(isVin(c.vin)).toBe(true);
    expect(c.vin.startsWith('ZZZ')).toBe(true);
    expect(vinCheckDigit(c.vin)).toBe(c.vin[8]);
  }
});
