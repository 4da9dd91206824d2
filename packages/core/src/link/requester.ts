import {
  encodeSlcan,
  flowControlFrame,
  IsoTpReceiver,
  idText,
  SLCAN_500K,
  SlcanReader,
  segment,
  toHex,
} from '../can/index.ts';
import { type Decoded, decodeResponse, supportedPids } from '../obd/index.ts';
import { PIDS_PER_REQUEST, type PollingPlan, planRequests } from './plan.ts';

/**
 * Asking a vehicle, as a pure state machine: bytes and time go in, bytes and samples come out.
 * Sockets and serial ports are thin shells around `step`.
 */
export type LinkEvent =
  | { kind: 'opened'; atUs: number }
  | { kind: 'bytes'; text: string; atUs: number }
  | { kind: 'tick'; atUs: number }
  | { kind: 'plan'; plan: PollingPlan | null; atUs: number }
  /**
   * One question outside the plan, e.g. stored codes; answered by `answers`. To all units, or to the engine's alone: it
   * answers at once, and says no where it does not know.
   */
  | { kind: 'ask'; id: number; payload: readonly number[]; engineOnly?: boolean; atUs: number }
  /** Clear codes and what goes with them (service 04): from a step that a person has confirmed, and from nowhere else. */
  | { kind: 'clear'; id: number; atUs: number };

/** A figure of a channel at a moment, µs of the link's clock. */
export interface Sample {
  channel: string;
  atUs: number;
  value: number | string;
}

/** What one unit answered: its identifier and the bytes after the service. */
export interface Answer {
  ecu: string;
  payload: Uint8Array;
  decoded: Decoded[];
}

/** Where a conversation stands. */
export type LinkState = 'opening' | 'discovering' | 'ready' | 'silent';

/** What whoever holds the port is to do. */
export type LinkAction =
  | { kind: 'send'; text: string }
  | { kind: 'samples'; samples: Sample[] }
  | { kind: 'answers'; id: number; answers: Answer[] }
  | { kind: 'refused'; id: number; reason: string }
  | { kind: 'state'; state: LinkState; detail: string }
  | { kind: 'noise'; detail: string };

/** Services the link may send when asked. 04 (clear) is deliberately absent: it has an event of its own, for a confirmed step. */
export const ALLOWED_SERVICES: ReadonlySet<number> = new Set([0x01, 0x02, 0x03, 0x06, 0x07, 0x09, 0x0a]);

const CLEAR_SERVICE = 0x04;
const FUNCTIONAL_ID = 0x7df;
const FIRST_REQUEST_ID = 0x7e0;
const RESPONSE_OFFSET = 8;
/** Wait for the first answer; the standard's P2 is 50 ms, the rest is for the adapter and the network. [house] */
const ANSWER_WAIT_US = 250_000;
/** Nothing else is asked before a late answer had this long to come: it would be taken for the next one's. [house] */
const LATE_WAIT_US = 500_000;
/** A first frame this long after a question that nobody answered may be its answer still. [house] */
const STALE_US = 2_000_000;
/** After the last frame of a functional question, how long further ECUs may take. [house] */
const QUIET_US = 60_000;
/** Response pending (7F xx 78) stretches the wait. ISO 14229 P2*, from memory. */
const PENDING_WAIT_US = 5_000_000;
/** Unanswered in a row: from here several parameters a request are given up, from there the vehicle counts as silent. [house] */
const TIMEOUTS_TO_SINGLE = 2;
const TIMEOUTS_TO_SILENT = 3;
/** How often a question outside the plan is put before silence counts as its answer; clearing is put once. [house] */
const TRIES = 2;
const RETRY_SILENT_US = 1_000_000;
const ADAPTER_SETTLE_US = 20_000;
/** Multi-frame answers taken to one question: eight units, each once again. A flood of first frames gets no more. [house] */
const MAX_FLOW_CONTROLS = 16;
/** Answers taken to one question, and how long it may be stretched in all. [house] */
const MAX_ANSWERS = 64;
const LONGEST_US = 30_000_000;
/** Complaints about the adapter told in one step. [house] */
const MAX_NOISE = 20;

interface Pending {
  kind: 'discover' | 'poll' | 'ask';
  id: number;
  pids: number[];
  functional: boolean;
  service: number;
  /** How often it has been put, with this one. */
  tries: number;
  deadlineUs: number;
  answers: Answer[];
  flowControls: number;
  /** No wait goes past this. */
  lastUs: number;
  /** Its time is over; what comes now still counts, since nothing else has been asked. */
  late: boolean;
}

