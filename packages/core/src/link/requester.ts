import {
  type CanFrame,
  encodeSlcan,
  flowControlFrame,
  IsoTpReceiver,
  idText,
  SLCAN_500K,
  SlcanReader,
  segment,
  toHex,
} from '../can/index.ts';
import { type Decoded, decodeResponse } from '../obd/index.ts';
import { Discovery } from './discovery.ts';
import type { PollingPlan } from './plan.ts';
import { type Apart, Rounds } from './rounds.ts';

/**
 * Asking a vehicle, as a pure state machine: bytes and time go in, bytes and samples come out.
 * Sockets and serial ports are thin shells around `step`.
 */
export type LinkEvent =
  | { kind: 'opened'; atUs: number }
  | { kind: 'bytes'; text: string; atUs: number }
  | { kind: 'tick'; atUs: number }
  | { kind: 'plan'; plan: PollingPlan | null; atUs: number }
  /** The unit that is to be asked as the engine's, by the identifier of its answers; null: it is found. */
  | { kind: 'engine'; unit: number | null; atUs: number }
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

/** A unit that answers on the bus: its identifier, what it has, and whether it is the one that is asked. */
export interface FoundUnit {
  ecu: string;
  parameters: number;
  engine: boolean;
}

/** Where a conversation stands. */
export type LinkState = 'opening' | 'discovering' | 'ready' | 'silent';

/** What whoever holds the port is to do. */
export type LinkAction =
  | { kind: 'send'; text: string }
  | { kind: 'samples'; samples: Sample[] }
  | { kind: 'answers'; id: number; answers: Answer[] }
  | { kind: 'refused'; id: number; reason: string }
  | { kind: 'state'; state: LinkState; detail: string; units: readonly FoundUnit[] }
  /** Frames that came in, whoever they are of and whether they count. */
  | { kind: 'heard'; frames: readonly CanFrame[] }
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
/** Unanswered in a row, the vehicle counts as silent. [house] */
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
/** Units and reasons that are told apart: eight units, four reasons. */
const MAX_REASONS = 32;

