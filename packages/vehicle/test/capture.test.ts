import { describe, expect, test } from '@jest/globals';
import {
  CAPTURE_POINTS,
  capturePoint,
  flagsOf,
  GUIDED_START,
  guide,
  guidedSetup,
  guidedStatus,
  pointsFor,
  readingOf,
} from '@just-balance/core/capture';
import type { Reading } from '@just-balance/core/case';
import { type LinkAction, type LinkEvent, PLANS, Requester, type Sample } from '@just-balance/core/link';
import { Car, carById, type DriverAction, EcuPort, type InjectedFault, SlcanPort, STEP_US } from '../src/index.ts';

const AIR = { baroKPa: 99.1, airC: 18 };

/** A car, its wire, the link with the point's plan and the guided capture, in simulated time. */
function capture(
  id: string,
  at: string,
  o: { before?: (c: Car) => void; during: DriverAction[] | 'off'; seconds: number; faults?: InjectedFault[] },
): { reading: Reading | null; state: string; unmet: string[]; flags: string[] } {
  const car = new Car(carById(id), AIR, 4);
  car.inject(...(o.faults ?? []));
  car.start();
  car.warmUp();
  car.run(5);
  o.before?.(car);
  const ecu = new EcuPort(car);
  const link = new Requester();
  const point = capturePoint(at)!;
  const setup = guidedSetup(point, {
    banks: car.spec.banks,
    metered: car.spec.metering !== 'speed-density',
    fuel: car.spec.fuel,
    baroKPa: AIR.baroKPa,
  });
  let guided = GUIDED_START;
  let atUs = 0;
  let inbox: string[] = [];
  let later: { at: number; text: () => void }[] = [];
  const port = new SlcanPort(
    (t) => inbox.push(t),
    (frame) => {
      for (const { frame: f, afterUs } of ecu.receive(frame, atUs))
        later.push({ at: atUs + afterUs, text: () => port.deliver(f) });
    },
  );
  const samples: Sample[] = [];
  const step = (e: LinkEvent) => {
    const actions: LinkAction[] = link.step(e);
    for (const a of actions) {
      if (a.kind === 'send') port.feed(a.text);
      if (a.kind === 'samples') samples.push(...a.samples);
    }
  };
  step({ kind: 'plan', plan: PLANS[point.plan], atUs });
  step({ kind: 'opened', atUs });
  if (o.during === 'off') car.stop(true);
  const steps = Math.round((o.seconds * 1e6) / STEP_US);
  let second = 0;
  for (let i = 0; i < steps; i++) {
    atUs += STEP_US;
    if (o.during !== 'off')
      car.action = o.during[Math.min(Math.floor((i / steps) * o.during.length), o.during.length - 1)]!;
    car.step();
    const due = later.filter((l) => l.at <= atUs);
    later = later.filter((l) => l.at > atUs);
    for (const d of due) d.text();
    const text = inbox.join('');
    inbox = [];
    step(text ? { kind: 'bytes', text, atUs } : { kind: 'tick', atUs });
    if (atUs / 1e6 >= second + 1) {
      second++;
      const batch = samples.splice(0);
      if (batch.length > 0) guided = guide(setup, guided, { kind: 'samples', samples: batch })[0];
      if (guided.step === 'done') break;
    }
  }
  const s = guidedStatus(setup, guided);
  return {
    reading: s.state === 'done' ? readingOf(setup, guided) : null,
    state: s.state,
    unmet: s.conditions.filter((c) => !c.met).map((c) => c.id),
    flags: s.state === 'done' ? flagsOf(setup, guided) : [],
  };
}

