/**
 * node scripts/demoYear.mjs [--jobs N] [--seed N]: a year of an invented shop, worked through the real services on
 * simulated cars, written to apps/server/demo/year.json.gz. Times are kept as distances from the end of the year, ids are
 * numbered: the same seed gives the same file. Takes minutes; loading it takes seconds.
 */
import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { runState, SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { BENCH_TESTS, canHave, engineCardOf, examine, FLEET, SIM_FAULTS, typicalFor } from '@just-balance/vehicle';
import { createConnection } from 'mariadb';
import { partPicture } from './demo/pictures.mjs';
import { refile } from './demo/refile.mjs';
import { COLOURS, COMPLAINTS, FIRST_LETTERS, REPAIRS } from './demo/words.mjs';
import { ensureBuilt, ensureModules, ROOT } from './lib/build.mjs';
import { DATABASE, ensurePrograms } from './lib/packages.mjs';
import { freePorts } from './lib/ports.mjs';
import { generator } from './lib/random.mjs';
import { say } from './lib/say.mjs';
import { startStack } from './lib/stack.mjs';

const option = (name, fallback) => {
  const at = process.argv.indexOf(`--${name}`);
  return at > 0 ? Number(process.argv[at + 1]) : fallback;
};
const JOBS = option('jobs', 260);
const r = generator(option('seed', 20_260));
const DAY = 86_400_000;
/** Everything lies before it; whoever loads it puts it at the beginning of their day. */
const END = Date.parse('2026-01-01T00:00:00Z');
const OUT = join(ROOT, 'apps/server/demo/year.json.gz');
/** Open jobs at the end of the year, by how far each has come. */
const STAGES = [
  'complaint',
  'record',
  'idle',
  'readings',
  'readings',
  'tested',
  'tested',
  'service',
  'parked',
  'service',
  'repaired',
  'after',
  'after',
  'readiness',
  'hand-over',
];

await ensurePrograms(DATABASE);
await ensureModules();
await ensureBuilt();
const stops = [];
const dataDir = mkdtempSync(join(tmpdir(), 'jb-year-'));
const [web, sim, db, control] = await freePorts(4);
await startStack({
  dataDir,
  ports: { web, sim, db, control },
  demo: true,
  year: false,
  host: '127.0.0.1',
  fast: true,
  stops,
});
const base = `http://127.0.0.1:${web}/api`;

/** Somebody at a tablet; every answer that is no success ends the script. */
class Person {
  cookie = '';
  constructor(name) {
    this.name = name;
  }
  async ask(method, path, body, type = 'application/json') {
    const res = await fetch(base + path, {
      method,
      headers: { ...(body ? { 'content-type': type } : {}), cookie: this.cookie },
      body: body && (type === 'application/json' ? JSON.stringify(body) : body),
    });
    for (const c of res.headers.getSetCookie()) this.cookie = [this.cookie, c.split(';')[0]].filter(Boolean).join('; ');
    const text = await res.text();
    if (!res.ok) throw new Error(`${method} ${path}: ${res.status} ${text.slice(0, 300)}`);
    return text ? JSON.parse(text) : null;
  }
  signIn = (email, password) => this.ask('POST', '/session', { email, password }).then(() => this);
}

const lead = await new Person('R. Okafor').signIn('okafor@linden.example', 'bench-demo-1');
const duarte = await new Person('M. Duarte').signIn('duarte@linden.example', 'bench-demo-2');
const people = [lead, duarte];
for (const [name, role] of [
  ['I. Sato', 'technician'],
  ['A. Lund', 'technician'],
]) {
  const id = randomUUID();
  const email = `${name.split(' ')[1].toLowerCase()}@linden.example`;
  await lead.ask('POST', '/people', { id, name, email, role });
  const { token } = await lead.ask('POST', `/people/${id}/link`, {});
  await new Person('').ask('POST', '/session/invitation', { token, password: 'for the year only' });
  people.push(await new Person(name).signIn(email, 'for the year only'));
}

/** Cars of the shop's customers: those of the fleet in other colours, with plates of their own. */
const cars = Array.from({ length: Math.ceil(JOBS * 0.72) }, (_, i) => {
  const spec = r.weighted(FLEET.map((f) => [f.fuel === 'diesel' ? 0.4 : 1, f]));
  const year = spec.year + Math.floor(r.between(-3, 3));
  const digits = String(1000 + ((i * 7919) % 9000));
  return {
    spec,
    id: randomUUID(),
    seed: 1000 + i,
    km: Math.round(r.between(30, 240)) * 1000,
    card: {
      label: spec.label,
      note: r.pick(COLOURS),
      plate: `${r.pick(FIRST_LETTERS)}${r.pick(FIRST_LETTERS)} ${digits}`,
      year,
      vin: `ZZZ${spec.vin.slice(3, 9)}${spec.vin[9]}${'ABCDEFGH'[i % 8]}${String(100_000 + i * 37).slice(-6)}`,
      ...engineCardOf(spec),
    },
  };
});

/** Moments of one job: the clock of the wall as it was worked, and of the year. */
const clocks = new Map();
const ids = [];

class Work {
  constructor(at) {
    this.id = randomUUID();
    this.at = at;
    this.steps = [];
    clocks.set(this.id, this.steps);
    ids.push(this.id);
  }
  /** Do it, `minutes` of the year later than what was done before. */
  async step(minutes, f) {
    this.at += minutes * 60_000;
    const out = await f();
    this.steps.push({ wall: Date.now(), year: this.at });
    // Rows of two steps must not fall into one moment of the wall's clock.
    await new Promise((done) => setTimeout(done, 3));
    return out;
  }
}

function faultFor(spec) {
  if (r.chance(0.06)) return null;
  const weights = {
    'vac-leak': 9,
    'crankcase-leak': 9,
    'maf-dirty': 8,
    'fuel-low': 6,
    'duct-leak': 5,
    'purge-open': 4,
    'throttle-fouled': 4,
    'exhaust-leak': 3,
    'maf-under': 3,
    'injector-restricted': 2,
    'egr-gasket-leak': 2,
    'fuel-high': 2,
    'o2-slow': 2,
  };
  const possible = SIM_FAULTS.filter((f) => canHave(f, spec) && REPAIRS[f.id]);
  if (possible.length === 0) return null;
  const row = r.weighted(possible.map((f) => [weights[f.id] ?? 0.6, f]));
  const size = Math.min(row.high, Math.max(row.low, typicalFor(row, spec) * r.between(0.75, 1.5)));
  const bank = row.perBank && spec.banks === 2 && r.chance(0.5) ? 2 : 1;
  return { id: row.id, severity: Number(size.toPrecision(3)), ...(row.perBank ? { bank } : {}) };
}

/** A run of a procedure, step by step, as a sound part lets it go. */
async function follow(work, who, procedure, { stopAfter = Infinity, source = null } = {}) {
  const runId = randomUUID();
  await work.step(6, () => who.ask('POST', `/jobs/${work.id}/runs`, { id: runId, procedure }));
  const events = [];
  const send = (what, minutes) =>
    work.step(minutes, async () => {
      const e = { id: randomUUID(), atMs: Date.now(), what };
      const run = await who.ask('POST', `/jobs/${work.id}/runs/${runId}/events`, { events: [e] });
      events.splice(0, events.length, ...run.events);
    });
  const each = Math.max(0.6, procedure.minutes / procedure.steps.length) * r.between(0.7, 1.6);
  for (let n = 0; n < 60; n++) {
    const s = runState(procedure, events);
    const step = s.current;
    if (!step || n >= stopAfter) break;
    const sound =
      step.answers?.find((a) => !a.stopRule && !a.goTo) ?? step.answers?.find((a) => !a.stopRule) ?? step.answers?.[0];
    const value =
      step.kind === 'measure' ? ((step.low ?? step.high ?? 1) + (step.high ?? step.low ?? 1)) / 2 : undefined;
    await send(
      {
        kind: 'done',
        step: step.id,
        round: s.rounds.get(step.id) ?? 0,
        ...(sound ? { answer: sound.text } : {}),
        ...(value === undefined ? {} : { value }),
        ...(step.kind === 'timer' ? { reason: 'blown dry and looked at' } : {}),
      },
      each,
    );
  }
  if (stopAfter < Infinity) return { runId, send, events };
  if (source) await send({ kind: 'source', ...source }, 2);
  await send({ kind: 'ended', left: [], counted: true }, 1);
  return { runId, send, events };
}

async function oneJob(car, at, { stage = 'closed', cameBackOf = null, fault = faultFor(car.spec) } = {}) {
  const { spec } = car;
  const work = new Work(at);
  const who = r.pick(people);
  const words = COMPLAINTS[fault?.id ?? 'balanced'] ?? COMPLAINTS.balanced;
  const { story, symptoms } = r.pick(words);
  car.km += Math.round(r.between(400, 9000));
  const ambient = {
    baroKPa: Math.round(10 * r.between(96.5, 101.5)) / 10,
    airC: Math.round(10 * Math.sin((at / DAY / 365) * 2 * Math.PI - 1.9) + 11 + r.gauss(3)),
  };
  const simulated = (faults) => ({
    vehicle: spec.id,
    faults,
    baroKPa: ambient.baroKPa,
    airC: ambient.airC,
    seed: car.seed,
  });
  const faults = fault ? [fault] : [];
  await work.step(0, () =>
    who.ask('POST', '/jobs', {
      id: work.id,
      vehicleId: car.id,
      vehicle: { ...car.card, odometerKm: car.km },
      complaint: { story, symptoms, recentWork: [] },
      ambient,
    }),
  );
  const entry = (kind, data, minutes = 2, by = who) =>
    work.step(minutes, () => by.ask('POST', `/jobs/${work.id}/entries`, { id: randomUUID(), kind, data }));
  if (cameBackOf) await entry('cameBack', { job: cameBackOf });
  if (stage === 'complaint') return work;
  const seen = examine(simulated(faults), { record: true });
  const pending = seen.pending.length + seen.stored.length > 0 || r.chance(0.5) ? seen.pending : [];
  const record = (phase, more = {}) => ({ id: randomUUID(), phase, stored: [], pending: [], lampOn: false, ...more });
  await work.step(6, () =>
    who.ask(
      'POST',
      `/jobs/${work.id}/records/by-hand`,
      record('before', {
        stored: seen.stored,
        pending,
        lampOn: seen.stored.length > 0,
        monitors: { catalyst: 'complete', evap: r.chance(0.6) ? 'complete' : 'incomplete', o2Sensor: 'complete' },
        warmupsSinceClear: 40 + Math.floor(r.between(0, 180)),
      }),
    ),
  );
  if (stage === 'record') return work;
  const take = async (phase, point, now, minutes) => {
    const reading = examine(simulated(now), { reading: point });
    await work.step(minutes, () => who.ask('POST', `/jobs/${work.id}/readings`, { id: randomUUID(), phase, reading }));
  };
  await take('before', 'idle', faults, 9);
  if (stage === 'idle') return work;
  await take('before', 'hold-2500', faults, 4);
  if (['fuel-low', 'maf-dirty', 'injector-restricted', 'air-filter'].includes(fault?.id))
    await take('before', 'road-load', faults, 15);
  if (stage === 'readings') return work;
  for (let n = 0; n < 4; n++) {
    const [d] = await who.ask('GET', `/jobs/${work.id}/diagnosis?newest=1`);
    const first = d?.output.causes[0];
    if (!first || (n > 0 && first.probability > 0.85)) break;
    const next = d.output.nextTests.find((t) => BENCH_TESTS.includes(t.test) && t.test !== 'known-good-swap');
    if (!next) break;
    const banks = next.bank ? [next.bank] : [1];
    for (const bank of banks) {
      const x = examine(simulated(faults), { test: next.test, turn: n, bank });
      const test = {
        id: next.test,
        ...(x.outcome ? { outcome: x.outcome } : {}),
        ...(x.values ? { values: x.values } : {}),
        ...(x.bank ? { bank: x.bank } : {}),
      };
      await work.step(next.minutes * r.between(0.7, 1.7), () =>
        who.ask('POST', `/jobs/${work.id}/tests`, { id: randomUUID(), test }),
      );
    }
  }
  if (r.chance(0.3)) await photo(work, who, fault?.id ?? 'balanced', 'as found');
  if (stage === 'tested') return work;
  const repair = fault ? REPAIRS[fault.id] : null;
  if (repair) {
    const procedure = SHIPPED_PROCEDURES.find((p) => p.id === repair.procedure);
    if (stage === 'service' || stage === 'parked') {
      const { send } = await follow(work, who, procedure, { stopAfter: 3 });
      if (stage === 'parked')
        await send({ kind: 'parked', reason: `${repair.part} ordered`, toOrder: [repair.part] }, 4);
      return work;
    }
    const source = repair.source ? { source: repair.source, repaired: r.chance(0.7) } : null;
    await follow(work, who, procedure, { source });
    if (repair.part)
      await entry('part', {
        name: repair.part,
        number: `LY-${100 + Math.floor(r.between(0, 800))}`,
        make: r.chance(0.8) ? 'original' : 'copy',
        oldKept: true,
      });
    await work.step(2, () =>
      who.ask('POST', `/jobs/${work.id}/repairs`, {
        id: randomUUID(),
        text: repair.text,
        fault: fault.id,
        ...(repair.part ? { part: repair.part } : {}),
        adaptation: 'relearn',
      }),
    );
    if (r.chance(0.35)) await photo(work, who, fault.id, 'after the work');
  }
  if (stage === 'repaired') return work;
  // Now and then something of it is left.
  const left = fault && r.chance(0.07) ? [{ ...fault, severity: Number((fault.severity * 0.45).toPrecision(3)) }] : [];
  if (repair) {
    await take('after', 'idle', left, 18);
    await take('after', 'hold-2500', left, 4);
    if (['fuel-low', 'maf-dirty', 'injector-restricted', 'air-filter'].includes(fault.id))
      await take('after', 'road-load', left, 15);
  }
  if (stage === 'after') return work;
  await work.step(12, () =>
    who.ask(
      'POST',
      `/jobs/${work.id}/records/by-hand`,
      record('after', {
        monitors: { catalyst: 'complete', evap: r.chance(0.55) ? 'complete' : 'incomplete', o2Sensor: 'complete' },
        warmupsSinceClear: 2 + Math.floor(r.between(0, 5)),
      }),
    ),
  );
  if (r.chance(0.18)) {
    const broke = r.chance(0.6)
      ? [
          {
            what: r.pick(['soak', 'fuel-level', 'cruise-evap', 'cruise-warm', 'coolant-to-air']),
            reason: 'left its band',
            atS: Math.floor(r.between(60, 900)),
          },
        ]
      : [];
    await entry(
      'drive',
      {
        procedure: 'steady-cruise',
        result: broke.length > 0 ? 'incomplete' : 'complete',
        done: ['idle'],
        broke,
        distanceKm: 19,
        minutes: 26,
        road: 'ring road',
        stillOpen: broke.length > 0 ? ['evap'] : [],
      },
      60,
    );
  }
  if (stage === 'readiness' || stage === 'hand-over') return work;
  if (repair?.cleaned && r.chance(0.6))
    await entry('outcome', { part: repair.cleaned, held: r.chance(repair.source ? 0.6 : 0.85) });
  if (r.chance(0.15))
    await entry('recheck', {
      dueAt: new Date(work.at + r.between(10, 40) * DAY).toISOString(),
      what: 'Look at the hose again',
    });
  const { rev } = await who.ask('GET', `/jobs/${work.id}`);
  await work.step(8, () => who.ask('PATCH', `/jobs/${work.id}`, { rev, status: 'closed' }));
  return { work, fault };
}

async function photo(work, who, fault, label) {
  const image = await partPicture(fault, label, Math.floor(r.next() * 1e6));
  await work.step(2, () =>
    who.ask('PUT', `/jobs/${work.id}/photos/${randomUUID()}?label=${encodeURIComponent(label)}`, image, 'image/jpeg'),
  );
}

try {
  const openings = [];
  for (let i = 0; i < JOBS; i++) {
    // Workdays of the year, more of them as the shop grew.
    let day = Math.floor(365 * Math.sqrt(r.next() * 0.94));
    while ([0, 6].includes(new Date(END - (365 - day) * DAY).getUTCDay())) day = Math.min(363, day + 1);
    openings.push(END - (365 - day) * DAY + (7.5 + r.next() * 7) * 3_600_000);
  }
  openings.sort((a, b) => a - b);
  const backs = [];
  let done = 0;
  for (const [i, at] of openings.entries()) {
    const due = backs[0] && backs[0].at <= at ? backs.shift() : null;
    const car = due ? due.car : cars[i % cars.length];
    const { work, fault } = await oneJob(car, at, due ? { cameBackOf: due.job, fault: due.fault } : {});
    if (!due && fault && r.chance(0.06)) backs.push({ at: at + r.between(12, 40) * DAY, car, job: work.id, fault });
    if (++done % 20 === 0) say(`${done} of ${JOBS} jobs`);
  }
  for (const [i, stage] of STAGES.entries()) {
    const day = r.pick([1, 1, 1, 2, 2, 3]);
    let car = cars[(JOBS + i * 3) % cars.length];
    while (car.spec.fuel === 'diesel') car = cars[(cars.indexOf(car) + 1) % cars.length];
    let fault = null;
    while (!fault) fault = faultFor(car.spec);
    await oneJob(car, END - day * DAY + (8 + r.next() * 5) * 3_600_000, { stage, fault });
  }
  await dump();
} finally {
  for (const stop of stops.reverse()) await stop().catch(() => {});
  rmSync(dataDir, { recursive: true, force: true });
}

await refile();

/** Moments of the wall as moments of the year: those of the step in which they fell, in their order. */
function yearOf(jobId, wallMs) {
  const steps = clocks.get(jobId);
  const i = steps.findIndex((s) => wallMs <= s.wall);
  const step = steps[i < 0 ? steps.length - 1 : i];
  return step.year - Math.max(0, Math.min(30_000, step.wall - wallMs));
}

async function dump() {
  const { readFileSync } = await import('node:fs');
  const { password } = JSON.parse(readFileSync(join(dataDir, 'secret.json'), 'utf8'));
  const sql = await createConnection({
    host: '127.0.0.1',
    port: db,
    user: 'jb',
    password,
    database: 'just_balance',
    timezone: 'Z',
    bigIntAsNumber: true,
  });
  const tables = {};
  const numbered = new Map();
  const ISO = /\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d{3}Z/g;
  const UUID = /[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}/g;
  const now = Date.now();
  const moment = (jobId, ms) => (Math.abs(ms - now) < 6 * 3_600_000 ? yearOf(jobId, ms) : ms) - END;
  const keep = (name, rows, jobOf) => {
    const columns = rows[0]
      ? Object.keys(rows[0]).filter((c) => !['shopId', 'accountId', 'levels', 'filed'].includes(c))
      : [];
    tables[name] = {
      columns,
      rows: rows.map((row) =>
        columns.map((c) => {
          const v = row[c];
          const job = jobOf(row);
          if (v === null || v === undefined) return null;
          if (v instanceof Date) return { t: moment(job, v.getTime()) };
          if (c === 'atMs') return { ms: moment(job, Number(v)) };
          if (Buffer.isBuffer(v)) return { b: v.toString('base64') };
          const text = typeof v === 'object' ? JSON.stringify(v) : v;
          if (typeof text !== 'string') return text;
          return text.replace(ISO, (iso) => `@T${moment(job, Date.parse(iso))}T@`);
        }),
      ),
    };
  };
  const all = (t, key = 'jobId') =>
    sql.query(`SELECT * FROM ${t} WHERE ${key} IN (?) ORDER BY ${key === 'id' ? 'createdAt, id' : 'jobId'}`, [ids]);
  const vehicles = await sql.query(
    'SELECT * FROM vehicle WHERE id IN (SELECT vehicleId FROM job WHERE id IN (?)) ORDER BY id',
    [ids],
  );
  const firstJob = new Map(
    (
      await sql.query('SELECT vehicleId, MIN(createdAt) AS at, id FROM job WHERE id IN (?) GROUP BY vehicleId', [ids])
    ).map((x) => [x.vehicleId, x.id]),
  );
  keep('vehicle', vehicles, (v) => firstJob.get(v.id));
  keep('job', await all('job', 'id'), (j) => j.id);
  for (const t of [
    'job_event',
    'vehicle_record',
    'reading',
    'test_result',
    'repair',
    'known_figure',
    'service_run',
    'service_event',
    'service_entry',
    'photo',
    'job_tag',
    'job_lesson',
  ])
    keep(t, await all(t), (x) => x.jobId);
  // Of the judgements only the two newest of each job: what moved is seen, what led there is not needed.
  const judged = await sql.query(
    'SELECT * FROM (SELECT d.*, ROW_NUMBER() OVER (PARTITION BY jobId ORDER BY createdAt DESC, id DESC) AS place FROM diagnosis d WHERE jobId IN (?)) x WHERE place <= 2 ORDER BY jobId, createdAt',
    [ids],
  );
  keep(
    'diagnosis',
    judged.map(({ place: _, ...d }) => d),
    (x) => x.jobId,
  );
  await sql.end();
  const text = JSON.stringify({
    format: 'just-balance/demo-year',
    version: 1,
    people: people.map((p) => p.name),
    tables,
  });
  // Ids by number, in order of first appearance.
  const plain = text.replace(UUID, (id) => {
    let n = numbered.get(id);
    if (n === undefined) {
      n = numbered.size + 1;
      numbered.set(id, n);
    }
    return `0de10000-0000-7000-8000-${n.toString(16).padStart(12, '0')}`;
  });
  const packed = gzipSync(plain, { level: 9 });
  writeFileSync(OUT, packed);
  say(`${ids.length} jobs, ${(plain.length / 1e6).toFixed(1)} MB, packed ${(packed.length / 1e6).toFixed(2)} MB`);
}
