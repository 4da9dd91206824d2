import { describe, expect, test } from '@jest/globals';
import { FAULTS } from '../src/catalogue/index.ts';
import {
  beforeItGoesOut,
  CUSTOMER_WORDS,
  dayOf,
  type HandOverJob,
  handOverDocuments,
  inOwnWords,
  type Labour,
  type Letterhead,
  labourOf,
  provenHere,
  remindersOf,
  sectionWords,
} from '../src/handOver/index.ts';
import { type RunEvent, SHIPPED_PROCEDURES } from '../src/procedures/index.ts';
import { DEFAULT_LIMITS } from '../src/trims/index.ts';
import { job, reading, repaired, T, taken } from './jobs.ts';

const documents = (j: HandOverJob, units: 'metric' | 'us' = 'metric') =>
  handOverDocuments({ job: j, shop: 'Linden Yard', proof: provenHere(j, {}), limits: DEFAULT_LIMITS, units });
const said = (d: ReturnType<typeof documents>['customer']) =>
  d.sections.map((s) => `${s.id}: ${sectionWords(s)}`).join('\n');

test('every fault of the catalogue has words for the customer: one sentence, no figure, no trade word', () => {
  expect(Object.keys(CUSTOMER_WORDS).sort()).toEqual(FAULTS.map((f) => f.id).sort());
  for (const [id, w] of Object.entries(CUSTOMER_WORDS)) {
    expect([id, w.wrong]).toEqual([id, expect.stringMatching(/^[A-Z].*\.$/)]);
    expect(`${w.wrong} ${w.watch ?? ''}`).not.toMatch(/\d|trim|\blean\b|\brich\b|MAF|MAP|EGR|PCV|bank|lambda/);
    expect(w.source).toMatch(/house|common practice/);
  }
});

describe('what was wrong, for the customer', () => {
  const wrong = (j: HandOverJob) => /^wrong: (.*)$/m.exec(said(documents(j).customer))![1]!;
  const fuel = { at: T(3), by: 'I. Sato', undone: false, text: 'Filter renewed', fault: 'fuel-low', part: null };
  const healthy = [
    taken('before', T(2, 10), reading('idle', 0.9, 2.4)),
    taken('before', T(2, 11), reading('hold-2500', 0.4, 9.3)),
  ];
  test('found is only what the readings after the repair show', () => {
    expect(wrong(repaired())).toBe(CUSTOMER_WORDS['vac-leak']!.wrong);
    // The same repair, not measured again, or measured and no better.
    for (const after of [[], [taken('after', T(3, 15), reading('idle', 13.1, 2.4))]]) {
      const open = repaired({ readings: [...job().readings, ...after] });
      expect(wrong(open)).toMatch(/^We took it to be this, and worked on it: .*not proven yet\.$/);
    }
  });
  test('a healthy car on which something was renewed has had nothing wrong that anybody found', () => {
    for (const repairs of [[fuel], [{ ...fuel, fault: null }], [{ ...fuel, guessed: true }]]) {
      const words = wrong(job({ readings: healthy, repairs }));
      expect(words.startsWith('Too little fuel was reaching the engine')).toBe(false);
    }
    const calm = { records: [], complaint: { symptoms: ['none'] }, readings: healthy };
    expect(wrong(job({ ...calm, repairs: [{ ...fuel, fault: null }] }))).toBe(CUSTOMER_WORDS.balanced!.wrong);
  });
  test('in order without trims: the mixture is not said to be measured, and of a diesel it is not spoken of', () => {
    const first = job().diagnoses[0]!.output;
    const causes = [{ ...first.causes[0]!, fault: 'balanced', probability: 0.8 }];
    const of = (mixture: typeof first.mixture) =>
      wrong(job({ diagnoses: [{ at: T(2, 12), output: { ...first, causes, mixture } }] }));
    expect(of('undetermined')).toMatch(/shows nothing wrong; the mixture itself has not been measured\.$/);
    expect(of('not-applicable')).toBe('What has been looked at so far shows nothing wrong.');
    expect(of('balanced')).toBe(CUSTOMER_WORDS.balanced!.wrong);
  });
  test('work whose cause nobody named is not said to be outstanding', () => {
    const one = [{ ...fuel, fault: null }];
    expect(wrong(job({ repairs: one }))).not.toMatch(/has not been repaired yet/);
  });
});

