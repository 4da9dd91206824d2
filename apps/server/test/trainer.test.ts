import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { PRACTICE_SCENARIOS } from '@just-balance/core/scenarios';
import { unzipSync } from 'fflate';
import { v7 as uuid } from 'uuid';
import { hashPassword } from '../src/accounts/passwords.ts';
import { Account } from '../src/rows/accounts.ts';
import { JobOutcomeRow } from '../src/rows/learning.ts';
import { JobTag } from '../src/rows/logbook.ts';
import { Client, type Fixture, startFixture } from './harness.ts';

let fixture: Fixture;
let lead: Client;
let learner: Client;
beforeAll(async () => {
  fixture = await startFixture();
  lead = await new Client(() => fixture.base).signIn();
  const { shopId } = (await Account.findOne({ where: { email: 'okafor@linden.example' } }))!;
  await Account.create({
    id: uuid(),
    shopId,
    email: 'learner@linden.example',
    name: 'P. Moreau',
    role: 'learner',
    passwordHash: await hashPassword('learning-here-1'),
  });
  learner = await new Client(() => fixture.base).signIn('learner@linden.example', 'learning-here-1');
});
afterAll(() => fixture.close());

/** What is in front of somebody is given up first: one at a time. */
const begin = async (body: object, who = learner) => {
  const { name } = (await who.get('/session')).body.account;
  const open = (await who.get('/practice/attempts')).body.filter(
    (l: { by: string; answered: boolean }) => l.by === name && !l.answered,
  );
  for (const l of open) await who.post(`/practice/attempts/${l.id}/give-up`, {});
  return (await who.post('/practice/attempts', { id: uuid(), hints: true, ...body })).body;
};
const ask = (a: { id: string }, kind: string, what: string, who = learner) =>
  who.post(`/practice/attempts/${a.id}/ask`, { id: uuid(), kind, what });

describe('a practice car', () => {
  test('answers from its physics into a job like any other; what is wrong stays hidden until it is named', async () => {
    const a = await begin({ scenario: 'shaking-hatch' });
    expect(JSON.stringify(a)).not.toMatch(/vac-leak|0\.52/);
    expect(a).toMatchObject({ title: 'The shaking hatch', minutes: 0, faults: null, score: null });
    const idle = await ask(a, 'reading', 'idle');
    expect(idle.status).toBe(200);
    await ask(a, 'reading', 'hold-2500');
    const smoke = (await ask(a, 'test', 'smoke-intake')).body;
    expect(smoke.minutes).toBe(3 + 3 + 15);
    expect(smoke.moves[2]).not.toHaveProperty('truth');
    const job = await learner.job(a.job);
    expect(job).toMatchObject({ practice: true, counts: { before: 2, tests: 1 }, vehicle: { label: 'Quillon 1.8' } });
    // The same car gives the same figures: SAE-J1979-sized trims of a leak that fades with flow.
    const [i, h] = job.readings.map(
      (r: { reading: { trims: { bank1: { ltft: number } } } }) => r.reading.trims.bank1.ltft,
    );
    expect(i).toBeGreaterThan(2 * h);
    const done = (
      await learner.post(`/practice/attempts/${a.id}/answer`, { fault: 'vac-leak', size: 0.5, remedy: 'repair' })
    ).body;
    expect(done.faults).toEqual([{ id: 'vac-leak', severity: 0.52 }]);
    const of = (id: string) => done.score.parts.find((p: { id: string }) => p.id === id);
    expect([of('cause').points, of('size').points, of('remedy').points, of('parts').points]).toEqual([45, 10, 10, 10]);
    expect(of('cautions').points).toBe(0);
    // The best way ends on what is wrong, and its minutes are those of its steps.
    const minutes = done.bestPath.reduce((n: number, p: { minutes: number }) => n + p.minutes, 0);
    expect(done.score.bestMinutes).toBe(minutes);
    expect(done.bestPath.length).toBeGreaterThan(1);
    expect(done.moves[2].belief[0].probability).toBeGreaterThan(0.3);
    expect((await ask(a, 'reading', 'idle')).status).toBe(409);
    expect(
      (await learner.post(`/practice/attempts/${a.id}/answer`, { fault: 'vac-leak', remedy: 'repair' })).status,
    ).toBe(409);
  });

  test('counts for nothing of the shop’s: no board, no logbook, no outcome, no vehicle', async () => {
    const a = await begin({ scenario: 'split-duct' });
    expect((await lead.get('/jobs')).body.some((j: { id: string }) => j.id === a.job)).toBe(false);
    expect((await lead.get('/logbook?q=quillon')).body.some((j: { id: string }) => j.id === a.job)).toBe(false);
    expect(await JobTag.count({ where: { jobId: a.job } })).toBe(0);
    expect(await JobOutcomeRow.count({ where: { jobId: a.job } })).toBe(0);
    const vehicleId = (await learner.get(`/jobs/${a.job}`)).body.vehicle.id;
    expect((await lead.get('/vehicles')).body.some((v: { id: string }) => v.id === vehicleId)).toBe(false);
  });

  test('nobody writes its readings and tests but the car; a stranger and nonsense are refused', async () => {
    const a = await begin({ scenario: 'breather' });
    const typed = { id: uuid(), test: { id: 'smoke-intake', outcome: 'pcv' } };
    expect((await learner.post(`/jobs/${a.job}/tests`, typed)).status).toBe(409);
    expect((await ask(a, 'test', 'read-the-mind')).status).toBe(400);
    expect((await ask(a, 'reading', 'full-load')).status).toBe(400);
    expect((await ask(a, 'reading', 'idle', lead)).status).toBe(403);
    const other = await new Client(() => fixture.base).signIn('sato@linden.example', 'bench-demo-1').catch(() => null);
    if (other) expect((await other.get(`/practice/attempts/${a.id}`)).status).toBe(404);
  });

  test('two at once: one of them named is half; a sound part condemned costs', async () => {
    const a = await begin({ scenario: 'two-at-once' });
    await ask(a, 'reading', 'idle');
    const half = (
      await learner.post(`/practice/attempts/${a.id}/answer`, {
        fault: 'vac-leak',
        second: 'maf-damaged',
        remedy: 'replace',
      })
    ).body;
    const of = (id: string) => half.score.parts.find((p: { id: string }) => p.id === id);
    // And by a guess: one reading at idle speaks for neither.
    expect(of('cause').points).toBe(11);
    expect(of('parts')).toMatchObject({ points: 0, why: expect.stringContaining('Airflow sensor damaged') });
    expect(of('minutes').points).toBe(0);
  });
});

