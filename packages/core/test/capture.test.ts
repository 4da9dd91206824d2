import { describe, expect, test } from '@jest/globals';
import {
  beginRun,
  CAPTURE_POINTS,
  capturePoint,
  FREE_START,
  flagsOf,
  followRun,
  freeStatus,
  GUIDED_START,
  type GuidedAction,
  type GuidedSetup,
  type GuidedStatus,
  guide,
  guidedSetup,
  guidedStatus,
  planOf,
  pointsFor,
  readingOf,
  record,
  runStatus,
} from '../src/capture/index.ts';
import { PLANS, planAlone, type Sample } from '../src/link/index.ts';
import { FULL_SCALE } from '../src/obd/index.ts';
import { wordsOf } from '../src/units/index.ts';

interface Now {
  rpm: number;
  maf: number;
  ect: number;
  stft: number;
  ltft: number;
  loop: string;
  map: number;
  /** Commanded EGR, %, where the car reports it. */
  egr?: number;
  /** Road speed, km/h, and pedal, %, where the car reports them. */
  vss?: number;
  app?: number;
}
const WARM_IDLE: Now = { rpm: 750, maf: 2.4, ect: 90, stft: 3, ltft: 11, loop: 'closed loop', map: 31 };

/** A capture followed from event to event. */
class Followed {
  state = GUIDED_START;
  readonly actions: GuidedAction['kind'][] = [];
  constructor(readonly setup: GuidedSetup) {}
  private on(event: Parameters<typeof guide>[2]): GuidedStatus {
    const [next, actions] = guide(this.setup, this.state, event);
    this.state = next;
    this.actions.push(...actions.map((a) => a.kind));
    return this.status();
  }
  take = (samples: readonly Sample[]) => this.on({ kind: 'samples', samples });
  interrupted = () => this.on({ kind: 'interrupted' });
  again = () => this.on({ kind: 'again' });
  status = () => guidedStatus(this.setup, this.state);
  reading = () => readingOf(this.setup, this.state);
  flags = () => flagsOf(this.setup, this.state);
}

/** Feed `seconds` of samples at 5 Hz; `of` says what the engine does at each moment. */
function feed(g: Followed, from: number, seconds: number, of: (t: number) => Partial<Now> = () => ({})): GuidedStatus {
  let status = g.status();
  for (let s = 0; s < seconds; s++) {
    const samples: Sample[] = [];
    for (let k = 0; k < 5; k++) {
      const t = from + s + k / 5;
      const v = { ...WARM_IDLE, ...of(t) };
      const at = (channel: string, value: number | string) => samples.push({ channel, atUs: t * 1e6, value });
      at('rpm', v.rpm);
      // A real signal never stands quite still.
      at('maf', v.maf + (k % 2 === 0 ? 0.002 : -0.002));
      at('map', v.map);
      at('stft1', v.stft);
      at('ltft1', v.ltft);
      if (k === 0) {
        at('ect', v.ect);
        at('iat', 28);
        if (v.vss !== undefined) at('vss', v.vss);
        if (v.app !== undefined) at('app', v.app);
        if (v.egr !== undefined) at('egrCommanded', v.egr);
        at('fuelSys1', v.loop);
        at('fuelSys2', 'not reported');
      }
    }
    status = g.take(samples);
  }
  return status;
}
const idle = (more: Partial<GuidedSetup> = {}) =>
  new Followed(guidedSetup(capturePoint('idle')!, { metered: true, ...more }));
const unmet = (s: GuidedStatus) => s.conditions.filter((c) => !c.met).map((c) => c.id);

