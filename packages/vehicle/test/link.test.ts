import { describe, expect, test } from '@jest/globals';
import {
  ALLOWED_SERVICES,
  type LinkAction,
  type LinkEvent,
  PLANS,
  Requester,
  type Sample,
} from '@just-balance/core/link';
import { Car, carById, EcuPort, SlcanPort } from '../src/index.ts';
import { seeded } from './hostileWire.ts';

const STEP_US = 10_000;

/** The link's state machine at one end, the simulated car's wire at the other, time in our hands. */
function bench(carId = 'quillon-18') {
  const car = new Car(carById(carId), { baroKPa: 99, airC: 18 }, 3);
  const ecu = new EcuPort(car);
  const link = new Requester();
  const actions: LinkAction[] = [];
  let atUs = 0;
  let unplugged = false;
  /** Each with the moment at which it reaches the link. */
  let toLink: { text: string; dueUs: number }[] = [];
  let lagUs = 0;
  const port = new SlcanPort(
    (text) => {
      if (!unplugged) toLink.push({ text, dueUs: atUs + lagUs });
    },
    (frame) => {
      for (const { frame: f } of ecu.receive(frame, atUs)) port.deliver(f);
    },
  );
  const step = (event: LinkEvent) => {
    for (const a of link.step(event)) {
      actions.push(a);
      if (a.kind === 'send' && !unplugged) port.feed(a.text);
    }
  };
  const run = (seconds: number) => {
    const until = atUs + seconds * 1e6;
    while (atUs < until) {
      atUs += STEP_US;
      car.step();
      const due = toLink.filter((t) => t.dueUs <= atUs);
      toLink = toLink.filter((t) => t.dueUs > atUs);
      const text = due.map((t) => t.text).join('');
      step(text ? { kind: 'bytes', text, atUs } : { kind: 'tick', atUs });
    }
  };
  const samples = (): Sample[] => actions.flatMap((a) => (a.kind === 'samples' ? a.samples : []));
  return {
    car,
    link,
    actions,
    run,
    samples,
    open: () => {
      step({ kind: 'plan', plan: PLANS.mixture, atUs });
      step({ kind: 'opened', atUs });
    },
    clear: (id: number) => step({ kind: 'clear', id, atUs }),
    ask: (payload: number[], id = 7) => step({ kind: 'ask', id, payload, atUs }),
    unplug: (on: boolean) => {
      unplugged = on;
    },
    /** What the adapter says from now on takes so long to arrive. */
    lag: (seconds: number) => {
      lagUs = seconds * 1e6;
    },
    inject: (text: string) => step({ kind: 'bytes', text, atUs }),
  };
}