/** Services whose answer repeats what was asked for: the byte after the service. */
const ECHOES: ReadonlySet<number> = new Set([0x01, 0x02, 0x06, 0x09]);
/** A negative answer (ISO 14229-1). */
const NEGATIVE = 0x7f;

/**
 * Asks a vehicle over an slcan adapter: discovery, polling, single questions (ISO 15765-4, SAE J1979). Given events
 * with their time, gives back actions; keeps no clock of its own.
 */
export class Requester {
  state: LinkState = 'opening';
  /** Supported service 01 PIDs of the engine ECU. */
  readonly supported = new Set<number>();
  private readonly reader = new SlcanReader();
  private readonly receivers = new Map<number, IsoTpReceiver>();
  private readonly asks: { id: number; payload: readonly number[]; functional: boolean; tries: number }[] = [];
  private pending: Pending | null = null;
  private engineEcu: number | null = null;
  private plan: PollingPlan | null = null;
  private fast: number[][] = [];
  private slow: number[][] = [];
  private fastAt = 0;
  private slowAt = 0;
  private perRequest = PIDS_PER_REQUEST;
  private timeouts = 0;
  private wakeUs = 0;
  private nextDiscover = 0;
  private noise = 0;
  /** Long answers that may still come to a question that was given up, by unit: until when. */
  private readonly stale = new Map<number, number>();

  step(event: LinkEvent): LinkAction[] {
    const out: LinkAction[] = [];
    switch (event.kind) {
      case 'opened':
        this.pending = null;
        this.receivers.clear();
        this.stale.clear();
        this.timeouts = 0;
        this.nextDiscover = 0;
        out.push({ kind: 'send', text: `C\r${SLCAN_500K}\rO\r` });
        this.wakeUs = event.atUs + ADAPTER_SETTLE_US;
        this.enter('discovering', 'adapter open, asking the vehicle', out);
        break;
      case 'plan':
        this.plan = event.plan;
        this.buildGroups();
        break;
      case 'ask': {
        const service = event.payload[0] ?? -1;
        if (!ALLOWED_SERVICES.has(service) || event.payload.length > 7) {
          out.push({
            kind: 'refused',
            id: event.id,
            reason: `service ${toHex([service & 0xff])} is not on the list of services the link sends`,
          });
        } else this.asks.push({ id: event.id, payload: event.payload, functional: !event.engineOnly, tries: 0 });
        break;
      }
      case 'clear':
        this.asks.push({ id: event.id, payload: [CLEAR_SERVICE], functional: true, tries: TRIES });
        break;
      case 'bytes':
        this.noise = 0;
        for (const m of this.reader.feed(event.text)) {
          if (m.kind === 'frame' && !m.frame.extended) this.onFrame(m.frame.id, m.frame.data, event.atUs, out);
          else if (m.kind === 'junk') this.complain(`unreadable line from the adapter: ${m.text.slice(0, 40)}`, out);
          else if (m.kind === 'error') this.complain('the adapter refused a command', out);
        }
        break;
      case 'tick':
        break;
    }
    this.advance(event.atUs, out);
    return out;
  }

  private complain(detail: string, out: LinkAction[]) {
    if (this.noise++ < MAX_NOISE) out.push({ kind: 'noise', detail });
  }