describe('guided capture', () => {
  test('warm, closed and steady: the window opens and closes by itself with mean, spread, count and rate', () => {
    const g = idle();
    expect(feed(g, 0, 4).state).toBe('capturing');
    // Alternating ±1 about +3: mean 3, sample standard deviation about 1.
    const done = feed(g, 4, 14, (t) => ({ stft: Math.round(t * 5) % 2 === 0 ? 4 : 2 }));
    expect(done.state).toBe('done');
    const r = g.reading();
    expect(r).toMatchObject({ at: 'idle', loop: 'closed', rpm: 750, mafGps: 2.4, mapKPa: 31, ectC: 90, iatC: 28 });
    expect(r.trims!.bank1!.stft!).toBeCloseTo(3, 0);
    expect(r.trims!.bank1!.ltft).toBe(11);
    expect(r.trims!.bank1!.sd!).toBeCloseTo(1, 0);
    expect(r.trims!.bank1!.n!).toBeGreaterThanOrEqual(50);
    expect(r.sampleHz).toBeCloseTo(5, 0);
  });
  test('a diesel’s commanded recirculation: shut, open, or on its way between the two', () => {
    const of = (egr: number, fuel: 'petrol' | 'diesel' = 'diesel') => {
      const g = idle({ fuel, unreported: new Set(['loop']) });
      feed(g, 0, 12, () => ({ egr }));
      return g.reading().recirculation;
    };
    expect([of(0), of(3), of(38), of(0, 'petrol')]).toEqual(['shut', undefined, 'open', undefined]);
  });
  test('at least ten seconds', () => {
    const g = idle();
    feed(g, 0, 9);
    expect(g.status().state).toBe('capturing');
    expect(g.status().wantedS).toBe(10);
  });
  test('each condition that does not hold is named', () => {
    const named = (of: Partial<Now>) => unmet(feed(idle(), 0, 6, () => of));
    expect(named({ rpm: 0, maf: 0 })).toContain('running');
    expect(named({ ect: 52 })).toEqual(['warm']);
    expect(named({ loop: 'open loop, not yet warm' })).toEqual(['closed']);
    expect(named({ rpm: 2400 })).toEqual(['rpm']);
    const hunting = feed(idle(), 0, 6, (t) => ({ rpm: 750 + 90 * Math.sin(t * 3) }));
    expect(unmet(hunting)).toEqual(['steady-rpm']);
  });
  test('says when it will be warm, from the slope', () => {
    const s = feed(idle(), 0, 30, (t) => ({ ect: 50 + t * 0.2 }));
    // 24 °C to go at 0.2 °C/s.
    expect(Math.abs(s.etaS! - 120)).toBeLessThan(25);
    expect(feed(idle(), 0, 30, () => ({ ect: 50 })).etaS).toBeNull();
  });
  test('an interruption throws nothing of the gap in: the window starts again', () => {
    const g = idle();
    feed(g, 0, 9);
    g.interrupted();
    expect(g.status()).toMatchObject({ state: 'waiting', goodS: 0 });
    expect(feed(g, 60, 5).state).toBe('capturing');
    expect(feed(g, 65, 10).state).toBe('done');
  });
  test('a window that wanders three times is refused with the reason; keeping it anyway is possible', () => {
    const g = idle();
    // Slow drift: steady over three seconds, not over ten.
    let s = g.status();
    for (let i = 0; i < 20 && s.state !== 'refused'; i++)
      s = feed(g, i * 5, 5, (t) => ({ maf: 2.4 + 0.055 * (t % 14) }));
    expect(s.state).toBe('refused');
    expect(s.reason).toMatch(/airflow wandered \d+ %/);
    expect(g.reading().trims!.bank1!.n).toBeGreaterThan(10);
    g.again();
    expect(g.status().state).toBe('waiting');
  });
  test('single broken frames do not spoil a window; an engine that really jumps does', () => {
    const g = idle();
    const done = feed(g, 0, 16, (t) => (Math.round(t * 5) % 17 === 0 ? { rpm: 12_000, maf: 300 } : {}));
    expect(done.state).toBe('done');
    expect(g.reading()).toMatchObject({ rpm: 750, mafGps: 2.4 });
    const jumps = feed(idle(), 0, 16, (t) => (Math.round(t * 5) % 4 === 0 ? { rpm: 1100 } : {}));
    expect(jumps.state).not.toBe('done');
  });
  test('a pegged trim is flagged', () => {
    const g = idle();
    feed(g, 0, 16, () => ({ ltft: 24.8 }));
    expect(g.flags()).toEqual(["bank 1 trim stands at the ECU's limit"]);
    const ok = idle();
    feed(ok, 0, 16);
    expect(ok.flags()).toEqual([]);
  });
  test('two banks need both loops closed', () => {
    const g = idle({ banks: 2 });
    const s = feed(g, 0, 6);
    expect(s.conditions.find((c) => c.id === 'closed')!.met).toBe(true);
  });
});