describe('for the customer', () => {
  test('before a repair nothing is called mended: what is likely is said as likely', () => {
    const { customer } = documents(job());
    expect(said(customer)).toContain('done: We measured and tested. Nothing has been repaired yet.');
    expect(said(customer)).toContain('proof: Nothing has been repaired yet, so there is nothing to prove.');
    expect(said(customer)).toMatch(/wrong: (Most likely: |The measurements fit several causes)/);
  });

  test('proven, with the other half of the proof still open and its day', () => {
    const text = said(documents(repaired()).customer);
    expect(text).toContain('wrong: Air was getting into the engine past the sensor that measures it.');
    expect(text).toContain('they are back where they should be');
    expect(text).toContain('Whether the fault stays away shows after two ordinary drives.');
    // Seven days after the repair [house].
    expect(text).toContain('Please come by on or after 10 February 2026');
  });

  test('not measured again: said so; a repair taken back is no repair', () => {
    expect(said(documents(repaired({ readings: job().readings })).customer)).toContain(
      'the repair is not shown to work',
    );
    const undone = repaired();
    undone.repairs[0]!.undone = true;
    expect(said(documents(undone).customer)).not.toContain('Intake gasket renewed');
  });

  test('a condemned part that is still fitted is told, balanced or not', () => {
    const output = { ...job().diagnoses[0]!.output, condemned: ['maf-damaged'] };
    const text = said(documents(repaired({ diagnoses: [{ at: T(2, 12), output }] })).customer);
    expect(text).toContain('a part that we found damaged is still fitted');
    expect(text).toContain('• A part was found damaged and is still fitted: airflow sensor damaged.');
  });
});

describe('what the minutes come to', () => {
  const tested = (undone: boolean) => ({
    at: T(2, 13),
    by: 'I. Sato',
    phase: 'before' as const,
    undone,
    test: { id: 'compression', result: 'even' },
  });
  const record = (j: HandOverJob, labour?: Labour) =>
    said(
      handOverDocuments({
        job: j,
        shop: 'Linden Yard',
        proof: null,
        limits: DEFAULT_LIMITS,
        units: 'metric',
        labour,
        minutes: { compression: 45 },
      }).technician,
    );

  test('by the shop’s own minutes and rate, tests taken back left out; never without a rate', () => {
    const j = repaired({ tests: [tested(false), tested(true)] as never });
    expect(labourOf(j, { compression: 45 })).toEqual({ tests: 45, procedures: 0 });
    // Worked by hand: 45 / 60 × 64 = 48.
    expect(record(j, { perHour: 64, currency: 'EUR' })).toContain('at 64.00 EUR an hour 48.00 EUR');
    expect(record(j)).not.toContain('an hour');
    expect(record(repaired(), { perHour: 64, currency: 'EUR' })).not.toContain('an hour');
  });

  test('parts by the shop’s list, each once; what has no price there is named', () => {
    const entries = ['Fuel pump', 'fuel pump', 'Clamp', 'Ring'].map((name, i) => ({
      id: `p${i}`,
      kind: 'part',
      at: T(2, 14),
      by: 'I. Sato',
      undone: false,
      data: { name, make: 'new', oldKept: false },
    }));
    const j = { ...repaired(), entries } as unknown as HandOverJob;
    const says = record(j, { perHour: 64, currency: 'EUR', parts: { 'fuel pump': 140, ring: 2.5, belt: 9 } });
    // By hand: 140 + 2.50.
    expect(says).toContain('fuel pump 140.00, ring 2.50; together 142.50 EUR.');
    expect(says).toMatch(/Without a price there: .*clamp/);
    expect(record(j, { perHour: 64, currency: 'EUR' })).not.toContain('shop’s list');
  });
});

describe('units', () => {
  test('figures of ours follow the reader; what a person wrote stays as it was written', () => {
    const { technician, customer } = documents(repaired(), 'us');
    const rows = technician.sections
      .flatMap((s) => s.blocks.flatMap((b) => (b.kind === 'table' ? [b.head, ...b.rows] : [])))
      .flat();
    expect(rows.join('|')).not.toMatch(/\d (kPa|°C|g\/s|km)\b/);
    // 98,000 km and 2.40 g/s, by hand: / 1.609344; × 60 / 453.59237 (NIST SP 811).
    expect(rows).toContain('60,894 mi');
    expect(rows).toContain('0.32');
    expect(said(customer)).toContain('3 psi low');
  });
});

