import { type CanFrame, IsoTpReceiver, segment } from '@just-balance/core/can';
import type { Car } from '../car.ts';
import { answer, answerTransmission } from '../ecu/services.ts';

/** A frame and how long after the request it goes on the bus, µs. */
export interface DelayedFrame {
  frame: CanFrame;
  afterUs: number;
}

/** An ECU answers well inside the 50 ms that ISO 15765-4 allows (P2); real ones take 5–30 ms. Common practice. */
const ANSWER_US = 12_000;
/** Second unit a little later. */
const SECOND_US = 17_000;
/** Identity is fetched from slow memory: response pending first. ISO 14229-1 (from memory). */
const PENDING_US = 45_000;
const BUS_US = 300;

interface Unit {
  request: number;
  response: number;
  /** 29-bit pair. ISO 15765-4: 18DA<unit>F1 asks, 18DAF1<unit> answers. */
  request29: number;
  response29: number;
  afterUs: number;
  answer: (car: Car, request: Uint8Array, functional: boolean) => Uint8Array | null;
  receivers: Map<number, IsoTpReceiver>;
  waiting: { frames: Uint8Array[]; extended: boolean } | null;
}

const FUNCTIONAL = 0x7df;
const FUNCTIONAL_29 = 0x18db33f1;

/** The units on the bus: engine (7E0/7E8) and transmission (7E1/7E9), 11 and 29 bits, flow control respected. */
export class EcuPort {
  private readonly units: Unit[];

  constructor(private readonly car: Car) {
    const unit = (n: number, address: number, afterUs: number, reply: Unit['answer']): Unit => ({
      request: 0x7e0 + n,
      response: 0x7e8 + n,
      request29: (0x18da0000 | (address << 8) | 0xf1) >>> 0,
      response29: (0x18daf100 | address) >>> 0,
      afterUs,
      answer: reply,
      receivers: new Map(),
      waiting: null,
    });
    this.units = [unit(0, 0x10, ANSWER_US, answer), unit(1, 0x18, SECOND_US, answerTransmission)];
  }

  /** Take a frame from a tester at `atUs`; returns what the units put on the bus, and when. */
  receive(frame: CanFrame, atUs: number): DelayedFrame[] {
    if (!this.car.engine.state.keyOn || this.car.engine.state.cranking) return [];
    const functional = frame.id === (frame.extended ? FUNCTIONAL_29 : FUNCTIONAL);
    const out: DelayedFrame[] = [];
    for (const u of this.units) {
      const mine = frame.extended ? u.request29 : u.request;
      if (!functional && frame.id !== mine) continue;
      let receiver = u.receivers.get(frame.id);
      if (!receiver) {
        receiver = new IsoTpReceiver(64);
        u.receivers.set(frame.id, receiver);
      }
      for (const r of receiver.feed(frame.data, atUs)) {
        if (r.kind === 'message') out.push(...this.respond(u, r.payload, functional, frame.extended));
        else if (r.kind === 'flowControl' && !functional) out.push(...this.goOn(u, r.status, r.blockSize, r.stMinUs));
        else if (r.kind === 'flowControlDue' && !functional)
          out.push({
            frame: this.frame(u, Uint8Array.of(0x30, 0, 0, 0x55, 0x55, 0x55, 0x55, 0x55), frame.extended),
            afterUs: BUS_US,
          });
      }
    }
    return out;
  }

  private respond(u: Unit, request: Uint8Array, functional: boolean, extended: boolean): DelayedFrame[] {
    const payload = u.answer(this.car, request, functional);
    if (!payload) return [];
    const out: DelayedFrame[] = [];
    let afterUs = u.afterUs;
    if (payload[0] === 0x49 && payload[1] === 0x04) {
      out.push({ frame: this.frame(u, segment(Uint8Array.of(0x7f, request[0]!, 0x78))[0]!, extended), afterUs });
      afterUs += PENDING_US;
    }
    const [first, ...rest] = segment(payload);
    u.waiting = rest.length > 0 ? { frames: rest, extended } : null;
    out.push({ frame: this.frame(u, first!, extended), afterUs });
    return out;
  }

  private goOn(u: Unit, status: number, blockSize: number, spacingUs: number): DelayedFrame[] {
    if (!u.waiting || status === 1) return [];
    if (status !== 0) {
      u.waiting = null;
      return [];
    }
    const { frames, extended } = u.waiting;
    const now = frames.splice(0, blockSize === 0 ? frames.length : blockSize);
    if (frames.length === 0) u.waiting = null;
    const gap = Math.max(BUS_US, spacingUs);
    return now.map((data, i) => ({ frame: this.frame(u, data, extended), afterUs: BUS_US + i * gap }));
  }

  private frame(u: Unit, data: Uint8Array, extended: boolean): CanFrame {
    return { id: extended ? u.response29 : u.response, extended, data };
  }
}