test('each condition says its figures with their units, in those of the reader', () => {
  const { conditions } = feed(idle(), 0, 6, () => ({ rpm: 1240 }));
  const told = (id: string, units: 'metric' | 'us') => wordsOf(conditions.find((c) => c.id === id)!.detail, units);
  expect(told('rpm', 'metric')).toBe('1,240 of 450–1,200 rpm');
  expect(told('steady-air', 'metric')).toMatch(/^\d\.\d\d ± 0\.\d\d g\/s$/);
  // 1 lb/min is 7.56 g/s (NIST SP 811, from memory).
  const [gps, lb] = (['metric', 'us'] as const).map((u) => Number.parseFloat(told('steady-air', u)));
  expect(told('steady-air', 'us')).toMatch(/lb\/min$/);
  expect(lb! * 7.56).toBeCloseTo(gps!, 1);
});

describe('an engine that does not get warm', () => {
  test('a coolant that stands below warm is said to stand there; one that rises is given its time', () => {
    const cold = idle();
    feed(cold, 0, 20, () => ({ ect: 61 }));
    const warmOf = (s: GuidedStatus) => wordsOf(s.conditions.find((c) => c.id === 'warm')!.detail, 'own');
    expect(warmOf(cold.status())).toBe('61 of 80 °C');
    expect(warmOf(feed(cold, 20, 40, () => ({ ect: 61 })))).toBe('61 of 80 °C, no longer rising');
    const rising = idle();
    const s = feed(rising, 0, 60, (t) => ({ ect: 40 + Math.round(t / 4) }));
    expect(warmOf(s)).toBe('54 of 80 °C');
    // 25 °C to go at a quarter of a degree a second.
    expect(s.etaS!).toBeGreaterThan(80);
    expect(s.etaS!).toBeLessThan(130);
  });
});

describe('what it waits for, in one sentence', () => {
  const says = (of: Partial<Now> | ((t: number) => Partial<Now>), seconds = 6) =>
    wordsOf(feed(idle(), 0, seconds, typeof of === 'function' ? of : () => of).sentence ?? '', 'own');
  test.each([
    ['the engine', { rpm: 0, maf: 0 }, 'Waiting for the engine to run.'],
    ['warmth', { ect: 52 }, 'Waiting for warm coolant: 52 of 80 °C. Then 10 s by themselves.'],
    ['speed', { rpm: 2400 }, 'Waiting for 450–1,200 rpm: now 2,400. Then 10 s by themselves.'],
  ] as const)('%s', (_, of, sentence) => {
    expect(says(of)).toBe(sentence);
  });
  test('warmth with a time; and never a time beside a coolant that has stopped', () => {
    expect(says((t) => ({ ect: 50 + t * 0.2 }), 30)).toMatch(
      /^Waiting for warm coolant: 5\d of 80 °C, about [23] min to go\./,
    );
    // It rose for a while and then stood: the long slope alone would promise half an hour.
    const stood = feed(idle(), 0, 80, (t) => ({ ect: Math.min(61, 55 + t * 0.3) }));
    expect(wordsOf(stood.sentence!, 'own')).toMatch(/^The coolant stays at 61 °C and does not get warm/);
    expect(stood.etaS).toBeNull();
  });
  test('steadiness, and nothing once it captures', () => {
    expect(feed(idle(), 0, 6, (t) => ({ rpm: 750 + 90 * Math.sin(t * 3) })).sentence).toMatch(
      /engine speed to hold steady for 3 s/,
    );
    expect(feed(idle(), 0, 9).sentence).toBeNull();
  });
  test('what is steady but not warm can be kept as doubtful; one that stays cold is a finding', () => {
    const g = idle();
    expect(feed(g, 0, 12, () => ({ ect: 62 })).keepable).toBe(true);
    expect(g.flags()).toEqual(['taken before the engine was warm']);
    expect(feed(idle(), 0, 12, () => ({ ect: 31 })).keepable).toBe(false);
    expect(feed(idle(), 0, 12, () => ({ ect: 62, rpm: 2400 })).keepable).toBe(false);
    const cold = idle();
    feed(cold, 0, 60, () => ({ ect: 62 }));
    expect(cold.reading()).toMatchObject({ ectC: 62, neverWarm: true });
    expect(cold.flags()).toEqual(['the coolant does not get warm']);
  });
});

