import { type CanFrame, formatCandumpLine } from '@just-balance/core/can';
import { type LinkEvent, PLANS, Requester, type Sample } from '@just-balance/core/link';
import { logDecoder } from '@just-balance/core/obd';
import { Car, carById, EcuPort, SlcanPort } from '../src/index.ts';

const STEP_US = 10_000;
/** How long after it was said a value may still reach the link: the worst lag, and what a question waits in all. */
const LATEST_S = 4;

/** Numbers from 0 to 1 of a seed (Park and Miller's minimal standard). */
export function seeded(seed: number): () => number {
  let x = (seed * 7919) % 2_147_483_647;
  return () => {
    x = (x * 48_271) % 2_147_483_647;
    return x / 2_147_483_647;
  };
}

/** What another unit may say at any time: answers of its own, of the engine's parameters too, and halves of long ones. */
const FOREIGN = [
  't7E98044100BE1FA813',
  't7E9804410C1F40555555',
  't7E98034106FF55555555',
  't7E98037F011255555555',
  't7E98101441A405060708',
  't7E982141424344454647',
  't7EA8034105FF55555555',
  't1238DEADBEEF01020304',
  'T18DAF110803410C1F4055',
];

/** What the car says, and when: its own log, written before anything happens to it. */
class CarLog {
  private readonly decoder = logDecoder();
  private readonly said = new Map<string, { atS: number; value: number | string }[]>();

  add(frame: CanFrame, atUs: number): void {
    for (const v of this.decoder.line(formatCandumpLine(frame, atUs))) {
      if (v.service !== 1 || v.ecu !== '7E8') continue;
      const list = this.said.get(v.name) ?? [];
      list.push({ atS: atUs / 1e6, value: v.value });
      this.said.set(v.name, list);
    }
  }

  get count(): number {
    return [...this.said.values()].reduce((n, l) => n + l.length, 0);
  }

  /** Whether the car has said this of the channel, not long before. */
  has({ channel, value, atUs }: Sample): boolean {
    const list = this.said.get(channel) ?? [];
    for (let i = list.length - 1; i >= 0 && list[i]!.atS >= atUs / 1e6 - LATEST_S; i--)
      if (list[i]!.value === value && list[i]!.atS <= atUs / 1e6) return true;
    return false;
  }
}

/** What a run over a hostile wire came to. */
export interface HostileRun {
  samples: number;
  /** Values that the car has not said, with their second. */
  strange: string[];
  /** Values the car has said in all. */
  said: number;
  setAside: number;
  /** How often each misfortune happened. */
  happened: Record<string, number>;
  /** Longest time without a sample in the calm at the end, s. */
  calmWithoutS: number;
}

/**
 * The link at one end, the simulated car at the other, and between them a wire with a mind of its own: foreign units,
 * answers late, lost, twice or put off, lines broken, the adapter begun anew, the key off and on. A serial line keeps
 * the order of its bytes, and so does this one.
 */
export function hostileRun(seed: number, seconds: number): HostileRun {
  const random = seeded(seed);
  const car = new Car(carById('quillon-18'), { baroKPa: 99, airC: 18 }, seed);
  const ecu = new EcuPort(car);
  const link = new Requester();
  const log = new CarLog();
  const happened: Record<string, number> = {};
  const happens = (what: string, share: number) => {
    if (random() >= share) return false;
    happened[what] = (happened[what] ?? 0) + 1;
    return true;
  };
  const strange: string[] = [];
  let [atUs, lagUs, lastDueUs, samples, lastUs] = [0, 0, 0, 0, 0];
  let calm = false;
  let queue: { text: string; dueUs: number }[] = [];
  const arrive = (text: string, extraUs = 0) => {
    lastDueUs = Math.max(lastDueUs, atUs + lagUs + extraUs);
    queue.push({ text, dueUs: lastDueUs });
  };
  const port = new SlcanPort(
    (text) => {
      if (!calm && happens('lost', 0.02)) return;
      if (!calm && happens('broken', 0.005)) return arrive(`${text.slice(0, Math.floor(random() * text.length))}\r`);
      arrive(text);
      if (!calm && happens('twice', 0.02)) arrive(text);
    },
    (frame) => {
      const asked = frame.id === 0x7e0 && frame.data[1] === 0x01;
      // Response pending (ISO 14229-1): the answer comes after it.
      const pending = asked && !calm && happens('pending', 0.02);
      if (pending) arrive('t7E88037F017855555555\r');
      for (const { frame: f } of ecu.receive(frame, atUs)) {
        log.add(f, atUs);
        if (pending) lagUs = Math.max(lagUs, 300_000);
        port.deliver(f);
      }
    },
  );
  const step = (event: LinkEvent) => {
    for (const a of link.step(event)) {
      if (a.kind === 'send') port.feed(a.text);
      if (a.kind !== 'samples') continue;
      for (const s of a.samples) {
        samples++;
        lastUs = atUs;
        if (!log.has(s)) strange.push(`${(s.atUs / 1e6).toFixed(2)} s: ${s.channel} ${s.value}`);
      }
    }
  };
  const open = () => {
    step({ kind: 'plan', plan: PLANS.mixture, atUs });
    step({ kind: 'opened', atUs });
  };
  const misfortunes = () => {
    if (happens('foreign', 0.1)) arrive(`${FOREIGN[Math.floor(random() * FOREIGN.length)]!}\r`);
    if (happens('lag', 0.01)) lagUs = random() < 0.5 ? 0 : random() * 1_200_000;
    if (happens('adapter anew', 0.0006)) {
      queue = [];
      open();
    }
    if (car.engine.state.keyOn ? happens('key off', 0.0004) : random() < 0.01) {
      if (car.engine.state.keyOn) car.stop();
      else car.start();
    }
    if (happens('throttle', 0.005)) car.action = { do: 'hold', rpm: 900 + random() * 2000 };
  };
  const run = (untilUs: number) => {
    for (; atUs < untilUs; ) {
      atUs += STEP_US;
      car.step();
      if (!calm) misfortunes();
      const due = queue.filter((t) => t.dueUs <= atUs);
      queue = queue.filter((t) => t.dueUs > atUs);
      const text = due.map((t) => t.text).join('');
      step(text ? { kind: 'bytes', text, atUs } : { kind: 'tick', atUs });
    }
  };
  car.start();
  car.warmUp();
  open();
  run(seconds * 1e6);
  // Whatever went on before: in the calm it reads as ever, within a few seconds.
  calm = true;
  lagUs = 0;
  car.start();
  run(atUs + 8e6);
  const setAside = [...link.setAside.values()].reduce((n, x) => n + x, 0);
  return { samples, strange, said: log.count, setAside, happened, calmWithoutS: (atUs - lastUs) / 1e6 };
}