describe('asking a vehicle', () => {
  test('discovers, polls what the plan names, values as the car has them', () => {
    const b = bench();
    b.car.start();
    b.car.warmUp();
    b.open();
    b.run(4);
    expect(b.link.state).toBe('ready');
    const channels = new Set(b.samples().map((s) => s.channel));
    for (const c of ['rpm', 'maf', 'map', 'stft1', 'ltft1', 'ect', 'fuelSys1', 'lambda11'])
      expect(channels).toContain(c);
    expect(channels.has('stft2')).toBe(false);
    const rpm = b.samples().filter((s) => s.channel === 'rpm');
    expect(Math.abs(Number(rpm.at(-1)!.value) - b.car.engine.state.rpm)).toBeLessThan(30);
  });
  test('the channels named fast get most of the bus', () => {
    const b = bench('aldwin-30');
    b.car.start();
    b.open();
    b.run(6);
    const count = (c: string) => b.samples().filter((s) => s.channel === c).length;
    expect(count('rpm')).toBeGreaterThan(2.5 * count('ect'));
    expect(Math.abs(count('map') - count('rpm'))).toBeLessThanOrEqual(1);
  });
  test('codes and a multi-frame VIN by a question of their own', () => {
    const b = bench();
    b.car.start();
    b.open();
    b.run(1);
    b.ask([0x09, 0x02]);
    b.run(1);
    const answers = b.actions.filter((a) => a.kind === 'answers').flatMap((a) => a.answers);
    expect(answers.flatMap((a) => a.decoded)[0]).toMatchObject({ name: 'vin', value: b.car.spec.vin });
  });
  test('never sends a service that is not on its list; clearing is not on it', () => {
    expect(ALLOWED_SERVICES.has(0x04)).toBe(false);
    const b = bench();
    b.car.start();
    b.open();
    b.run(1);
    b.ask([0x04], 9);
    expect(b.actions).toContainEqual({ kind: 'refused', id: 9, reason: expect.stringContaining('service 04') });
    const sent = b.actions.flatMap((a) => (a.kind === 'send' ? a.text.split('\r') : []));
    for (const line of sent.filter((l) => /^t7(DF|E0)/.test(l))) {
      const data = line.slice(5);
      if (data.startsWith('3')) continue;
      expect(ALLOWED_SERVICES.has(Number.parseInt(data.slice(2, 4), 16))).toBe(true);
    }
  });
  test('clears by the event of its own; a running engine refuses in its own words', () => {
    const b = bench();
    b.car.start();
    b.open();
    b.run(1);
    const answered = (id: number) => b.actions.find((a) => a.kind === 'answers' && a.id === id);
    b.clear(1);
    b.run(1);
    // ISO 15031-5 negative response: 22, conditions not correct.
    expect(answered(1)).toMatchObject({ answers: [{ payload: Uint8Array.of(0x7f, 0x04, 0x22) }] });
    b.car.stop(true);
    b.run(2);
    b.clear(2);
    b.run(1);
    expect(answered(2)).toMatchObject({ answers: [{ payload: Uint8Array.of(0x44) }] });
  });
  test('a key that is off is said, and found again when it comes on', () => {
    const b = bench();
    b.open();
    b.run(1);
    expect(b.link.state).toBe('silent');
    expect(b.actions).toContainEqual(
      expect.objectContaining({ kind: 'state', state: 'silent', detail: expect.stringContaining('key on?') }),
    );
    b.car.start();
    b.run(3);
    expect(b.link.state).toBe('ready');
  });
  test('a vehicle that stops answering is said after three timeouts, and rejoined', () => {
    const b = bench();
    b.car.start();
    b.open();
    b.run(2);
    b.unplug(true);
    b.run(1);
    expect(b.link.state).toBe('ready');
    b.run(2);
    expect(b.link.state).toBe('silent');
    const before = b.samples().length;
    b.unplug(false);
    b.run(3);
    expect(b.link.state).toBe('ready');
    expect(b.samples().length).toBeGreaterThan(before);
  });
  test('a question asked while the vehicle is gone is answered by nothing, not forgotten', () => {
    const b = bench();
    b.car.start();
    b.open();
    b.run(1);
    b.unplug(true);
    b.ask([0x03], 42);
    b.run(3);
    expect(b.actions).toContainEqual({ kind: 'answers', id: 42, answers: [] });
  });
  test('one lost frame does not read as "no codes": asked once more; clearing never is', () => {
    const b = bench();
    b.car.start();
    b.open();
    b.run(1);
    const answered = (id: number) => b.actions.find((a) => a.kind === 'answers' && a.id === id);
    const sent = (data: string) => b.actions.filter((a) => a.kind === 'send' && a.text.includes(data)).length;
    b.unplug(true);
    b.ask([0x03], 42);
    // What was under way is waited for, then it is asked, and not heard.
    while (sent('t7DF80103') === 0) b.run(0.01);
    b.run(0.1);
    b.unplug(false);
    b.run(2);
    expect(answered(42)).toMatchObject({
      answers: ['7E8', '7E9'].map((ecu) => ({ ecu, payload: Uint8Array.of(0x43, 0x00) })),
    });
    expect(sent('t7DF80103')).toBe(2);
    b.unplug(true);
    b.clear(43);
    b.run(2);
    expect(answered(43)).toEqual({ kind: 'answers', id: 43, answers: [] });
    expect(sent('t7DF80104')).toBe(1);
  });
  /** Figures of a warm car at idle: what else is heard was not said by it. */
  const PLAUSIBLE: Readonly<Record<string, readonly [number, number]>> = {
    rpm: [500, 1000],
    maf: [1, 4],
    map: [20, 45],
    ect: [70, 110],
  };
  const strange = (samples: readonly Sample[]) =>
    samples.filter(({ channel, value }) => {
      const [low, high] = PLAUSIBLE[channel] ?? [Number.NEGATIVE_INFINITY, Number.POSITIVE_INFINITY];
      return !(Number(value) >= low && Number(value) <= high) && channel in PLAUSIBLE;
    });
  const idling = () => {
    const b = bench();
    b.car.start();
    b.car.warmUp();
    b.run(8);
    b.open();
    b.run(2);
    return b;
  };
  test('a second unit that talks all the time is not heard: no value of it, no channel, no fewer parameters a question', () => {
    const b = idling();
    const before = new Set(b.samples().map((s) => s.channel));
    for (let i = 0; i < 200; i++) {
      // 2,000 rpm and a channel that this car has not got; a no to service 01.
      b.inject('t7E98044100BE1FA813\rt7E9804410C1F40555555\r');
      b.inject('t7E98034166FF55555555\rt7E98037F011255555555\rt7E98101441A405060708\r');
      b.run(0.02);
    }
    expect(strange(b.samples())).toEqual([]);
    expect(new Set(b.samples().map((s) => s.channel))).toEqual(before);
    const asked = b.actions.filter((a) => a.kind === 'send' && /^t7E0/.test(a.text)).slice(-40);
    expect(asked.some((a) => a.kind === 'send' && Number.parseInt(a.text[5]! + a.text[6]!, 16) > 2)).toBe(true);
    // No flow control for what another unit wants to tell.
    expect(b.actions.some((a) => a.kind === 'send' && a.text.startsWith('t7E1'))).toBe(false);
    expect(b.actions.some((a) => a.kind === 'noise' && /7E9: set aside: another unit was asked/.test(a.detail))).toBe(
      true,
    );
    // Four whole frames, two hundred times; some came while all were asked, or nobody.
    const counted = [...b.link.setAside.values()].reduce((n, x) => n + x, 0);
    expect(counted).toBeGreaterThan(700);
    expect([...b.link.setAside.keys()].every((k) => k.startsWith('7E9: '))).toBe(true);
  });
  test.each([0.3, 0.4, 0.6])('answers that always take %f s are heard, slower, each whole', (seconds) => {
    const b = idling();
    b.lag(seconds);
    const before = b.samples().length;
    b.run(8);
    expect(b.link.state).toBe('ready');
    expect(b.samples().length).toBeGreaterThan(before + 10);
    expect(strange(b.samples())).toEqual([]);
  });
  test('answers now late, now in time, now lost: nothing is joined of two answers (fixed seeds)', () => {
    for (const seed of [1, 2, 3, 4, 5, 6]) {
      const random = seeded(seed);
      const b = idling();
      const before = b.samples().length;
      for (let i = 0; i < 120; i++) {
        b.lag(random() < 0.5 ? 0 : random() * 1.4);
        b.unplug(random() < 0.05);
        b.run(random() * 0.4);
      }
      b.unplug(false);
      b.lag(0);
      b.run(4);
      expect([seed, strange(b.samples())]).toEqual([seed, []]);
      expect(b.samples().length).toBeGreaterThan(before + 50);
      expect(b.link.state).toBe('ready');
    }
  });
  /** Bitmaps of the 32 parameters from 1 on, as SAE J1979 has them: the first in the highest bit. */
  const bitmap = (...pids: number[]) =>
    (pids.reduce((n, p) => n + 2 ** (32 - p), 0) >>> 0).toString(16).toUpperCase().padStart(8, '0');

  /** Units by hand: what each answers to a question of its own, or to all. */
  function units(answer: (unit: number, pids: number[], toAll: boolean) => string | null) {
    const link = new Requester();
    const actions: LinkAction[] = [];
    const asked: { unit: number; pids: number[]; atUs: number }[] = [];
    let atUs = 0;
    let due: string[] = [];
    const step = (event: LinkEvent) => {
      for (const a of link.step(event)) {
        actions.push(a);
        if (a.kind !== 'send') continue;
        for (const line of a.text.split('\r')) {
          const m = /^t(7DF|7E[0-7])8(0[1-7])([0-9A-F]*)/.exec(line);
          if (!m) continue;
          const bytes = m[3]!
            .match(/../g)!
            .slice(0, Number.parseInt(m[2]!, 16))
            .map((h) => Number.parseInt(h, 16));
          const toAll = m[1] === '7DF';
          const unit = Number.parseInt(m[1]!, 16);
          asked.push({ unit, pids: bytes.slice(1), atUs });
          for (const u of toAll ? [0x7e0, 0x7e1, 0x7e2] : [unit]) {
            const a = answer(u, bytes.slice(1), toAll);
            if (a) due.push(`t${(u + 8).toString(16).toUpperCase()}8${a.padEnd(16, '5')}\r`);
          }
        }
      }
    };
    return {
      link,
      asked,
      told: () => actions.flatMap((a) => (a.kind === 'state' ? [`${a.state}: ${a.detail}`] : [])),
      run: (seconds: number) => {
        for (const until = atUs + seconds * 1e6; atUs < until; ) {
          atUs += STEP_US;
          const text = due.join('');
          due = [];
          step(text ? { kind: 'bytes', text, atUs } : { kind: 'tick', atUs });
        }
      },
      choose: (unit: number | null) => step({ kind: 'engine', unit, atUs }),
      found: () => actions.findLast((a) => a.kind === 'state')!.units,
      open: () => {
        step({ kind: 'plan', plan: PLANS.mixture, atUs });
        step({ kind: 'opened', atUs });
      },
    };
  }

  test('the engine is who has trims, airflow and coolant, not who speaks first or lowest; the others are named', () => {
    const b = units((u, pids) => {
      if (pids[0] !== 0) return `0341${pids[0]!.toString(16).padStart(2, '0')}40`;
      // A gearbox with engine speed first; a body unit with nothing; the engine last.
      return `064100${u === 0x7e0 ? bitmap(0x0c, 0x0d) : u === 0x7e1 ? bitmap(0x01) : bitmap(0x05, 0x06, 0x07, 0x0c, 0x10)}`;
    });
    b.open();
    b.run(3);
    expect(b.told().at(-1)).toBe('ready: 5 parameters on 7EA; 7E8, 7E9 answer too');
    expect(new Set(b.asked.slice(-20).map((a) => a.unit))).toEqual(new Set([0x7e2]));
  });

  test('a person says which unit is the engine’s: it is asked from then on, over silence too; one that is not there is said', () => {
    let there = true;
    const b = units((u, pids) => {
      if (!there || u === 0x7e2) return null;
      if (pids[0] !== 0) return `0341${pids[0]!.toString(16).padStart(2, '0')}40`;
      return `064100${u === 0x7e0 ? bitmap(0x05, 0x06, 0x07, 0x0c, 0x10) : bitmap(0x05, 0x0c)}`;
    });
    b.open();
    b.run(3);
    expect(b.found()).toEqual([
      { ecu: '7E8', parameters: 5, engine: true },
      { ecu: '7E9', parameters: 2, engine: false },
    ]);
    b.choose(0x7e9);
    b.run(1);
    expect(b.told().at(-1)).toBe('ready: 2 parameters on 7E9; 7E8 answers too');
    expect(new Set(b.asked.slice(-10).map((a) => a.unit))).toEqual(new Set([0x7e1]));
    there = false;
    b.run(5);
    expect([b.link.state, b.found()]).toEqual(['silent', []]);
    there = true;
    b.run(4);
    expect(b.told().at(-1)).toBe('ready: 2 parameters on 7E9; 7E8 answers too');
    b.choose(0x7ea);
    expect(b.told().at(-1)).toBe(
      'ready: 5 parameters on 7E8; 7E9 answers too; 7EA, chosen as the engine’s, does not answer',
    );
    b.choose(null);
    expect(b.told().at(-1)).toBe('ready: 5 parameters on 7E8; 7E9 answers too');
  });

  test('a unit that says nothing more is given up, with what it has said; the next one is asked', () => {
    const b = units((u, pids, toAll) => {
      if (u === 0x7e2) return null;
      // Both say that they have more from 20 on; the first never tells what.
      if (pids[0] === 0) return `064100${bitmap(0x05, 0x0c, 0x20)}`;
      if (pids[0] === 0x20) return u === 0x7e0 ? null : `064120${bitmap(0x01)}`;
      return toAll ? null : `0341${pids[0]!.toString(16).padStart(2, '0')}40`;
    });
    b.open();
    b.run(3);
    expect(b.link.state).toBe('ready');
    expect(b.told().at(-1)).toMatch(/on 7E8; 7E9 answers too$/);
    expect(b.asked.some((a) => a.unit === 0x7e1 && a.pids[0] === 0x20)).toBe(true);
  });

  test('nobody with anything of an engine: said, and asked again', () => {
    const b = units((_, pids) => (pids[0] === 0 ? `064100${bitmap(0x01, 0x0d)}` : null));
    b.open();
    b.run(2);
    expect(b.told()).toContain('silent: something answers, but no engine control unit');
    expect(b.asked.filter((a) => a.pids[0] === 0).length).toBeGreaterThan(1);
  });

  test('a group that is refused is asked apart for a while, and tried again; the others stay together', () => {
    let refuses = true;
    const b = units((u, pids, toAll) => {
      if (u !== 0x7e0) return null;
      if (pids[0] === 0) return `064100${bitmap(0x03, 0x05, 0x06, 0x07, 0x0b, 0x0c, 0x0d, 0x0f, 0x10, 0x11)}`;
      if (toAll) return null;
      // This one refuses trims beside other things (ISO 14229-1: 7F, the service, 12 sub-function not supported).
      if (refuses && pids.length > 1 && pids.includes(0x06)) return '037F0112';
      return `0341${pids[0]!.toString(16).padStart(2, '0')}40`;
    });
    b.open();
    b.run(5);
    const lengths = (with_: number) =>
      b.asked
        .slice(-30)
        .filter((a) => a.pids.includes(with_))
        .map((a) => a.pids.length);
    expect(new Set(lengths(0x06))).toEqual(new Set([1]));
    expect(lengths(0x05).every((n) => n > 1)).toBe(true);
    expect(b.told().at(-1)).toBe(
      'ready: 10 parameters on 7E8; some asked one at a time: several in one question were refused',
    );
    refuses = false;
    b.run(30);
    expect(lengths(0x06).every((n) => n > 1)).toBe(true);
    expect(b.told().at(-1)).toBe('ready: 10 parameters on 7E8');
  });

  test('a unit that answers one parameter a question only is asked so, and not taken for silent', () => {
    const b = units((u, pids, toAll) => {
      if (u !== 0x7e0) return null;
      if (pids[0] === 0) return `064100${bitmap(0x03, 0x05, 0x06, 0x07, 0x0b, 0x0c, 0x10, 0x11)}`;
      return toAll || pids.length > 1 ? null : `0341${pids[0]!.toString(16).padStart(2, '0')}40`;
    });
    b.open();
    b.run(6);
    expect(b.told().filter((t) => t.startsWith('silent'))).toEqual([]);
    expect(b.asked.slice(-20).every((a) => a.pids.length === 1)).toBe(true);
    expect(b.told().at(-1)).toMatch(/several in one question were not answered$/);
  });

  test.each([0.3, 0.6])('an adapter whose every answer takes %f s is connected to from the start', (seconds) => {
    const b = bench();
    b.car.start();
    b.lag(seconds);
    b.open();
    b.run(15);
    expect(b.link.state).toBe('ready');
    expect(b.actions.filter((a) => a.kind === 'state' && /key on/.test(a.detail))).toEqual([]);
    expect(b.link.supported.size).toBeGreaterThan(30);
  });

  test('rubbish from the adapter is noise, not a crash', () => {
    const b = bench();
    b.car.start();
    b.open();
    b.run(1);
    b.inject(`${'x'.repeat(5000)}\r\x07tZZZ\r${'t7E8'.repeat(40)}\r`);
    b.inject('t7E8810FFFFFFFFFFFFFF\r');
    b.run(2);
    expect(b.actions.some((a) => a.kind === 'noise')).toBe(true);
    expect(b.link.state).toBe('ready');
  });
});