describe('pictures', () => {
  const procedure = SHIPPED_PROCEDURES.find((p) => p.id === 'airflow-sensor-clean')!;
  const photo = (more: object) => ({ id: 'f', label: 'Picture', undone: false, at: T(4), by: 'I. Sato', ...more });
  const titles = (...photos: ReturnType<typeof photo>[]) => {
    const done = { kind: 'done', step: 'pins', round: 0, answer: 'green, black or burnt' };
    const events = [{ id: 'e', atMs: 1, by: 'I. Sato', what: done }] as RunEvent[];
    const runs = [{ id: 'r', at: T(3), by: 'I. Sato', procedure, events }];
    const test = { id: 'smoke-intake', outcome: 'duct' };
    const tests = [{ id: 't', undone: false, phase: 'before' as const, at: T(2), by: 'I. Sato', test }];
    const { technician } = documents(job({ photos, runs, tests }));
    return technician.sections.flatMap((s) =>
      s.blocks.flatMap((b) => (b.kind === 'photos' ? b.photos.map((p) => p.label) : [])),
    );
  };
  test('are titled by what they show: a part and what was found, a result; else by whom and when', () => {
    const step = procedure.steps.find((s) => s.kind === 'photo')!;
    const shown = titles(
      photo({ run: 'r', step: step.id, label: 'x' }),
      photo({ run: 'r', step: 'pins', label: 'x' }),
      photo({ step: 'test:t' }),
      photo({}),
      photo({ label: 'Complaint', step: 'complaint' }),
    );
    expect(shown[0]).not.toMatch(/Picture/);
    expect(shown[0]).toMatch(/^[A-Z].*[^.]$/);
    expect(shown.slice(1)).toEqual([
      expect.stringMatching(/: green, black or burnt$/),
      expect.stringMatching(/^Smoke.*: at the duct$/),
      'Taken 4 February 2026 by I. Sato',
      'Complaint, taken 4 February 2026 by I. Sato',
    ]);
  });
});

describe('own words', () => {
  const wording = (text: string, was: string, at = T(4)) => ({
    kind: 'wording',
    undone: false,
    at,
    by: 'R. Okafor',
    data: { document: 'customer', section: 'watch', text, was },
  });

  test('replace the words, keep what was measured, are marked, and say when the facts have moved on', () => {
    const own = documents(repaired()).customer.sections.find((s) => s.id === 'watch')!.own;
    const fits = documents(repaired({ entries: [wording('Come by in May.\n• Listen for a hiss', own)] })).customer;
    const section = fits.sections.find((s) => s.id === 'watch')!;
    expect(section.blocks).toEqual([
      { kind: 'text', text: 'Come by in May.' },
      { kind: 'list', items: ['Listen for a hiss'] },
    ]);
    expect(section.edited).toEqual({ by: 'R. Okafor', at: T(4), stale: false });
    const stale = documents(repaired({ entries: [wording('x', 'what was said before')] })).customer;
    expect(stale.sections.find((s) => s.id === 'watch')!.edited!.stale).toBe(true);
    // In the other units it is no more stale than in these.
    const us = documents(repaired({ entries: [wording('x', own)] }), 'us').customer;
    expect(us.sections.find((s) => s.id === 'watch')!.edited!.stale).toBe(false);
  });

  test('the newest counts; empty ones bring ours back; a trim chart stays under other words', () => {
    const doc = documents(repaired()).customer;
    const w = (text: string, section = 'watch') => ({
      id: text,
      document: 'customer' as const,
      section,
      text,
      was: '',
      by: 'x',
      at: T(4),
    });
    expect(inOwnWords(doc, [w('one'), w('')]).sections.find((s) => s.id === 'watch')!.edited).toBeUndefined();
    const measured = inOwnWords(doc, [w('Much better.', 'measured')]).sections.find((s) => s.id === 'measured')!;
    expect(measured.blocks.map((b) => b.kind)).toEqual(['text', 'trimChart']);
  });

  test('two worded at the same time, out of sight of each other: both are there until somebody has seen both', () => {
    const doc = documents(repaired()).customer;
    const w = (id: string, by: string, over?: string[]) => ({
      ...{ id, document: 'customer' as const, section: 'watch', text: `by ${id}`, was: '', by, at: T(4) },
      ...(over ? { over } : {}),
    });
    const watch = (...all: ReturnType<typeof w>[]) => inOwnWords(doc, all).sections.find((s) => s.id === 'watch')!;
    const [first, mine, theirs] = [w('1', 'x', []), w('2', 'x', ['1']), w('3', 'y', ['1'])];
    expect(watch(first, mine)).toMatchObject({ heads: ['2'], others: [] });
    const two = watch(first, mine, theirs);
    expect([two.edited!.by, two.heads, two.others]).toEqual(['y', ['3', '2'], [{ by: 'x', at: T(4), text: 'by 2' }]]);
    // In whatever order they arrive, and a second one of the same tablet in its own sight.
    expect(watch(first, theirs, mine, w('4', 'x', ['2'])).heads).toEqual(['4', '3']);
    expect(watch(first, mine, theirs, w('5', 'x', two.heads as string[]))).toMatchObject({ heads: ['5'], others: [] });
    // One of before this was kept had all before it in sight; the same words twice are no question.
    expect(watch(first, mine, w('6', 'y')).others).toEqual([]);
    expect(watch(first, mine, { ...theirs, text: 'by 2 ' }).others).toEqual([]);
    // Ours again, while somebody worded it: that is a question too.
    expect(watch(first, mine, { ...theirs, text: '' })).toMatchObject({ others: [{ text: 'by 2' }] });
  });
});