interface Pending {
  kind: 'discover' | 'poll' | 'ask';
  id: number;
  pids: readonly number[];
  /** The unit that is asked; null: all of them. */
  unit: number | null;
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

const WHY_APART: Readonly<Record<Apart, string>> = {
  refused: 'some asked one at a time: several in one question were refused',
  unanswered: 'some asked one at a time: several in one question were not answered',
};

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
  /** Frames that did not count, by unit and reason. */
  readonly setAside = new Map<string, number>();
  private readonly reader = new SlcanReader();
  private readonly receivers = new Map<number, IsoTpReceiver>();
  private readonly asks: { id: number; payload: readonly number[]; functional: boolean; tries: number }[] = [];
  private pending: Pending | null = null;
  private engineEcu: number | null = null;
  /** The unit a person has said to be the engine's; null: it is found. */
  private chosen: number | null = null;
  private plan: PollingPlan | null = null;
  private rounds: Rounds | null = null;
  /** Why parameters are asked one at a time, as it was told last. */
  private apart: Apart | null = null;
  private timeouts = 0;
  private wakeUs = 0;
  private discovery = new Discovery();
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
        this.discovery = new Discovery();
        out.push({ kind: 'send', text: `C\r${SLCAN_500K}\rO\r` });
        this.wakeUs = event.atUs + ADAPTER_SETTLE_US;
        this.enter('discovering', 'adapter open, asking the vehicle', out);
        break;
      case 'plan':
        this.plan = event.plan;
        this.beginRounds();
        break;
      case 'engine':
        this.chosen = event.unit;
        if (this.state === 'ready') this.chooseEngine(out);
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
        this.hear(event.text, event.atUs, out);
        break;
      case 'tick':
        break;
    }
    this.advance(event.atUs, out);
    return out;
  }

  private hear(text: string, atUs: number, out: LinkAction[]) {
    const frames: CanFrame[] = [];
    for (const m of this.reader.feed(text)) {
      if (m.kind === 'frame') frames.push(m.frame);
      if (m.kind === 'frame' && !m.frame.extended) this.onFrame(m.frame.id, m.frame.data, atUs, out);
      else if (m.kind === 'junk') this.complain(`unreadable line from the adapter: ${m.text.slice(0, 40)}`, out);
      else if (m.kind === 'error') this.complain('the adapter refused a command', out);
    }
    if (frames.length > 0) out.push({ kind: 'heard', frames });
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
      const key = `${idText(id)}: ${why}`;
      if (this.setAside.has(key) || this.setAside.size < MAX_REASONS)
        this.setAside.set(key, (this.setAside.get(key) ?? 0) + 1);
      this.complain(`${idText(id)}: set aside: ${why}`, out);
    };
    if (!p) return setAside('nothing was asked');
    if (p.unit !== null && id !== p.unit) return setAside('another unit was asked');
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
    if (p.unit === null && p.answers.length < MAX_ANSWERS) this.stretch(p, atUs + QUIET_US);
    else this.finish(p, atUs, out);
  }

  /** The engine, or who is likeliest to be it before it is known. */
  private get engine(): number {
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
      else if (!p.late) {
        p.late = true;
        this.stretch(p, atUs + LATE_WAIT_US);
        if (atUs < p.deadlineUs) return;
        this.timedOut(p, atUs, out);
      } else this.timedOut(p, atUs, out);
    }
    if (this.pending || this.state === 'opening' || atUs < this.wakeUs) return;
    if (this.state === 'discovering' || this.state === 'silent') {
      const { base, unit } = this.discovery.next()!;
      this.send({ kind: 'discover', id: -1, pids: [base], unit, service: 1, tries: 1 }, atUs, out);
      return;
    }
    const ask = this.asks.shift();
    if (ask) {
      const [service, ...rest] = ask.payload;
      const tries = ask.tries + 1;
      const unit = ask.functional ? null : this.engine;
      this.send({ kind: 'ask', id: ask.id, pids: rest, unit, service: service!, tries }, atUs, out);
      return;
    }
    const pids = this.rounds?.next(atUs);
    this.tellApart(atUs, out);
    if (pids) this.send({ kind: 'poll', id: -1, pids, unit: this.engine, service: 1, tries: 1 }, atUs, out);
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
    const id = p.unit === null ? FUNCTIONAL_ID : p.unit - RESPONSE_OFFSET;
    const data = segment(Uint8Array.from([p.service, ...p.pids]))[0]!;
    out.push({ kind: 'send', text: encodeSlcan({ id, extended: false, data }) });
  }

  private finish(p: Pending, atUs: number, out: LinkAction[]) {
    this.pending = null;
    if (p.kind === 'ask') out.push({ kind: 'answers', id: p.id, answers: p.answers });
    else if (p.kind === 'discover') this.discovered(p, out);
    else {
      const samples: Sample[] = [];
      let refused = false;
      for (const a of p.answers) {
        for (const d of a.decoded) {
          if (d.name === 'negativeResponse') refused = true;
          else if (d.name !== 'raw' && d.pid !== null && p.pids.includes(d.pid))
            samples.push({ channel: d.name, atUs, value: d.value });
        }
      }
      if (refused) this.rounds?.refused(p.pids, atUs);
      else this.rounds?.answered(p.pids);
      if (samples.length > 0) out.push({ kind: 'samples', samples });
    }
  }

  private discovered(p: Pending, out: LinkAction[]) {
    const base = p.pids[0]!;
    for (const a of p.answers) {
      if (a.payload[0] !== 0x41 || a.payload.length < 6) continue;
      const bitmap = new DataView(a.payload.buffer, a.payload.byteOffset).getUint32(2);
      this.discovery.heard(Number.parseInt(a.ecu, 16), base, bitmap);
    }
    // It said something else: it is asked no more, or everybody again.
    if (p.unit !== null && this.discovery.next()?.base === base) this.discovery.gaveUp(p.unit);
    if (this.discovery.next()) {
      if (p.unit === null && this.discovery.found.length === 0) this.noEngine(out);
      return;
    }
    this.chooseEngine(out);
  }

  private chooseEngine(out: LinkAction[]) {
    const found = this.discovery.engine(this.chosen);
    if (!found) return this.noEngine(out);
    this.engineEcu = found.id;
    this.supported.clear();
    for (const q of found.pids) this.supported.add(q);
    this.beginRounds();
    if (this.state === 'ready') this.tell(out);
    else this.enter('ready', this.described(), out);
  }

  /** Where it stands, said again in other words. */
  private tell(out: LinkAction[]) {
    out.push({ kind: 'state', state: this.state, detail: this.described(), units: this.units });
  }

  private get units(): FoundUnit[] {
    return this.discovery.found.map(({ id, parameters }) => ({
      ecu: idText(id),
      parameters,
      engine: id === this.engineEcu,
    }));
  }

  private noEngine(out: LinkAction[]) {
    this.discovery = new Discovery();
    this.enter('silent', 'something answers, but no engine control unit', out);
  }

  /** What is asked, of whom, who else is there, and what makes it slower. */
  private described(): string {
    const others = this.units.filter((u) => !u.engine).map((u) => u.ecu);
    const missing = this.chosen !== null && this.chosen !== this.engineEcu;
    return [
      `${this.supported.size} parameters on ${idText(this.engine)}`,
      ...(others.length > 0 ? [`${others.join(', ')} ${others.length === 1 ? 'answers' : 'answer'} too`] : []),
      ...(missing ? [`${idText(this.chosen!)}, chosen as the engine’s, does not answer`] : []),
      ...(this.apart ? [WHY_APART[this.apart]] : []),
    ].join('; ');
  }

  private tellApart(atUs: number, out: LinkAction[]) {
    const apart = this.rounds?.apart(atUs) ?? null;
    if (apart === this.apart) return;
    this.apart = apart;
    this.tell(out);
  }

  private timedOut(p: Pending, atUs: number, out: LinkAction[]) {
    this.pending = null;
    this.timeouts++;
    if (p.unit !== null) this.stale.set(p.unit, atUs + STALE_US);
    if (p.kind === 'discover' && p.unit !== null) {
      // It spoke before: the others, and what it has said, are there still.
      this.discovery.gaveUp(p.unit);
      if (!this.discovery.next()) this.chooseEngine(out);
      return;
    }
    if (p.kind === 'ask') {
      // One lost frame must not read as "no codes".
      if (p.tries < TRIES) {
        const { id, tries } = p;
        this.asks.unshift({ id, payload: [p.service, ...p.pids], functional: p.unit === null, tries });
      } else out.push({ kind: 'answers', id: p.id, answers: [] });
    }
    if (p.kind === 'poll') this.rounds?.missed(p.pids, this.timeouts, atUs);
    if (p.kind === 'discover' || this.timeouts >= TIMEOUTS_TO_SILENT) {
      // Who is there is found out anew: another unit may be the one that answers.
      this.discovery = new Discovery();
      this.engineEcu = null;
      this.wakeUs = atUs + RETRY_SILENT_US;
      this.enter('silent', 'the vehicle does not answer: key on? trying again every second', out);
    }
  }

  private beginRounds() {
    this.rounds = this.plan && new Rounds(this.plan, this.supported);
  }

  private enter(state: LinkState, detail: string, out: LinkAction[]) {
    if (this.state === state) return;
    this.state = state;
    out.push({ kind: 'state', state, detail, units: state === 'ready' ? this.units : [] });
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