describe('limits', () => {
  test('one at a time; given up it is over for no points, what was wrong is told, and only the first try counts', async () => {
    const a = await begin({ scenario: 'breather' }, lead);
    const start = (scenario: string) => lead.post('/practice/attempts', { id: uuid(), hints: true, scenario });
    expect((await start('breather')).body.id).toBe(a.id);
    await ask(a, 'reading', 'idle', lead);
    for (const other of ['split-duct', 'breather', 'market-day']) {
      const r = await start(other);
      expect([r.status, r.body.message]).toEqual([409, expect.stringMatching(/^one at a time/)]);
    }
    expect((await learner.post(`/practice/attempts/${a.id}/give-up`, {})).status).toBe(404);
    const over = (await lead.post(`/practice/attempts/${a.id}/give-up`, {})).body;
    expect(over).toMatchObject({ answered: true, gaveUp: true, answer: null, score: { total: 0, minutes: 3 } });
    expect(over.faults.length).toBeGreaterThan(0);
    expect(over.bestPath.length).toBeGreaterThan(2);
    for (const [path, body] of [
      ['give-up', {}],
      ['answer', { fault: over.faults[0].id, remedy: 'repair' }],
      ['ask', { id: uuid(), kind: 'reading', what: 'idle' }],
    ] as const)
      expect((await lead.post(`/practice/attempts/${a.id}/${path}`, body)).status).toBe(409);
    const again = (await start('breather')).body;
    expect(again.id).not.toBe(a.id);
    await ask(again, 'reading', 'idle', lead);
    await lead.post(`/practice/attempts/${again.id}/answer`, { fault: over.faults[0].id, remedy: 'repair' });
    const lines = (await lead.get('/practice/attempts')).body;
    const line = (id: string) => lines.find((l: { id: string }) => l.id === id);
    expect([line(a.id), line(again.id)]).toMatchObject([
      { gaveUp: true, counts: true, total: 0 },
      { gaveUp: false, counts: false },
    ]);
    const car = (await lead.get('/practice/scenarios')).body.find((s: { id: string }) => s.id === 'breather');
    expect(car.points).toBe(0);
  });
  test('a drive can be given up too, and begun again; two exams a day', async () => {
    const drive = await begin({ scenario: 'market-day' }, lead);
    const over = (await lead.post(`/practice/attempts/${drive.id}/give-up`, {})).body;
    expect([over.score.total, over.drive.review.result]).toEqual([0, expect.stringMatching(/^(in|f)/)]);
    for (let i = 0; i < 2; i++) {
      const one = await begin({ exam: uuid() }, lead);
      expect(one.exam.place).toBe(1);
      const gone = (await lead.post(`/practice/attempts/${one.id}/give-up`, {})).body;
      // What was in it is told at the end of the exam.
      expect([gone.gaveUp, gone.score, gone.faults, gone.bestPath]).toEqual([true, null, null, null]);
    }
    const third = await lead.post('/practice/attempts', { id: uuid(), hints: false, exam: uuid() });
    expect([third.status, third.body.message]).toEqual([
      409,
      '2 exams a day: the next one in 24 hours. Practice cars are open.',
    ]);
    expect((await begin({ scenario: 'split-duct' }, lead)).title).toBeTruthy();
  });
});