describe('reminders', () => {
  test('none before a repair; the pending code, open monitors and days that people set, nearest first', () => {
    expect(remindersOf(job())).toEqual([]);
    const monitors = {
      lampOn: false,
      codeCount: 0,
      ignition: 'spark' as const,
      monitors: [{ id: 'evap' as const, state: 'incomplete' as const }],
    };
    const after = {
      ...job().records[0]!,
      phase: 'after' as const,
      at: T(3, 18),
      codes: [],
      monitors,
      warmupsSinceClear: 1,
    };
    const recheck = {
      kind: 'recheck',
      undone: false,
      at: T(3),
      by: 'x',
      data: { dueAt: T(5), what: 'Oil at the throttle' },
    };
    const r = remindersOf(repaired({ records: [...job().records, after], entries: [recheck] }));
    expect(r.map((x) => [x.kind, x.dueAt])).toEqual([
      ['recheck', T(5)],
      ['pending-code', T(10)],
      ['open-monitor', T(17)],
    ]);
    expect(remindersOf(repaired({ entries: [{ ...recheck, undone: true }] })).map((x) => x.kind)).toEqual([
      'pending-code',
    ]);
  });

  test('days are written out', () => expect(dayOf('2026-12-31T23:59:00.000Z')).toBe('31 December 2026'));
});

test('the technician’s record: every reading, test, chance, person; nothing empty', () => {
  const j = repaired({
    tests: [
      {
        undone: false,
        phase: 'before',
        at: T(2, 13),
        by: 'M. Duarte',
        test: { id: 'smoke-intake', outcome: 'gasket-bank1' },
      },
    ],
  });
  const { technician } = documents(j);
  expect(technician.sections.map((s) => s.id)).toEqual([
    'vehicle',
    'codes',
    'readings',
    'weighing',
    'tests',
    'work',
    'proof',
    'open',
    'people',
  ]);
  const cells = technician.sections.flatMap((s) => s.blocks.flatMap((b) => (b.kind === 'table' ? b.rows : []))).flat();
  for (const t of ['P0171 stored', '+12.9', '+13.5', 'M. Duarte', 'I. Sato', 'Intake gasket renewed'])
    expect(cells).toContain(t);
  for (const s of technician.sections)
    for (const b of s.blocks) if (b.kind === 'table') for (const row of b.rows) expect(row).toHaveLength(b.head.length);
});

test('the technician’s record has what was tightened, with whose figure it is, and the pins of each connector', () => {
  const procedure = SHIPPED_PROCEDURES.find((p) => p.id === 'airflow-sensor-replace')!;
  const way: RunEvent['what'][] = procedure.steps.map((s) => ({
    kind: 'done',
    step: s.id,
    round: 0,
    ...(s.answers ? { answer: s.answers[0]!.text } : {}),
    ...(s.kind === 'torque' ? { torqueNm: 2, torqueSource: 'service manual' } : {}),
  }));
  const events = way.map((what, i) => ({ id: `e${i + 100}`, atMs: Date.parse(T(3)) + i, by: 'I. Sato', what }));
  const pairs = [
    ['1', 'battery-', 12.5],
    ['2', 'battery-', 0.03],
    ['3', 'battery-', 5.01],
  ] as const;
  const readings = pairs.map(([red, black, volts]) => ({ red, black, volts, signed: true }));
  const data = { connector: 'airflow sensor', pins: ['1', '2', '3'], batteryV: 12.6, running: false, readings };
  const entry = { id: 'x', rev: 1, at: T(3), by: 'I. Sato', undone: false, kind: 'pins', data };
  const j = job({
    runs: [{ at: T(3), by: 'I. Sato', procedure, events }],
    entries: [entry as unknown as HandOverJob['entries'][number]],
  });
  const words = (units: 'metric' | 'us') =>
    documents(j, units)
      .technician.sections.flatMap((x) => x.blocks)
      .flatMap((b) => (b.kind === 'table' ? [b.caption, ...b.rows.flat()] : []))
      .join('\n');
  expect(words('metric')).toMatch(/Tightened[\s\S]*Replace the airflow sensor[\s\S]*2\.0 N·m[\s\S]*service manual/);
  expect(words('metric')).toMatch(
    /Pins of airflow sensor[\s\S]*12\.50 V[\s\S]*supply[\s\S]*0\.03 V[\s\S]*ground[\s\S]*5\.01 V[\s\S]*reference/,
  );
  // NIST SP 811: 2 N·m is 1.475 lbf·ft, 17.70 lbf·in.
  expect(words('us')).toMatch(/1\.5 lbf·ft|18 lbf·in|17\.7 lbf·in/);
});