describe('a pull, by what the car says of it', () => {
  const FULL = { rpm: 3200, maf: 90, map: 97 };
  const after = (now: Partial<Now>, at = 'full-load', fuel: GuidedSetup['fuel'] = 'petrol') => {
    const g = new Followed(guidedSetup(capturePoint(at)!, { metered: true, fuel }));
    feed(g, 0, 8);
    const s = feed(g, 8, 4, () => ({ ...FULL, ...now }));
    return { state: s.state, unmet: unmet(s), sentence: s.sentence && wordsOf(s.sentence, 'metric') };
  };
  test('a diesel’s wheels turn and its pedal is down, where it says so; where it does not, the manifold alone tells', () => {
    const diesel = (now: Partial<Now>) => after(now, 'full-load', 'diesel');
    expect(diesel({}).state).toBe('done');
    expect(diesel({ vss: 60, app: 84 }).state).toBe('done');
    expect(diesel({ vss: 0, app: 84 })).toMatchObject({
      unmet: ['speed'],
      sentence: expect.stringMatching(/0 of 15 km/),
    });
    expect(diesel({ vss: 60, app: 41 })).toMatchObject({
      unmet: ['pedal'],
      sentence: expect.stringMatching(/floor it/),
    });
    expect(diesel({ vss: 15, app: 70 }).state).toBe('done');
    // Behind a throttle a full manifold is a pull, whatever the wheels of a dynamometer say.
    expect(after({ vss: 0, app: 41 }).state).toBe('done');
  });
  test('a snap is of a car that stands', () => {
    expect(after({ vss: 0 }, 'snap').state).toBe('done');
    expect(after({ vss: 24 }, 'snap')).toMatchObject({
      unmet: ['speed'],
      sentence: expect.stringMatching(/to stand: 24 km/),
    });
  });
  test('started a moment ago it is none', () => {
    const g = new Followed(guidedSetup(capturePoint('full-load')!, { metered: true }));
    feed(g, 0, 3, () => ({ rpm: 0, map: 99 }));
    const s = feed(g, 3, 4, () => FULL);
    expect([s.state, unmet(s), s.sentence]).toEqual([
      'waiting',
      ['running'],
      'Waiting for the engine to settle after its start.',
    ]);
    expect(feed(g, 7, 8, () => FULL).state).toBe('done');
  });
});

