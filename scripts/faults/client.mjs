import { createHash, randomUUID } from 'node:crypto';
import WebSocket from 'ws';
import { patient } from '../lib/patience.cjs';

const ANSWER_MS = patient(15_000);

/** A tablet: signs in, writes under keys until it is told that a write is kept, watches a job. */
export class Tablet {
  cookie = '';

  constructor(base) {
    this.base = base;
  }

  async ask(method, path, body, headers = {}) {
    const res = await fetch(`${this.base}/api${path}`, {
      method,
      headers: { ...(body ? { 'content-type': 'application/json' } : {}), cookie: this.cookie, ...headers },
      body: body ? JSON.stringify(body) : undefined,
      signal: AbortSignal.timeout(ANSWER_MS),
    });
    const text = await res.text();
    const set = res.headers.getSetCookie().map((c) => c.split(';')[0]);
    if (set.length > 0) this.cookie = set.join('; ');
    return { status: res.status, body: text ? JSON.parse(text) : null };
  }

  async signIn(email = 'okafor@linden.example', password = 'bench-demo-1') {
    for (;;) {
      const r = await this.ask('POST', '/session', { email, password }).catch(() => null);
      if (r?.status === 200) return this;
      await new Promise((done) => setTimeout(done, 300));
    }
  }

  /** Until it is acknowledged, as a tablet does it: the same key, the same body. Throws on a refusal. */
  async keep(path, body, key = randomUUID()) {
    for (;;) {
      const r = await this.ask('POST', path, body, { 'idempotency-key': key }).catch(() => null);
      if (r && r.status >= 200 && r.status < 300) return r.body;
      if (r && r.status < 500 && r.status !== 401) throw new Error(`${path}: ${r.status} ${JSON.stringify(r.body)}`);
      await new Promise((done) => setTimeout(done, 150));
    }
  }

  /** Bytes of an answer; null where there is none. */
  async bytes(path) {
    const res = await fetch(`${this.base}/api${path}`, {
      headers: { cookie: this.cookie },
      signal: AbortSignal.timeout(ANSWER_MS),
    });
    return res.status === 200 ? new Uint8Array(await res.arrayBuffer()) : null;
  }

  /** What `ask` gives, once it gives something. */
  async keepAnswer(ask) {
    for (;;) {
      const answer = await ask().catch((e) => {
        if (e instanceof Refused) throw e;
        return null;
      });
      if (answer) return answer;
      await new Promise((done) => setTimeout(done, 150));
    }
  }

  async send(method, path, type, body) {
    return this.keepAnswer(async () => {
      const res = await fetch(`${this.base}/api${path}`, {
        method,
        headers: { cookie: this.cookie, 'content-type': type },
        body,
        signal: AbortSignal.timeout(ANSWER_MS),
      });
      if (res.status >= 400 && res.status < 500 && res.status !== 401)
        throw new Refused(`${path}: ${res.status} ${await res.text()}`);
      return res.status < 300 || null;
    });
  }

  /** A picture until it is acknowledged; then as it is given back, by its SHA-256. */
  async keepPhoto(jobId, id, image) {
    const path = `/jobs/${jobId}/photos/${id}`;
    await this.send('PUT', path, 'image/jpeg', image);
    return createHash('sha256')
      .update(await this.keepAnswer(() => this.bytes(path)))
      .digest('hex');
  }

  keepArchive(zip) {
    return this.send('POST', '/archives', 'application/zip', zip);
  }

  async account() {
    return this.keepAnswer(async () => (await this.ask('GET', '/session')).body?.account);
  }

  async newJob(change = {}) {
    const id = randomUUID();
    await this.keep('/jobs', {
      id,
      vehicleId: randomUUID(),
      vehicle: { label: 'Tarn 2.0', fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4, banks: 1 },
      complaint: { symptoms: ['rough-idle'] },
      ...change,
    });
    return id;
  }

  /** Messages of a job over the socket, for as long as it stands. */
  watch(jobId, onMessage) {
    const ws = new WebSocket(`${this.base.replace('http', 'ws')}/ws`, { headers: { cookie: this.cookie } });
    ws.on('error', () => {});
    ws.on('open', () => ws.send(JSON.stringify({ type: 'subscribe', jobId })));
    ws.on('message', (m) => onMessage(JSON.parse(String(m))));
    return () => ws.terminate();
  }
}

/** The server said no: the same again changes nothing. */
class Refused extends Error {}

/** What is waited for can come no more. */
export class Ended extends Error {}

/** Until `look` gives something; what it throws counts as not yet, unless it is `Ended`. `what` says what was awaited. */
export async function until(look, ms, what) {
  const end = Date.now() + ms;
  for (;;) {
    const seen = await Promise.resolve()
      .then(look)
      .catch((e) => {
        if (e instanceof Ended) throw e;
        return null;
      });
    if (seen) return seen;
    if (Date.now() > end) throw new Error(`not within ${ms / 1000} s: ${typeof what === 'string' ? what : what()}`);
    await new Promise((done) => setTimeout(done, 150));
  }
}
