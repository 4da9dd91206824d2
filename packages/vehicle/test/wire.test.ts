import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';
import { type CanFrame, fromHex, IsoTpReceiver, segment, toHex } from '@just-balance/core/can';
import { decodeResponse, isVin, supportedPids, vinCheckDigit } from '@just-balance/core/obd';
import { Car, carById, type Degradation, degrade, EcuPort, FLEET, SlcanPort, SOUND } from '../src/index.ts';

function ask(car: Car, hex: string, id = 0x7e0): string[] {
  const port = new EcuPort(car);
  const request: CanFrame = { id, extended: false, data: segment(fromHex(hex.replaceAll(' ', ''))!)[0]! };
  return port
    .receive(request, 0)
    .filter((f) => f.frame.id === 0x7e8)
    .map((f) => toHex(f.frame.data));
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
      port.receive({ id: 0x7e0, extended: false, data: fromHex(hex)! }, 0).map((f) => toHex(f.frame.data));
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

describe('the bus', () => {
  const bus = (frame: CanFrame, car = running()) =>
    new EcuPort(car).receive(frame, 0).map((f) => [f.frame.id, toHex(f.frame.data).slice(0, 8), f.afterUs] as const);
  const single = (id: number, hex: string, extended = false): CanFrame => ({
    id,
    extended,
    data: segment(fromHex(hex)!)[0]!,
  });
  test('two units answer a functional question, each with its own identifier', () => {
    expect(bus(single(0x7df, '0100')).map((f) => f[0])).toEqual([0x7e8, 0x7e9]);
    expect(bus(single(0x7e1, '010D')).map((f) => f[0])).toEqual([0x7e9]);
    expect(bus(single(0x7df, '010C')).map((f) => f[0])).toEqual([0x7e8]);
  });
  test('29-bit identifiers (ISO 15765-4: 18DB33F1, 18DA10F1, 18DAF110)', () => {
    expect(bus(single(0x18db33f1, '0100', true)).map((f) => f[0])).toEqual([0x18daf110, 0x18daf118]);
    expect(bus(single(0x18da10f1, '010C', true)).map((f) => f[0])).toEqual([0x18daf110]);
    expect(bus(single(0x18da20f1, '010C', true))).toEqual([]);
  });
  test('answers come inside 50 ms (ISO 15765-4 P2); slow identity says response pending first', () => {
    for (const f of bus(single(0x7df, '0100'))) expect(f[2]).toBeLessThan(50_000);
    const slow = bus(single(0x7e0, '0904'));
    expect(slow[0]![1]).toBe('037F0978');
    expect(slow[1]![2]).toBeGreaterThan(50_000);
  });
  test('flow control: block size, STmin, wait, overflow', () => {
    const car = running();
    const port = new EcuPort(car);
    const ask = () => port.receive(single(0x7e0, '0902'), 0);
    const flow = (hex: string) => port.receive({ id: 0x7e0, extended: false, data: fromHex(hex)! }, 0);
    ask();
    expect(flow('3100005555555555')).toEqual([]);
    const spaced = flow('3000145555555555');
    expect(spaced).toHaveLength(2);
    expect(spaced[1]!.afterUs - spaced[0]!.afterUs).toBe(20_000);
    ask();
    expect(flow('3200005555555555')).toEqual([]);
    expect(flow('3000005555555555')).toEqual([]);
  });
  test('clearing: refused while running, then wipes codes, monitors and trims but not the permanent codes', () => {
    const car = new Car(carById('quillon-18'), { baroKPa: 99, airC: 18 }, 1);
    car.inject({ id: 'vac-leak', severity: 0.7 });
    for (let trip = 0; trip < 2; trip++) {
      car.stop(false);
      car.start();
      car.warmUp();
      car.do({ do: 'idle' }, 180);
    }
    expect([...car.diagnostics.stored]).toEqual(['P0171']);
    expect(ask(car, '04')[0]!.slice(0, 8)).toBe('037F0422');
    car.stop(true);
    expect(ask(car, '04')[0]!.slice(0, 4)).toBe('0144');
    expect(car.diagnostics.stored.size + car.diagnostics.pending.size).toBe(0);
    expect([...car.diagnostics.permanent]).toEqual(['P0171']);
    expect(car.diagnostics.freeze).toBeNull();
    expect(car.diagnostics.status().monitors.find((m) => m.id === 'catalyst')!.state).toBe('incomplete');
    expect(car.control.trims[0].long[0]).toBe(0);
    expect(car.values().distanceClear).toBe(0);
  });
  test('a bad link drops and corrupts as often as it says, the same way every time', () => {
    const bad: Degradation = { dropShare: 0.2, corruptShare: 0.1, delayMs: 30, brownOut: false };
    const frame = single(0x7e8, '410C0BB8');
    const runs = () => Array.from({ length: 4000 }, (_, i) => degrade(frame, bad, 7, i));
    const got = runs();
    expect(Math.abs(got.filter((g) => g === null).length / 4000 - 0.2)).toBeLessThan(0.04);
    const changed = got.filter((g) => g !== null && toHex(g.frame.data) !== toHex(frame.data)).length;
    expect(Math.abs(changed / 4000 - 0.08)).toBeLessThan(0.03);
    expect(Math.max(...got.map((g) => g?.delayMs ?? 0))).toBeLessThanOrEqual(30);
    expect(runs()).toEqual(got);
    expect(degrade(frame, SOUND, 7, 1)).toEqual({ frame, delayMs: 0 });
  });
});

test("an independent CAN library's slcan client, replayed from its recorded bytes, is answered right", () => {
  const bytes = readFileSync(join(__dirname, 'golden/slcan-client.txt'), 'utf8').split('\n')[1]!.replaceAll('|', '\r');
  const car = running();
  const ecu = new EcuPort(car);
  const received: CanFrame[] = [];
  const replies: string[] = [];
  const port = new SlcanPort(
    (t) => replies.push(t),
    (frame) => {
      for (const { frame: f } of ecu.receive(frame, 0)) {
        received.push(f);
        port.deliver(f);
      }
    },
  );
  port.feed(bytes);
  expect(replies.filter((r) => r === '\x07')).toHaveLength(1);
  const receiver = new IsoTpReceiver();
  const values = received
    .filter((f) => f.id === 0x7e8)
    .flatMap((f) => receiver.feed(f.data, 0))
    .flatMap((r) => (r.kind === 'message' ? decodeResponse(r.payload) : []));
  expect(values.map((v) => v.name)).toEqual(['supported00', 'rpm', 'stft1', 'vin']);
  expect(values[3]!.value).toBe(car.spec.vin);
  expect(Math.abs(Number(values[1]!.value) - car.spec.idleRpm)).toBeLessThan(40);
});

test('the fleet is invented: a manufacturer code nobody holds, a right check digit', () => {
  for (const c of FLEET) {
    expect(isVin(c.vin)).toBe(true);
    expect(c.vin.startsWith('ZZZ')).toBe(true);
    expect(vinCheckDigit(c.vin)).toBe(c.vin[8]);
  }
});