describe('a snap that the pressure does not follow', () => {
  const snap = () => new Followed(guidedSetup(capturePoint('snap')!, { metered: true }));
  /** Revved from `peakS` on for half a second, up to `to`; `map` says what the sensor shows. */
  const revved = (to: number, map: (share: number) => number) => (t: number) => {
    const share = t < 6 ? 0 : t < 6.6 ? (t - 6) / 0.6 : Math.max(0, 1 - (t - 6.6) / 1.2);
    return { rpm: 750 + (to - 750) * share, maf: 2.4 + 30 * share, map: map(share) };
  };
  test('ends by its own rule, says so, and counts', () => {
    const g = snap();
    const s = feed(
      g,
      0,
      12,
      revved(3600, () => 31),
    );
    expect(s.state).toBe('done');
    expect(g.reading()).toMatchObject({ at: 'snap', pressureFollows: false });
    expect(g.flags().join()).toMatch(/did not follow the snap/);
  });
  test('a gentle rev of a healthy engine is none; a snap of one ends as it does', () => {
    const gentle = snap();
    expect(
      feed(
        gentle,
        0,
        12,
        revved(2300, (x) => 31 + 14 * x),
      ).state,
    ).toBe('waiting');
    const real = snap();
    expect(
      feed(
        real,
        0,
        12,
        revved(4200, (x) => 31 + 66 * x),
      ).state,
    ).toBe('done');
    expect(real.reading().pressureFollows).toBeUndefined();
  });
});

describe('as a transition', () => {
  /** Nothing of a state may ever change. */
  function frozen<T>(v: T): T {
    if (v !== null && typeof v === 'object' && !Object.isFrozen(v)) {
      if (v instanceof Map) for (const x of v.values()) frozen(x);
      else for (const x of Object.values(v)) frozen(x);
      Object.freeze(v);
    }
    return v;
  }
  test('the same state and event give the same again, and the state is as it was', () => {
    const g = idle();
    feed(g, 0, 8);
    const before = frozen(g.state);
    const lengths = () => [...before.signals.series].map(([id, list]) => [id, list.length]);
    const had = lengths();
    const samples: Sample[] = [0, 0.2, 0.4].map((t) => ({ channel: 'rpm', atUs: (8 + t) * 1e6, value: 740 }));
    const once = guide(g.setup, before, { kind: 'samples', samples });
    expect(guide(g.setup, before, { kind: 'samples', samples })).toEqual(once);
    expect(lengths()).toEqual(had);
    expect(once[0].signals.series.get('rpm')).toHaveLength((had.find(([id]) => id === 'rpm')![1] as number) + 3);
  });
  test('what is to be done is said once: opened, kept; after that nothing', () => {
    const g = idle();
    feed(g, 0, 30);
    expect(g.actions).toEqual(['open', 'keep']);
    g.interrupted();
    expect(g.state.step).toBe('done');
  });
  test('a refusal is said once; trying again opens anew', () => {
    const g = idle();
    for (let i = 0; i < 20 && g.state.step !== 'refused'; i++)
      feed(g, i * 5, 5, (t) => ({ maf: 2.4 + 0.055 * (t % 14) }));
    expect(g.actions.filter((a) => a === 'refuse')).toHaveLength(1);
    feed(g, 200, 20);
    expect(g.actions.at(-1)).toBe('refuse');
    g.again();
    feed(g, 220, 14);
    expect(g.actions.slice(-2)).toEqual(['open', 'keep']);
  });
  test('tried again it may wander as often as at first before it is refused again', () => {
    const g = idle();
    const wanders = [g.state.wanders];
    for (let i = 0; i < 20 && g.state.step !== 'refused'; i++)
      feed(g, i * 5, 5, (t) => ({ maf: 2.4 + 0.055 * (t % 14) }));
    wanders.push(g.state.wanders);
    g.again();
    wanders.push(g.state.wanders);
    expect(wanders).toEqual([0, 3, 0]);
  });
});

