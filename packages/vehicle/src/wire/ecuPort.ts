import { type CanFrame, IsoTpReceiver, segment } from '@just-balance/core/can';
import type { Car } from '../car.ts';
import { answer } from '../ecu/services.ts';

const FUNCTIONAL_ID = 0x7df;
const REQUEST_ID = 0x7e0;
const RESPONSE_ID = 0x7e8;

/** The engine ECU on the bus: request frames in, response frames out, flow control respected. */
export class EcuPort {
  private readonly physical = new IsoTpReceiver(64);
  private readonly functional = new IsoTpReceiver(64);
  private waiting: Uint8Array[] = [];

  constructor(private readonly car: Car) {}

  /** Take a frame from a tester at `atUs`; returns the frames the ECU puts on the bus. */
  receive(frame: CanFrame, atUs: number): CanFrame[] {
    if (frame.extended || !this.car.engine.state.keyOn) return [];
    if (frame.id !== FUNCTIONAL_ID && frame.id !== REQUEST_ID) return [];
    const isFunctional = frame.id === FUNCTIONAL_ID;
    const out: CanFrame[] = [];
    for (const r of (isFunctional ? this.functional : this.physical).feed(frame.data, atUs)) {
      if (r.kind === 'message') out.push(...this.respond(r.payload, isFunctional));
      else if (r.kind === 'flowControl' && !isFunctional) out.push(...this.continueSending(r.status, r.blockSize));
    }
    return out;
  }

  private respond(request: Uint8Array, functional: boolean): CanFrame[] {
    const payload = answer(this.car, request, functional);
    if (!payload) return [];
    const [first, ...rest] = segment(payload);
    this.waiting = rest;
    return [frame(first!)];
  }

  private continueSending(status: number, blockSize: number): CanFrame[] {
    if (status === 2) this.waiting = [];
    if (status !== 0) return [];
    return this.waiting.splice(0, blockSize === 0 ? this.waiting.length : blockSize).map(frame);
  }
}

function frame(data: Uint8Array): CanFrame {
  return { id: RESPONSE_ID, extended: false, data };
}