test('a car from a file: played; one with a fault is refused by field', async () => {
  const file = PRACTICE_SCENARIOS[0]!;
  const got = (await lead.get(`/practice/scenarios/${file.id}/file`)).body;
  expect(got).toEqual(file);
  expect((await learner.get(`/practice/scenarios/${file.id}/file`)).status).toBe(403);
  const own = await begin({ file: { ...file, id: 'mine', title: 'Mine', faults: [] } });
  expect(own.title).toBe('Mine');
  const bad = await learner.post('/practice/attempts', {
    id: uuid(),
    hints: true,
    file: { ...file, vehicle: 'spaceship', version: 2 },
  });
  expect([bad.status, bad.body.errors.map((e: { field: string }) => e.field)]).toEqual([
    400,
    ['file.version', 'file.vehicle'],
  ]);
});

describe('nothing gives a car away to whoever practises on it', () => {
  test('without help nothing of it is weighed here before it is answered: board, job, judgement, export, history, archive', async () => {
    const a = await begin({ scenario: 'split-duct', hints: false });
    for (const at of ['idle', 'hold-2500']) await ask(a, 'reading', at);
    await ask(a, 'test', 'visual-intake');
    const everything = async (who: Client) =>
      JSON.stringify(
        await Promise.all(
          [
            ...[`/jobs/${a.job}`, `/jobs/${a.job}/diagnosis`, `/jobs/${a.job}/export`, `/audit?job=${a.job}`],
            ...[`/practice/attempts/${a.id}`, '/practice/attempts'],
          ].map(async (p) => (await who.get(p)).body),
        ),
      );
    for (const who of [learner, lead])
      expect(/duct-leak|probability|weighing|informationBits|belief/.exec(await everything(who))?.[0]).toBe(undefined);
    const asked = await learner.post(`/jobs/${a.job}/diagnosis`, {});
    expect(JSON.stringify(asked.body)).not.toMatch(/duct-leak|probability/);
    const r = await fetch(`${fixture.base}/api/jobs/${a.job}/archive`, { headers: { cookie: learner.cookie } });
    const files = unzipSync(new Uint8Array(await r.arrayBuffer()));
    expect(Buffer.from(files['job.json']!).toString()).not.toMatch(/duct-leak|probability|informationBits/);
    // Answered, it is a job like any other.
    await learner.post(`/practice/attempts/${a.id}/answer`, { fault: 'fuel-low', remedy: 'repair' });
    expect(/duct-leak/.test(await everything(learner))).toBe(true);
  });

  test('the file of a car is for a lead who does not practise on it', async () => {
    const technician = await new Client(() => fixture.base).signIn('duarte@linden.example', 'bench-demo-2');
    expect((await technician.get('/practice/scenarios/breather/file')).status).toBe(403);
    const a = await begin({ scenario: 'breather' }, lead);
    expect((await lead.get('/practice/scenarios/breather/file')).status).toBe(409);
    await lead.post(`/practice/attempts/${a.id}/answer`, { fault: 'fuel-low', remedy: 'repair' });
    expect((await lead.get('/practice/scenarios/breather/file')).status).toBe(200);
  });

  test('pressed several times at once it is one car, and one of an exam', async () => {
    const starts = (body: object) =>
      Promise.all(
        Array.from({ length: 5 }, () => learner.post('/practice/attempts', { id: uuid(), hints: true, ...body })),
      );
    const free = await starts({ scenario: 'two-at-once' });
    expect(new Set(free.map((r) => r.body.id)).size).toBe(1);
    expect(new Set(free.map((r) => r.body.job)).size).toBe(1);
    await learner.post(`/practice/attempts/${free[0]!.body.id}/give-up`, {});
    const exam = await starts({ exam: uuid() });
    expect(exam.map((r) => r.status).sort()).toEqual([201, 409, 409, 409, 409]);
    const first = exam.find((r) => r.status === 201)!.body;
    expect([first.title, first.scenario]).toEqual(['Car 1 of the exam', '']);
  });
});

