import { dtcBytes, encodeMonitors, encodePid, type Pid, pidRow, supportBitmap } from '@just-balance/core/obd';
import type { Car } from '../car.ts';
import { resultBytes } from './onBoardTests.ts';

/** Negative response codes. ISO 14229-1 (from memory). */
const SERVICE_NOT_SUPPORTED = 0x11;
const SUBFUNCTION_NOT_SUPPORTED = 0x12;
const CONDITIONS_NOT_CORRECT = 0x22;

const COMMON_PIDS = [
  0x01, 0x02, 0x04, 0x05, 0x0b, 0x0c, 0x0d, 0x0f, 0x11, 0x1c, 0x1f, 0x21, 0x2f, 0x30, 0x31, 0x33, 0x41, 0x42, 0x43,
  0x45, 0x46, 0x49, 0x4d, 0x4e, 0x51,
];
const PETROL_PIDS = [0x03, 0x06, 0x07, 0x0e, 0x13, 0x15, 0x3c, 0x44];

/** Service 01 PIDs of a car, in order. */
export function supportedBy(car: Car): number[] {
  const { spec } = car;
  const pids = [...COMMON_PIDS];
  const petrol = spec.fuel === 'petrol';
  if (petrol) pids.push(...PETROL_PIDS);
  if (petrol && spec.upstream === 'wide') pids.push(0x24, 0x34);
  if (petrol && spec.upstream === 'narrow') pids.push(0x14);
  if (petrol && spec.banks === 2) pids.push(0x08, 0x09, 0x19, ...(spec.upstream === 'wide' ? [0x28, 0x38] : [0x18]));
  if (spec.metering !== 'speed-density') pids.push(0x10);
  if (spec.railKPa <= 765) pids.push(0x0a);
  else pids.push(0x23);
  if (spec.ethanolCalibratedPct > 20) pids.push(0x52);
  return pids.sort((a, b) => a - b);
}

/**
 * Answer one request payload (service, parameters…). Null: stay silent, as a vehicle does for functional requests it
 * does not support. Physical requests get a negative response instead.
 */
export function answer(car: Car, request: Uint8Array, functional: boolean): Uint8Array | null {
  const service = request[0] ?? 0;
  const refuse = (nrc: number) => (functional ? null : Uint8Array.of(0x7f, service, nrc));
  switch (service) {
    case 0x01: {
      const supported = supportedBy(car);
      const out = [0x41];
      for (const pid of request.subarray(1)) {
        const data = currentData(car, pid, supported);
        if (data) out.push(pid, ...data);
      }
      return out.length > 1 ? Uint8Array.from(out) : refuse(SUBFUNCTION_NOT_SUPPORTED);
    }
    case 0x02:
      return freezeFrame(car, request, refuse(SUBFUNCTION_NOT_SUPPORTED));
    case 0x03:
      return codes(0x43, car.diagnostics.stored);
    case 0x07:
      return codes(0x47, car.diagnostics.pending);
    case 0x0a:
      return codes(0x4a, car.diagnostics.permanent);
    case 0x04:
      // Many vehicles clear only with the engine standing. Common practice.
      return car.clearCodes() ? Uint8Array.of(0x44) : Uint8Array.of(0x7f, 0x04, CONDITIONS_NOT_CORRECT);
    case 0x06:
      return onBoardTests(car, request[1] ?? 0) ?? refuse(SUBFUNCTION_NOT_SUPPORTED);
    case 0x09:
      return information(car, request[1] ?? 0) ?? refuse(SUBFUNCTION_NOT_SUPPORTED);
    default:
      return refuse(SERVICE_NOT_SUPPORTED);
  }
}

/** The transmission's unit: few parameters, no codes, no VIN. It shows that two units answer one question. */
export function answerTransmission(car: Car, request: Uint8Array, functional: boolean): Uint8Array | null {
  const service = request[0] ?? 0;
  const refuse = (nrc: number) => (functional ? null : Uint8Array.of(0x7f, service, nrc));
  const own = [0x01, 0x0d];
  if (service === 0x01) {
    const out = [0x41];
    for (const pid of request.subarray(1)) {
      if (pid === 0) out.push(0, ...u32(supportBitmap(0, own)));
      else if (pid === 0x01) out.push(1, 0, 0x04, 0, 0);
      else if (pid === 0x0d) out.push(0x0d, Math.round(car.engine.state.vssKmh));
    }
    return out.length > 1 ? Uint8Array.from(out) : refuse(SUBFUNCTION_NOT_SUPPORTED);
  }
  if (service === 0x03 || service === 0x07 || service === 0x0a) return Uint8Array.of(service + 0x40, 0);
  return refuse(SERVICE_NOT_SUPPORTED);
}

