import { type ChildProcess, fork } from 'node:child_process';
import { cpSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from '@jest/globals';
import { JOB_RESOURCES } from '@just-balance/contract';
import { pino } from 'pino';
import { v4 as uuid } from 'uuid';
import { patient } from '../../../scripts/lib/patience.cjs';
import { hashPassword } from '../src/accounts/passwords.ts';
import { createApp, type RunningApp } from '../src/app.ts';
import type { ServerConfig } from '../src/config.ts';
import { Account } from '../src/rows/accounts.ts';
import { Shop } from '../src/rows/shop.ts';

/** A real MariaDB, a real simulated vehicle and the real application, each on ports of its own. */
export interface Fixture {
  base: string;
  dbUrl: string;
  dbPort: number;
  sim: NonNullable<ServerConfig['sim']>;
  running: RunningApp;
  /** Start the application again on the same database, as after a restart. */
  restart(change?: Partial<ServerConfig>): Promise<void>;
  stopDatabase(): Promise<void>;
  startDatabase(): Promise<void>;
  close(): Promise<void>;
}

/** The wall clock as the server reads it: a test's own `Date` is another. */
export const serverDate = (globalThis as unknown as { jbServerDate: DateConstructor }).jbServerDate;

/** A port that no outgoing connection can take before it is used. */
export async function freePort(): Promise<number> {
  const { freePorts } = await import('../../../scripts/lib/ports.mjs' as string);
  return (await freePorts(1))[0];
}

interface Database {
  url: string;
  stop(): Promise<void>;
}

async function startDatabase(dataDir: string, port: number): Promise<Database> {
  // The same start code as npm start; throwaway durability.
  const { startMariaDb } = await import('../../../scripts/lib/mariadb.mjs' as string);
  return startMariaDb({ dataDir, port, fast: true }).ready;
}

const SIM_TOKEN = 'a token of the tests';

/** The simulated vehicle, listening. One that ends before it listens is started again: another process had its port. */
async function startSimulated(tries = 3): Promise<{ process: ChildProcess; port: number; controlPort: number }> {
  const [port, controlPort] = [await freePort(), await freePort()];
  const started = fork(join(__dirname, '../../../packages/vehicle/dist/process/main.js'), [], {
    env: {
      ...process.env,
      JB_SIM_PORT: String(port),
      JB_SIM_CONTROL_PORT: String(controlPort),
      JB_SIM_TOKEN: SIM_TOKEN,
      JB_SIM_IN_ORDER: '1',
    },
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
  });
  const ready = await new Promise<boolean>((done) => {
    started.once('message', () => done(true));
    started.once('exit', () => done(false));
  });
  if (ready) return { process: started, port, controlPort };
  if (tries === 1) throw new Error('the simulated vehicle does not start; its own words stand above');
  return startSimulated(tries - 1);
}

export async function startFixture(change: Partial<ServerConfig> = {}): Promise<Fixture> {
  const dataDir = mkdtempSync(join(tmpdir(), 'jb-api-'));
  // A fixture as after a first start with the demo is a copy of one; any other is made from nothing.
  const template = change.demo === undefined && change.mayseed === undefined ? process.env.JB_API_TEMPLATE : undefined;
  if (template) cpSync(template, dataDir, { recursive: true });
  const dbPort = await freePort();
  let database: Database | null = null;
  let simulated: Awaited<ReturnType<typeof startSimulated>> | null = null;
  const stopAll = async () => {
    simulated?.process.kill('SIGTERM');
    await database?.stop();
    rmSync(dataDir, { recursive: true, force: true });
  };
  // A start that fails must not leave its processes behind: the test run would wait for them for ever.
  const orStop = async (e: unknown): Promise<never> => {
    await stopAll();
    throw e;
  };
  database = await startDatabase(dataDir, dbPort).catch(orStop);
  // Only where the tests ask the car: without bays there is no process for them.
  if (change.sim !== null) simulated = await startSimulated().catch(orStop);
  const config: ServerConfig = {
    port: 0,
    host: '127.0.0.1',
    loopback: true,
    dbUrl: database.url,
    demo: true,
    demoYear: null,
    mayseed: template === undefined,
    sim: simulated && { port: simulated.port, controlPort: simulated.controlPort, token: SIM_TOKEN },
    linkAllow: ['127.0.0.1:9'],
    hosts: [],
    behindTls: false,
    tls: null,
    webDir: null,
    logLevel: 'silent',
    ...change,
  };
  const open = async (c: ServerConfig) => {
    const running = await createApp(c, pino({ level: 'silent' }));
    await running.app.listen(0, '127.0.0.1');
    return { running, base: (await running.app.getUrl()).replace('[::1]', '127.0.0.1') };
  };
  const first = await open(config).catch(orStop);
  const fixture: Fixture = {
    ...first,
    dbUrl: config.dbUrl,
    dbPort,
    sim: config.sim!,
    async restart(c = {}) {
      await fixture.running.close();
      Object.assign(fixture, await open({ ...config, mayseed: false, ...c }));
    },
    async stopDatabase() {
      await database?.stop();
      database = null;
    },
    async startDatabase() {
      database = await startDatabase(dataDir, dbPort);
    },
    async close() {
      await fixture.running.close().catch(() => {});
      await stopAll();
    },
  };
  return fixture;
}

/** What is no JSON (a PDF, an archive) is left out. */
const asJson = (res: Response, text: string) =>
  text && /json/.test(res.headers.get('content-type') ?? '') ? JSON.parse(text) : null;

export interface Reply<T = Record<string, never>> {
  status: number;
  // biome-ignore lint/suspicious/noExplicitAny: tests look into answers of many shapes
  body: T extends Record<string, never> ? any : T;
  headers: Headers;
}

/** A person with a cookie jar. */
export class Client {
  cookie = '';

  constructor(private readonly base: () => string) {}

  private take(cookie: string) {
    const [name] = cookie.split('=');
    const others = this.cookie.split('; ').filter((c) => c !== '' && !c.startsWith(`${name}=`));
    this.cookie = (cookie.endsWith('=') ? others : [...others, cookie]).join('; ');
  }

  async ask(method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Promise<Reply> {
    const res = await fetch(`${this.base()}/api${path}`, {
      method,
      headers: {
        ...(body === undefined ? {} : { 'content-type': 'application/json' }),
        ...(this.cookie ? { cookie: this.cookie } : {}),
        ...headers,
      },
      body: body === undefined ? undefined : typeof body === 'string' ? body : JSON.stringify(body),
    });
    for (const set of res.headers.getSetCookie()) this.take(set.split(';')[0]!);
    const text = await res.text();
    return { status: res.status, body: asJson(res, text), headers: res.headers };
  }

  /** A write into a job; then the whole job as it stands. Fails where the write was refused. */
  async into(path: string, body: unknown, method: 'POST' | 'PATCH' = 'POST') {
    const r = await this.ask(method, path, body);
    if (r.status >= 300) throw new Error(`${method} ${path}: ${r.status} ${JSON.stringify(r.body)}`);
    return this.job(/^\/jobs\/([^/]+)/.exec(path)![1]!);
  }

  /** A job with all its resources, as its page has it. */
  async job(id: string) {
    const [head, ...rows] = await Promise.all([
      this.get(`/jobs/${id}`),
      ...JOB_RESOURCES.map((n) => this.get(`/jobs/${id}/${n}`)),
    ]);
    const of = Object.fromEntries(JOB_RESOURCES.map((n, i) => [n, rows[i]!.body]));
    return { ...head!.body, ...of, diagnoses: of.diagnosis };
  }

  get = (path: string) => this.ask('GET', path);
  post = (path: string, body: unknown, headers?: Record<string, string>) => this.ask('POST', path, body, headers);
  patch = (path: string, body: unknown) => this.ask('PATCH', path, body);
  put = (path: string, body: unknown) => this.ask('PUT', path, body);
  remove = (path: string) => this.ask('DELETE', path);

  async signIn(email = 'okafor@linden.example', password = 'bench-demo-1'): Promise<this> {
    const r = await this.post('/session', { email, password });
    if (r.status !== 200) throw new Error(`sign-in: ${r.status} ${JSON.stringify(r.body)}`);
    return this;
  }

  /** A new job; returns its view. */
  async newJob(change: Record<string, unknown> = {}) {
    const r = await this.post('/jobs', {
      id: uuid(),
      vehicleId: uuid(),
      vehicle: {
        label: 'Tarn 2.0',
        fuel: 'petrol',
        metering: 'maf',
        displacementL: 2,
        cylinders: 4,
        banks: 1,
      },
      complaint: { symptoms: ['rough-idle'], story: 'shakes' },
      ambient: { baroKPa: 99.1, airC: 18 },
      ...change,
    });
    if (r.status !== 201) throw new Error(`new job: ${r.status} ${JSON.stringify(r.body)}`);
    return r.body;
  }
}

/** A reading of a warm engine in closed loop, its total trim half a point above `ltft`, %; airflow g/s. */
export const readingAt = (at: string, ltft: number, mafGps: number) => ({
  at,
  rpm: at === 'idle' ? 720 : 2500,
  mafGps,
  mapKPa: 31.2,
  ectC: 90,
  iatC: 24,
  loop: 'closed',
  trims: { bank1: { stft: 0.5, ltft, sd: 0.6, n: 80 } },
});

/** A second shop with one account, signed in. */
export async function signInToOtherShop(base: () => string): Promise<Client> {
  const shopId = uuid();
  await Shop.create({ id: shopId, name: 'Other Yard', settings: {}, rev: 1 });
  const email = `lead-${shopId}@other.example`;
  await Account.create({
    id: uuid(),
    shopId,
    email,
    name: 'Other Lead',
    role: 'lead',
    passwordHash: await hashPassword('another-one-1'),
  });
  return new Client(base).signIn(email, 'another-one-1');
}

/** Wait until `look` gives something; fails with the last thing seen. */
export async function until<T>(
  look: () => Promise<T | null | undefined | false> | T | null | undefined | false,
  ms = patient(90_000),
): Promise<T> {
  const end = Date.now() + ms;
  for (;;) {
    const seen = await look();
    if (seen) return seen;
    if (Date.now() > end) throw new Error(`not within ${ms} ms`);
    await new Promise((r) => setTimeout(r, 100));
  }
}

/** The simulated vehicles, as one who is signed in uses them. */
export function bays(me: () => Client) {
  const bay = (n: number, command: string, more = {}) => me().post(`/bays/${n}`, { command, ...more });
  /** A warm running car with a settled fault in a bay, and a job on it. */
  async function carWith(n: number, fault: string | null, severity = 0.4) {
    if (fault) expect((await bay(n, 'fault', { fault, severity })).status).toBe(200);
    else await bay(n, 'repair');
    await bay(n, 'idle');
    await bay(n, 'warm');
    await bay(n, 'settle');
    const { vehicle } = (await me().get('/bays')).body.find((b: { bay: number }) => b.bay === n);
    return me().newJob({ adapter: `sim:${n}`, vehicle });
  }
  const capture = (jobId: string, at: string, phase = 'before') =>
    me().post(`/jobs/${jobId}/captures`, { id: uuid(), phase, at });
  const taken = (jobId: string, at: string, phase = 'before') =>
    until(async () =>
      (await me().get(`/jobs/${jobId}/readings`)).body.find(
        (r: { reading: { at: string }; phase: string }) => r.reading.at === at && r.phase === phase,
      ),
    );
  return { bay, carWith, capture, taken };
}