test('an exam: three drawn cars and a drive without help, told at its end, signed by the lead', async () => {
  const exam = uuid();
  let last: { id: string; job: string; exam: { over: boolean; of: number } } | null = null;
  for (let place = 1; ; place++) {
    const a = await begin({ exam });
    // Which car it is would say much of it.
    expect(a).toMatchObject({
      hints: false,
      exam: { place, of: 4, over: false },
      scenario: '',
      title: `${place === 4 ? 'Drive' : 'Car'} ${place} of the exam`,
      ...{ score: null, faults: null, bestPath: null },
    });
    expect(JSON.stringify(a)).not.toMatch(/"(seed|drawn|severity)"/);
    expect((await learner.post('/practice/attempts', { id: uuid(), hints: false, exam })).status).toBe(409);
    if (a.drive === null) await ask(a, 'reading', 'idle');
    const r = (
      a.drive === null
        ? await learner.post(`/practice/attempts/${a.id}/answer`, { fault: 'crankcase-leak', remedy: 'repair' })
        : await learner.post(`/practice/attempts/${a.id}/drive`, {
            what: `step:${a.drive.procedure.steps[0].id}`,
            next: 'again',
          })
    ).body;
    last = r;
    if (r.exam.over) {
      expect([place, r.scenario, r.title]).toEqual([4, 'exam-4', 'The drive of the exam']);
      break;
    }
    expect([r.score, r.faults]).toEqual([null, null]);
    expect((await lead.post(`/practice/attempts/${a.id}/sign`, {})).status).toBe(409);
  }
  expect((await learner.post('/practice/attempts', { id: uuid(), hints: false, exam })).status).toBe(409);
  expect((await learner.post(`/practice/attempts/${last!.id}/sign`, {})).status).toBe(403);
  expect((await lead.post(`/practice/attempts/${last!.id}/sign`, {})).body.signed).toMatchObject({ by: 'R. Okafor' });
  // Nobody signs for what they did themselves.
  const own = await begin({ scenario: 'shaking-hatch' }, lead);
  await lead.post(`/practice/attempts/${own.id}/answer`, { fault: 'vac-leak', remedy: 'repair' });
  expect((await lead.post(`/practice/attempts/${own.id}/sign`, {})).status).toBe(409);
  const lines = (await lead.get('/practice/attempts')).body.filter(
    (l: { exam: { id: string } | null }) => l.exam?.id === exam,
  );
  expect(lines).toHaveLength(4);
  expect(lines.every((l: { total: number | null }) => l.total !== null)).toBe(true);
});

test('no page that a browser is given has a practice car in it, with its fault or without', () => {
  const folder = join(__dirname, '../../web/dist');
  const manifest: Record<string, { file: string }> = JSON.parse(readFileSync(join(folder, 'manifest.json'), 'utf8'));
  const scripts = Object.values(manifest).flatMap(({ file }) => (file.endsWith('.js') ? [file] : []));
  expect(scripts.length).toBeGreaterThan(20);
  const told = PRACTICE_SCENARIOS.flatMap((s) => [s.title, s.complaint.story]).map((x) => x.slice(0, 30));
  const found = scripts.flatMap((f) => {
    const text = readFileSync(join(folder, f), 'utf8');
    return told.filter((x) => text.includes(x)).map((x) => `${f}: ${x}`);
  });
  expect(found).toEqual([]);
});