describe('a free recording', () => {
  test('counts from the first sample on, has no conditions and no window', () => {
    expect(freeStatus(record(FREE_START, []))).toMatchObject({ state: 'capturing', goodS: 0, conditions: [] });
    const at = (t: number): Sample => ({ channel: 'o2s11', atUs: t * 1e6, value: 0.4 });
    const some = record(FREE_START, [at(5), at(6.5)]);
    expect(freeStatus(some).goodS).toBe(1.5);
    expect(freeStatus(record(some, [])).goodS).toBe(1.5);
  });

  test('one parameter alone is the whole plan', () => {
    expect(planAlone('o2s21')).toEqual({ id: 'alone', fast: [0x18], slow: [] });
    expect(() => planAlone('nonsense')).toThrow('no parameter carries nonsense');
  });
});

test('an airflow signal that never moves is left out, and the flag says so', () => {
  const g = idle();
  for (let s = 0; s < 16; s++)
    g.take(
      Array.from({ length: 5 }, (_, k) => k / 5).flatMap((f): Sample[] => {
        const atUs = (s + f) * 1e6;
        const now = { rpm: 750, maf: 2.1, map: 31, ect: 90, stft1: 3, ltft1: 5 };
        return [
          ...Object.entries(now).map(([channel, value]) => ({ channel, atUs, value })),
          { channel: 'fuelSys1', atUs, value: 'closed loop' },
          { channel: 'fuelSys2', atUs, value: 'not reported' },
        ];
      }),
    );
  expect(g.status().state).toBe('done');
  expect(g.reading().mafGps).toBeUndefined();
  expect(g.reading().mapKPa).toBe(31);
  expect(g.flags()).toEqual(['airflow never moved: a frozen or substituted signal, left out']);
});

test('one broken word about the loop opens nothing; the second in a row does', () => {
  const g = idle();
  feed(g, 0, 8);
  expect(g.status().state).toBe('capturing');
  const broken = (t: number): Sample[] => [{ channel: 'fuelSys1', atUs: t * 1e6, value: 'open loop: cold' }];
  expect(g.take(broken(8)).state).toBe('capturing');
  expect(feed(g, 8, 1).state).toBe('capturing');
  g.take(broken(9));
  expect(g.take(broken(9.1)).state).toBe('waiting');
});

test('a sensor that stands at the end of its range is left out, and the flag says so', () => {
  // SAE J1979 PIDs 0B, 0C, 10, 14 (from memory): one byte of kPa; rpm in quarters; g/s in hundredths; V in 1/200.
  expect(['map', 'rpm', 'maf', 'o2s11'].map((id) => FULL_SCALE.get(id)!.toFixed(3))).toEqual([
    '255.000',
    '16383.750',
    '655.350',
    '1.275',
  ]);
  const g = idle();
  feed(g, 0, 16, () => ({ map: 255 }));
  expect(g.status().state).toBe('done');
  expect(g.reading()).toMatchObject({ rpm: 750, mafGps: 2.4 });
  expect(g.reading().mapKPa).toBeUndefined();
  expect(g.flags()).toEqual(['map stood at the end of its range: pegged, left out']);
});

describe('one capture for whoever keeps the record', () => {
  const car = { vehicle: { metering: 'maf', fuel: 'petrol' } as const, ambient: { baroKPa: 84 } };
  test('at a point it is guided, with the card and the pressure of the place; anywhere else it is free', () => {
    expect(beginRun('idle', car)).toEqual({
      setup: guidedSetup(capturePoint('idle')!, { metered: true, banks: 1, fuel: 'petrol', baroKPa: 84 }),
      state: GUIDED_START,
    });
    expect(beginRun('free', car)).toEqual({ setup: null, state: FREE_START });
    const noMaf = { ...car, vehicle: { ...car.vehicle, metering: 'speed-density' as const, banks: 2 as const } };
    expect(beginRun('idle', noMaf).setup).toMatchObject({ metered: false, banks: 2 });
  });
  test('a free recording takes samples and nothing else', () => {
    const run = followRun(beginRun('free', car), {
      kind: 'samples',
      samples: [{ channel: 'rpm', value: 700, atUs: 2e6 }],
    });
    expect(followRun(followRun(run, { kind: 'interrupted' }), { kind: 'again' })).toEqual(run);
    expect(runStatus(run)).toMatchObject({ state: 'capturing', goodS: 0 });
  });
  test('the bus is asked for what the point wants, or for one channel alone; never for one that no parameter carries', () => {
    expect(planOf('idle').id).toBe(capturePoint('idle')!.plan);
    expect(planOf('free')).toBe(PLANS.road);
    expect(planOf('free', 'rpm').fast).toEqual([0x0c]);
    expect(() => planOf('free', 'nothing')).toThrow(/nothing/);
  });
});