  /** A frame counts only from the unit asked, and as part of an answer to what was asked of it. */
  private onFrame(id: number, data: Uint8Array, atUs: number, out: LinkAction[]) {
    if (id < FIRST_REQUEST_ID + RESPONSE_OFFSET || id > FIRST_REQUEST_ID + 2 * RESPONSE_OFFSET - 1) return;
    const p = this.pending;
    const setAside = (why: string) => {
      this.receivers.delete(id);
      this.complain(`${idText(id)}: set aside: ${why}`, out);
    };
    if (!p) return setAside('nothing was asked');
    if (!p.functional && id !== this.askedUnit()) return setAside('another unit was asked');
    const begins = beginOf(data);
    if (begins) {
      if (!answers(p, begins.payload)) return setAside('not what was asked for');
      const until = this.stale.get(id) ?? 0;
      if (begins.long && atUs < until) {
        this.stale.delete(id);
        return setAside('late: it answers a question that was given up');
      }
    }
    let receiver = this.receivers.get(id);
    if (!receiver) {
      receiver = new IsoTpReceiver();
      this.receivers.set(id, receiver);
    }
    for (const r of receiver.feed(data, atUs)) {
      if (r.kind === 'flowControlDue') {
        // Far more comes than was asked for: the message is not taken.
        if (p.flowControls++ >= MAX_FLOW_CONTROLS) {
          setAside('a multi-frame message nobody asked for');
          continue;
        }
        out.push({
          kind: 'send',
          text: encodeSlcan({ id: id - RESPONSE_OFFSET, extended: false, data: flowControlFrame() }),
        });
        this.stretch(p, atUs + ANSWER_WAIT_US);
      } else if (r.kind === 'error') this.complain(`${idText(id)}: ${r.error}: ${r.detail}`, out);
      else if (r.kind === 'message') this.onMessage(p, id, r.payload, atUs, out);
    }
  }

  private onMessage(p: Pending, id: number, payload: Uint8Array, atUs: number, out: LinkAction[]) {
    if (p !== this.pending || !answers(p, payload)) return;
    if (payload[0] === NEGATIVE && payload[2] === 0x78) {
      this.stretch(p, atUs + PENDING_WAIT_US);
      return;
    }
    this.timeouts = 0;
    p.answers.push({ ecu: idText(id), payload, decoded: decodeResponse(payload) });
    if (p.functional && p.answers.length < MAX_ANSWERS) this.stretch(p, atUs + QUIET_US);
    else this.finish(p, atUs, out);
  }

  /** The unit that a question goes to which is not for all. */
  private askedUnit(): number {
    return this.engineEcu ?? FIRST_REQUEST_ID + RESPONSE_OFFSET;
  }

  private stretch(p: Pending, untilUs: number) {
    p.deadlineUs = Math.min(untilUs, p.lastUs);
  }

  /** Send what is due when nothing is outstanding; give up on what took too long. */
  private advance(atUs: number, out: LinkAction[]) {
    const p = this.pending;
    if (p) {
      if (atUs < p.deadlineUs) return;
      if (p.answers.length > 0) this.finish(p, atUs, out);
      else if (!p.late && p.kind !== 'discover') {
        p.late = true;
        this.stretch(p, atUs + LATE_WAIT_US);
        if (atUs < p.deadlineUs) return;
        this.timedOut(p, atUs, out);
      } else this.timedOut(p, atUs, out);
    }
    if (this.pending || this.state === 'opening' || atUs < this.wakeUs) return;
    if (this.state === 'discovering' || this.state === 'silent') {
      this.send(
        { kind: 'discover', id: -1, pids: [this.nextDiscover], functional: true, service: 1, tries: 1 },
        atUs,
        out,
      );
      return;
    }
    const ask = this.asks.shift();
    if (ask) {
      const [service, ...rest] = ask.payload;
      const tries = ask.tries + 1;
      this.send(
        { kind: 'ask', id: ask.id, pids: rest, functional: ask.functional, service: service!, tries },
        atUs,
        out,
      );
      return;
    }
    const group = this.nextGroup();
    if (group) this.send({ kind: 'poll', id: -1, pids: group, functional: false, service: 1, tries: 1 }, atUs, out);
  }

  private send(
    p: Omit<Pending, 'deadlineUs' | 'answers' | 'flowControls' | 'lastUs' | 'late'>,
    atUs: number,
    out: LinkAction[],
  ) {
    const deadlineUs = atUs + ANSWER_WAIT_US;
    // What is still open of an answer before belongs to no question any more.
    this.receivers.clear();
    this.pending = { ...p, deadlineUs, answers: [], flowControls: 0, lastUs: atUs + LONGEST_US, late: false };
    const id = p.functional ? FUNCTIONAL_ID : this.askedUnit() - RESPONSE_OFFSET;
    const data = segment(Uint8Array.from([p.service, ...p.pids]))[0]!;
    out.push({ kind: 'send', text: encodeSlcan({ id, extended: false, data }) });
  }