test('every car of ours can be asked for its readings', async () => {
  for (const s of PRACTICE_SCENARIOS.filter((x) => !x.drive)) {
    const a = await begin({ scenario: s.id }, lead);
    const r = await ask(a, 'reading', 'idle', lead);
    expect([s.id, r.status]).toEqual([s.id, 200]);
  }
});

/** What each of our drives breaks, by the condition or step that its script leaves out: told by hand, not by the review. */
const BREAKS: Record<string, { what: string; near?: number; next: string }> = {
  'left-for-the-afternoon': { what: 'before:soak', next: 'change' },
  'filled-on-the-way': { what: 'before:fuel-level', next: 'change' },
  // 24 s of idle and 214 s of cruise lie before the slow stretch.
  'behind-the-tractor': { what: 'step:cruise-evap', near: 238, next: 'rest' },
  'all-but-one': { what: 'step:catalyst', next: 'rest' },
  'moved-in-the-morning': { what: 'before:coolant-start', next: 'change' },
  'straight-out-of-the-gate': { what: 'step:idle', next: 'rest' },
  'market-day': { what: 'step:cruise', next: 'rest' },
};

describe('a drive that came back open', () => {
  const drives = PRACTICE_SCENARIOS.filter((s) => s.drive);
  test.each(drives.map((s) => s.id))('%s: looked at, named, scored against what its script leaves out', async (id) => {
    const { what, near, next } = BREAKS[id]!;
    const a = await begin({ scenario: id, hints: false });
    expect(a).toMatchObject({ job: null, asks: [], score: null, drive: { review: null } });
    const { drive } = a;
    expect(drive.time.length).toBeGreaterThan(400);
    expect(drive.channels.map((c: { values: number[] }) => c.values.length)).toEqual(
      drive.channels.map(() => drive.time.length),
    );
    // Something stays open: that is why it came back. The general drive only counts itself.
    if (drive.procedure.id !== 'general') expect(drive.open.after.length).toBeGreaterThan(0);
    const name = (body: object) => learner.post(`/practice/attempts/${a.id}/drive`, body);
    expect((await name({ what: 'before:moon', next })).body.errors[0].field).toBe('what');
    const done = (await name({ what, next, ...(near === undefined ? {} : { second: near }) })).body;
    const points = Object.fromEntries(done.score.parts.map((p: { id: string; points: number }) => [p.id, p.points]));
    expect([id, points.broke, points.next]).toEqual([id, 60, 25]);
    if (near !== undefined) expect([id, points.second]).toEqual([id, 15]);
    expect(done.drive.review.result).not.toBe('complete');
    expect((await name({ what, next })).status).toBe(409);
  });

  test('asked like a car it says what it is; another’s is not answered; the lead signs it', async () => {
    const a = await begin({ scenario: 'market-day', hints: true });
    expect((await ask(a, 'reading', 'idle')).status).toBe(409);
    const fault = { fault: 'vac-leak', remedy: 'repair' };
    expect((await learner.post(`/practice/attempts/${a.id}/answer`, fault)).status).toBe(409);
    const body = { what: 'step:run', next: 'again', second: 5 };
    expect((await lead.post(`/practice/attempts/${a.id}/drive`, body)).status).toBe(403);
    const done = (await learner.post(`/practice/attempts/${a.id}/drive`, body)).body;
    expect(done.score.total).toBeLessThan(40);
    expect((await lead.post(`/practice/attempts/${a.id}/sign`, {})).body.signed.by).toBe('R. Okafor');
    const car = await begin({ scenario: 'shaking-hatch' });
    expect((await learner.post(`/practice/attempts/${car.id}/drive`, body)).status).toBe(409);
    await learner.post(`/practice/attempts/${car.id}/give-up`, {});
    // From a file: a road nobody knows is refused in words, and no try is left of it.
    const own = { ...drives[0]!, id: 'mine', drive: { script: 'to-the-moon', procedure: 'general' } };
    const tries = (await learner.get('/practice/attempts')).body.length;
    const refused = await learner.post('/practice/attempts', { id: uuid(), hints: true, file: own });
    expect([refused.status, refused.body.message]).toEqual([
      400,
      expect.stringMatching(/no road script "to-the-moon"/),
    ]);
    expect((await learner.get('/practice/attempts')).body).toHaveLength(tries);
  });
});