function u32(n: number): number[] {
  return [(n >>> 24) & 0xff, (n >>> 16) & 0xff, (n >>> 8) & 0xff, n & 0xff];
}

function currentData(
  car: Car,
  pid: number,
  supported: readonly number[],
): (ArrayLike<number> & Iterable<number>) | null {
  if (pid % 0x20 === 0) {
    if (pid > 0 && !supported.some((p) => p > pid)) return null;
    return u32(supportBitmap(pid, supported));
  }
  if (!supported.includes(pid)) return null;
  if (pid === 0x01) return encodeMonitors(car.diagnostics.status());
  if (pid === 0x41) {
    const bytes = encodeMonitors(car.diagnostics.status(true));
    bytes[0] = 0;
    return bytes;
  }
  if (pid === 0x02) {
    const b = car.diagnostics.freeze ? dtcBytes(car.diagnostics.freeze.code) : null;
    return b ?? [0, 0];
  }
  return encodePid(pidRow(pid) as Pid, car.values());
}

/** Frozen values of the frame the first code stored; 02 asks which code. */
function freezeFrame(car: Car, request: Uint8Array, refused: Uint8Array | null): Uint8Array | null {
  const pid = request[1] ?? 0;
  const frame = request[2] ?? 0;
  const freeze = car.diagnostics.freeze;
  if (frame !== 0) return refused;
  if (pid === 0x02) {
    const b = freeze ? dtcBytes(freeze.code) : null;
    return Uint8Array.of(0x42, 0x02, 0, ...(b ?? [0, 0]));
  }
  const frozen = FROZEN_PIDS.filter((p) => supportedBy(car).includes(p));
  if (!freeze) return refused;
  if (pid % 0x20 === 0) return Uint8Array.of(0x42, pid, 0, ...u32(supportBitmap(pid, [0x02, ...frozen])));
  if (!frozen.includes(pid)) return refused;
  return Uint8Array.of(0x42, pid, 0, ...encodePid(pidRow(pid) as Pid, freeze.values));
}

/** Monitor identifiers in groups of 32, then the rows of one. SAE J1979 (from memory). */
function onBoardTests(car: Car, monitor: number): Uint8Array | null {
  const { diagnostics } = car;
  if (monitor % 0x20 === 0) {
    const all = diagnostics.tests().map((r) => r.monitor);
    if (monitor > 0 && !all.some((m) => m > monitor)) return null;
    return Uint8Array.of(0x46, monitor, ...u32(supportBitmap(monitor, all)));
  }
  const rows = diagnostics.tests(monitor);
  return rows.length === 0 ? null : Uint8Array.of(0x46, ...rows.flatMap(resultBytes));
}

const FROZEN_PIDS = [0x03, 0x04, 0x05, 0x06, 0x07, 0x08, 0x09, 0x0b, 0x0c, 0x0d, 0x0f, 0x10, 0x11];

function codes(sid: number, set: ReadonlySet<string>): Uint8Array {
  const bytes = [...set].flatMap((c) => dtcBytes(c) ?? []);
  return Uint8Array.of(sid, set.size, ...bytes);
}

function information(car: Car, item: number): Uint8Array | null {
  const text = (s: string, size: number) =>
    Array.from({ length: size }, (_, i) => (i < s.length ? s.charCodeAt(i) : 0));
  switch (item) {
    case 0x00:
      return Uint8Array.of(0x49, 0x00, ...u32(supportBitmap(0, [0x02, 0x04, 0x0a])));
    case 0x02:
      return Uint8Array.of(0x49, 0x02, 1, ...text(car.spec.vin, 17));
    case 0x04:
      return Uint8Array.of(0x49, 0x04, 1, ...text(car.spec.calibrationId, 16));
    case 0x0a:
      return Uint8Array.of(0x49, 0x0a, 1, ...text('ECM-EngineControl', 20));
    default:
      return null;
  }
}