  private finish(p: Pending, atUs: number, out: LinkAction[]) {
    this.pending = null;
    if (p.kind === 'ask') out.push({ kind: 'answers', id: p.id, answers: p.answers });
    else if (p.kind === 'discover') this.discovered(p, out);
    else {
      const samples: Sample[] = [];
      for (const a of p.answers) {
        for (const d of a.decoded) {
          if (d.name === 'negativeResponse' && this.perRequest > 1) this.oneByOne();
          else if (d.name !== 'raw' && d.name !== 'negativeResponse' && d.pid !== null && p.pids.includes(d.pid))
            samples.push({ channel: d.name, atUs, value: d.value });
        }
      }
      if (samples.length > 0) out.push({ kind: 'samples', samples });
    }
  }

  private discovered(p: Pending, out: LinkAction[]) {
    const base = p.pids[0]!;
    let more = false;
    for (const a of p.answers) {
      if (a.payload[0] !== 0x41 || a.payload.length < 6) continue;
      const bitmap = new DataView(a.payload.buffer, a.payload.byteOffset).getUint32(2);
      const pids = supportedPids(base, bitmap);
      const id = Number.parseInt(a.ecu, 16);
      if (base === 0 && pids.includes(0x0c) && this.engineEcu === null) this.engineEcu = id;
      if (id !== this.engineEcu) continue;
      for (const q of pids) this.supported.add(q);
      more ||= pids.includes(base + 0x20);
    }
    if (this.engineEcu === null) {
      this.enter('silent', 'something answers, but no engine control unit', out);
      return;
    }
    if (more && base < 0xa0) {
      this.nextDiscover = base + 0x20;
      return;
    }
    this.nextDiscover = 0;
    this.buildGroups();
    this.enter('ready', `${this.supported.size} parameters on ${idText(this.engineEcu)}`, out);
  }

  private timedOut(p: Pending, atUs: number, out: LinkAction[]) {
    this.pending = null;
    this.timeouts++;
    if (!p.functional) this.stale.set(this.askedUnit(), atUs + STALE_US);
    if (p.kind === 'ask') {
      // One lost frame must not read as "no codes".
      if (p.tries < TRIES) {
        const { id, functional, tries } = p;
        this.asks.unshift({ id, payload: [p.service, ...p.pids], functional, tries });
      } else out.push({ kind: 'answers', id: p.id, answers: [] });
    }
    if (p.kind === 'poll' && p.pids.length > 1 && this.timeouts === TIMEOUTS_TO_SINGLE) this.oneByOne();
    if (p.kind === 'discover' || this.timeouts >= TIMEOUTS_TO_SILENT) {
      this.nextDiscover = 0;
      this.wakeUs = atUs + RETRY_SILENT_US;
      this.enter('silent', 'the vehicle does not answer: key on? trying again every second', out);
    }
  }

  private oneByOne() {
    this.perRequest = 1;
    this.buildGroups();
  }

  private buildGroups() {
    if (!this.plan) {
      this.fast = [];
      this.slow = [];
      return;
    }
    const g = planRequests(this.plan, this.supported, this.perRequest);
    this.fast = g.fast;
    this.slow = g.slow;
    this.fastAt = 0;
    this.slowAt = 0;
  }

  /** Every fast group, then one slow group, and round again. */
  private nextGroup(): number[] | null {
    if (this.fastAt < this.fast.length) return this.fast[this.fastAt++]!;
    this.fastAt = 0;
    if (this.slow.length > 0) {
      const g = this.slow[this.slowAt % this.slow.length]!;
      this.slowAt++;
      return g;
    }
    return this.fast.length > 0 ? this.fast[this.fastAt++]! : null;
  }

  private enter(state: LinkState, detail: string, out: LinkAction[]) {
    if (this.state === state) return;
    this.state = state;
    out.push({ kind: 'state', state, detail });
  }
}

/** What a frame begins: a whole short answer, or the head of a long one; null for what goes on with one. */
function beginOf(data: Uint8Array): { payload: Uint8Array; long: boolean } | null {
  const type = (data[0] ?? 0xff) >> 4;
  if (type === 0) return { payload: data.subarray(1), long: false };
  return type === 1 ? { payload: data.subarray(2), long: true } : null;
}

/** Whether a payload answers a question: its service, and one of the parameters that were asked for. */
function answers({ service, pids }: Pick<Pending, 'service' | 'pids'>, payload: Uint8Array): boolean {
  if (payload[0] === NEGATIVE) return payload[1] === service;
  if (payload[0] !== service + 0x40) return false;
  return !ECHOES.has(service) || pids.length === 0 || pids.includes(payload[1] ?? -1);
}