describe('before a paper goes out', () => {
  const papers = (j: HandOverJob) => Object.values(documents(j));
  const checks = (j: HandOverJob, proof: Parameters<typeof beforeItGoesOut>[1] = null) =>
    Object.fromEntries(beforeItGoesOut(j, proof, papers(j)).map((c) => [c.id, c]));
  const repair = { at: T(3), by: 'I. Sato', undone: false, text: 'Hose replaced', fault: 'vac-leak', part: null };
  const part = (more: object) => ({
    ...{ kind: 'part', undone: false, at: T(3), by: 'I. Sato' },
    data: { name: 'hose', make: 'original', oldKept: false, ...more },
  });

  test('a repair is proven, or it is said that it is not', () => {
    const j = job({ repairs: [repair] });
    expect(checks(j, { verdict: 'proven' }).proof).toMatchObject({ fine: true, title: 'Proven' });
    expect(checks(j).proof).toMatchObject({ fine: false, why: 'Nothing was read after the repair.' });
    expect(checks(j, { verdict: 'worse' }).proof).toMatchObject({ fine: false, why: 'After the repair: worse.' });
    expect(checks(job({ repairs: [{ ...repair, undone: true }] })).proof).toMatchObject({ fine: true });
  });
  test('a part without its number is named; the old one that is kept is said', () => {
    expect(checks(job()).parts).toBeUndefined();
    expect(checks(job({ entries: [part({})] })).parts).toMatchObject({ fine: false, why: 'hose.' });
    const one = checks(job({ entries: [part({ number: 'A 1', oldKept: true })] }));
    expect(one.parts!.why).toBe('1 part with number; the old one is kept.');
    const both = [part({ number: 'A 1', oldKept: true }), part({ name: 'clamp', number: 'B 2' })];
    expect(checks(job({ entries: both })).parts).toMatchObject({
      fine: true,
      why: '2 parts with number; of 1 the old one is kept.',
    });
  });
  test('open monitors are named, and not where the car told none', () => {
    const monitors = (state: 'complete' | 'incomplete') =>
      ({ monitors: [{ id: 'evap', state }], lampOn: false, storedCodes: 0 }) as never;
    const read = (m: never) => job({ records: [{ ...job().records[0]!, monitors: m }] });
    expect(checks(read(monitors('incomplete'))).monitors).toMatchObject({ fine: false, title: '1 monitor open' });
    expect(checks(read(monitors('complete'))).monitors).toMatchObject({ fine: true });
    expect(checks(job({ records: [] })).monitors).toBeUndefined();
  });
  test('words that the facts have left behind', () => {
    const said = { document: 'customer', section: 'done', text: 'A new hose.', was: 'something else' };
    const entry = { id: 'w', kind: 'wording', undone: false, at: T(4), by: 'I. Sato', data: said };
    expect(checks(job({ entries: [entry] })).words).toMatchObject({ fine: false, why: 'What we did.' });
    const own = documents(job()).customer.sections.find((s) => s.id === 'done')!.own;
    expect(checks(job({ entries: [{ ...entry, data: { ...said, was: own } }] })).words).toMatchObject({ fine: true });
  });
});

test('the letterhead has the lines that are set; the plate goes with the car', () => {
  const j = job();
  const of = (letterhead?: Letterhead, plate?: string) =>
    handOverDocuments({
      ...{ job: { ...j, vehicle: { ...j.vehicle, ...(plate ? { plate } : {}) } }, shop: 'Linden Yard', proof: null },
      ...{ limits: DEFAULT_LIMITS, units: 'metric' as const, ...(letterhead ? { letterhead } : {}) },
    }).customer;
  expect(of().letterhead).toEqual(['Linden Yard']);
  expect(of({ does: ' ', address: '3 High Road', phone: '0555' }).letterhead).toEqual([
    'Linden Yard',
    '3 High Road · 0555',
  ]);
  expect([of().plate, of({}, 'KL 44').plate]).toEqual([null, 'KL 44']);
});