describe('the points and their conditions', () => {
  // Common practice, no source: engine speed, road speed and length of the window of each; what is read warm and in closed loop.
  test.each([
    ['koeo', 'steady', 0, 0, undefined, 3, false, false, 'pressure'],
    ['cold-idle', 'steady', 450, 2000, undefined, 10, false, false, 'mixture'],
    ['idle', 'steady', 450, 1200, undefined, 10, true, true, 'mixture'],
    ['idle-ac', 'steady', 450, 1300, undefined, 10, true, true, 'mixture'],
    ['hold-2500', 'steady', 2000, 3500, undefined, 10, true, true, 'mixture'],
    ['snap', 'peak', 450, 7000, undefined, 0.2, true, false, 'snap'],
    ['road-load', 'steady', 1100, 3800, 40, 10, true, true, 'road'],
    ['full-load', 'peak', 2200, 6500, undefined, 2, true, false, 'pull'],
    ['boost', 'peak', 1800, 6500, undefined, 2, true, false, 'pull'],
    ['decel', 'peak', 1200, 4500, 30, 2, true, false, 'road'],
  ])('%s', (at, kind, rpmLow, rpmHigh, speedLowKmh, windowS, needsWarm, needsClosedLoop, plan) => {
    const p = capturePoint(at)!;
    expect({ ...p, speedLowKmh: p.speedLowKmh }).toMatchObject({
      ...{ at, kind, rpmLow, rpmHigh, speedLowKmh, windowS, needsWarm, needsClosedLoop, plan },
    });
  });
  test('trims are read at steady points with the engine running, and at no other', () => {
    expect(CAPTURE_POINTS.filter((p) => p.trims).map((p) => p.at)).toEqual(
      CAPTURE_POINTS.filter((p) => p.kind === 'steady' && p.rpmHigh > 0).map((p) => p.at),
    );
  });
  test('what a complaint asks for beside idle and the hold, in the order in which it is taken', () => {
    const petrol = { fuel: 'petrol', metering: 'maf', induction: 'na' };
    expect(pointsFor(petrol, [])).toEqual(['idle', 'hold-2500']);
    expect(pointsFor(petrol, ['low-power'])).toEqual(['idle', 'hold-2500', 'road-load', 'full-load']);
    expect(pointsFor({ ...petrol, induction: 'turbo' }, ['limp-mode']).at(-1)).toBe('boost');
    expect(pointsFor(petrol, ['hesitation', 'surge'])).toEqual(['idle', 'hold-2500', 'snap', 'road-load']);
    expect(pointsFor(petrol, ['hard-start-cold']).slice(0, 2)).toEqual(['koeo', 'cold-idle']);
    expect(pointsFor(petrol, ['stall'])).toContain('idle-ac');
    expect(pointsFor({ ...petrol, metering: 'speed-density' }, [])[0]).toBe('koeo');
    for (const fitted of [{ metering: 'both' }, { induction: 'turbo' }])
      expect(pointsFor({ ...petrol, ...fitted }, [])[0]).toBe('koeo');
    expect(pointsFor({ ...petrol, fuel: 'diesel' }, [])).toEqual(['koeo', 'idle', 'hold-2500', 'full-load']);
  });
});