describe('every guided point on a simulated car', () => {
  test('key on, engine off: the pressure sensor against station pressure', () => {
    const r = capture('dunmore-16', 'koeo', { during: 'off', seconds: 20 }).reading!;
    expect(Math.abs(r.mapKPa! - AIR.baroKPa)).toBeLessThan(1.5);
    expect(r.trims).toBeUndefined();
    const off = capture('dunmore-16', 'koeo', { during: 'off', seconds: 20, faults: [{ id: 'map-bias', severity: 7 }] })
      .reading!;
    expect(off.mapKPa! - r.mapKPa!).toBeCloseTo(7, 0);
  });
  test('cold idle only while cold; idle only once warm', () => {
    const cold = capture('quillon-18', 'cold-idle', {
      before: (c) => {
        c.soak(24);
        c.start();
      },
      during: [{ do: 'idle' }],
      seconds: 40,
    });
    expect(cold.reading!.ectC!).toBeLessThan(50);
    expect(capture('quillon-18', 'cold-idle', { during: [{ do: 'idle' }], seconds: 20 }).unmet).toContain('cold');
    const early = capture('quillon-18', 'idle', {
      before: (c) => {
        c.soak(24);
        c.start();
      },
      during: [{ do: 'idle' }],
      seconds: 40,
    });
    expect([early.state, early.unmet.includes('warm')]).toEqual(['waiting', true]);
  });
  test('idle, idle with A/C: more air with the compressor', () => {
    const idle = capture('aldwin-30', 'idle', { during: [{ do: 'idle' }], seconds: 40 }).reading!;
    const ac = capture('aldwin-30', 'idle-ac', { during: [{ do: 'idle', ac: true }], seconds: 50 }).reading!;
    expect(ac.mafGps!).toBeGreaterThan(1.05 * idle.mafGps!);
    expect(Object.keys(idle.trims!)).toEqual(['bank1', 'bank2']);
  });
  test('road load: steady, closed loop, its trims are evidence', () => {
    const r = capture('quillon-18', 'road-load', {
      before: (c) => c.do({ do: 'speed', kmh: 85 }, 60),
      during: [{ do: 'speed', kmh: 85 }],
      seconds: 40,
      faults: [{ id: 'fuel-low', severity: 110 }],
    }).reading!;
    expect(r.trims!.bank1!.stft! + r.trims!.bank1!.ltft!).toBeGreaterThan(10);
    expect(capture('quillon-18', 'road-load', { during: [{ do: 'idle' }], seconds: 20 }).unmet).toContain('speed');
  });
  test('full load: airflow and λ at the peak, no trims; a weak sensor shows', () => {
    const pull = (faults: InjectedFault[] = []) =>
      capture('quillon-18', 'full-load', {
        before: (c) => c.do({ do: 'speed', kmh: 50 }, 30),
        during: [{ do: 'full-load', rpm: 3800 }],
        seconds: 30,
        faults,
      }).reading!;
    const healthy = pull();
    expect(healthy.trims).toBeUndefined();
    expect(healthy.loop).toBe('open');
    expect(healthy.lambda!.bank1!).toBeLessThan(0.92);
    expect(healthy.mapKPa!).toBeGreaterThan(0.9 * AIR.baroKPa);
    const under = pull([{ id: 'maf-under', severity: 20 }]);
    const perRpm = (r: Reading) => r.mafGps! / r.rpm!;
    expect(Math.abs(perRpm(under) / perRpm(healthy) - 0.8)).toBeLessThan(0.06);
    expect(under.lambda!.bank1!).toBeGreaterThan(healthy.lambda!.bank1! + 0.1);
  });
  test('boost: the pressure behind the compressor', () => {
    const r = capture('elmstone-20t', 'boost', {
      before: (c) => c.do({ do: 'speed', kmh: 60 }, 30),
      during: [{ do: 'full-load', rpm: 3500 }],
      seconds: 30,
    }).reading!;
    expect(r.mapKPa! - AIR.baroKPa).toBeGreaterThan(0.85 * 110);
  });
  test('snap: the peak of the airflow signal, at a rate that can see it', () => {
    const r = capture('quillon-18', 'snap', {
      during: [{ do: 'idle' }, { do: 'idle' }, { do: 'snap' }, { do: 'idle' }],
      seconds: 24,
    });
    expect(r.reading!.mafGps!).toBeGreaterThan(15);
    expect(r.flags).toEqual([]);
  });
  test('deceleration: foot off at speed', () => {
    const r = capture('quillon-18', 'decel', {
      before: (c) => c.do({ do: 'speed', kmh: 90 }, 60),
      during: [{ do: 'coast' }],
      seconds: 12,
    });
    expect(r.reading!.mapKPa!).toBeLessThan(36);
    expect(r.reading!.trims).toBeUndefined();
  });
  test('a dead airflow signal is flagged as one that never moved', () => {
    const r = capture('quillon-18', 'idle', {
      during: [{ do: 'idle' }],
      seconds: 60,
      faults: [{ id: 'maf-circuit', severity: 1 }],
    });
    expect(r.flags.join(' ') || r.state).toMatch(/never moved|waiting/);
  });
  test('a diesel needs no closed loop and gives no trims', () => {
    const r = capture('hollin-21d', 'idle', { during: [{ do: 'idle' }], seconds: 60 });
    expect([r.state, r.unmet]).toEqual(['done', []]);
    expect(r.reading!.trims).toBeUndefined();
    expect(r.reading!.mafGps!).toBeGreaterThan(3);
  });
});

describe('which points a complaint asks for', () => {
  const petrol = { fuel: 'petrol', metering: 'maf', induction: 'na' };
  test.each([
    [petrol, ['rough-idle'], ['idle', 'hold-2500']],
    [petrol, ['low-power'], ['idle', 'hold-2500', 'road-load', 'full-load']],
    [
      { ...petrol, induction: 'turbo' },
      ['low-power'],
      ['koeo', 'idle', 'hold-2500', 'road-load', 'full-load', 'boost'],
    ],
    [{ ...petrol, metering: 'speed-density' }, ['lamp-only'], ['koeo', 'idle', 'hold-2500']],
    [petrol, ['hard-start-cold', 'hesitation'], ['koeo', 'cold-idle', 'idle', 'hold-2500', 'snap', 'road-load']],
    [{ fuel: 'diesel', metering: 'maf', induction: 'turbo' }, [], ['koeo', 'idle', 'hold-2500', 'full-load', 'boost']],
  ])('%j with %j: %j', (vehicle, symptoms, points) => expect(pointsFor(vehicle, symptoms)).toEqual(points));
  test('every point names its plan, and no road point asks anything of the driver but driving', () => {
    for (const p of CAPTURE_POINTS) {
      expect(PLANS[p.plan].fast.length).toBeGreaterThan(0);
      if (p.road) expect(p.instruction).toMatch(/^Two people/);
      expect(p.instruction).not.toMatch(/look at the (screen|tablet)|press|tap/i);
    }
  });
});
