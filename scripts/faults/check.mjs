/**
 * The checker: reads the database with its own SQL, shares no code with the server, and holds it against what the
 * tablets were told. Pushes one sentence for every promise that does not hold. It reads one moment: it may run while
 * tablets write, held against a ledger taken before.
 */
import { execFile } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { inflateSync } from 'node:zlib';
import { inWords } from '../../packages/core/dist/units/index.js';
import { ROOT } from '../lib/build.mjs';

const run = promisify(execFile);
const sha256 = (data) => createHash('sha256').update(data).digest('hex');
const json = (v) => (typeof v === 'string' ? JSON.parse(v) : v);

/** Where each kind of write lies, and what of it must be there as it was sent. */
const KINDS = {
  reading: { table: 'reading', event: 'reading' },
  test: { table: 'test_result', event: 'test' },
  repair: { table: 'repair', event: 'repair' },
  entry: { table: 'service_entry' },
  known: { table: 'known_figure' },
  run: { table: 'service_run' },
  'run-event': { table: 'service_event' },
};
/** Every table of a job, for whose it is. */
const OF_JOBS = [
  ...['job_event', 'vehicle_record', 'reading', 'test_result', 'repair', 'known_figure', 'diagnosis', 'capture'],
  ...['service_run', 'service_event', 'service_entry', 'photo'],
];

/** What is to be held against the database; tablets write into it as they are answered. */
export const newLedger = () => ({
  /** { kind, id, jobId, shopId, data, key, accountId }: what was acknowledged, as it was sent. */
  acknowledged: [],
  /** Seconds of a capture that were shown as kept; samples by channel that came with them. */
  seconds: new Map(),
  samples: new Map(),
  /** { id, jobId, sha256 }: the picture as it was given back. */
  photos: [],
  /** { job, rows }: archives that were taken, with every row of theirs. */
  archives: [],
});

/** A copy that no tablet writes into any more. */
export const asOfNow = (l) => ({
  acknowledged: [...l.acknowledged],
  seconds: new Map(l.seconds),
  samples: new Map([...l.samples].map(([id, c]) => [id, new Map(c)])),
  photos: [...l.photos],
  archives: [...l.archives],
});

/** Whether all that was sent is there, whatever stands beside it. */
function holds(there, sent) {
  if (sent === null || typeof sent !== 'object') return there === sent;
  if (there === null || typeof there !== 'object' || Array.isArray(there) !== Array.isArray(sent)) return false;
  return Object.entries(sent).every(([k, v]) => holds(there[k], v));
}

/**
 * `snapshot`: look at one moment; not where the caller has a transaction open. `recompute`: have the newest judgements
 * worked out again by the command line, a second's work.
 */
export async function check(db, ledger, failures, { snapshot = true, recompute = true } = {}) {
  if (snapshot) await db.query('START TRANSACTION WITH CONSISTENT SNAPSHOT');
  try {
    const one = async (sql, args) => (await db.query(sql, args))[0];
    const count = async (sql, args) => Number((await one(sql, args)).n);
    const context = { db, ledger, failures, one, count };
    await rowsAndKeys(context);
    await jobs(context);
    await judgements(context, recompute);
    await captures(context);
    await picturesAndArchives(context);
  } finally {
    if (snapshot) await db.query('COMMIT');
  }
}

async function rowsAndKeys({ db, ledger, failures, one, count }) {
  for (const a of ledger.acknowledged) {
    if (a.kind === 'caution') {
      const n = await count(
        "SELECT COUNT(*) AS n FROM job_event WHERE kind = 'caution' AND JSON_VALUE(data, '$.step') = ?",
        [a.id],
      );
      if (n !== 1) failures.push(`an acknowledged caution is there ${n} times`);
    } else {
      const { table } = KINDS[a.kind];
      const row = await one(`SELECT jobId, shopId, data FROM ${table} WHERE id = ?`, [a.id]);
      if (!row) failures.push(`an acknowledged ${a.kind} is not there`);
      else if (row.jobId !== a.jobId || (a.shopId && row.shopId !== a.shopId))
        failures.push(`an acknowledged ${a.kind} lies in another job or shop`);
      else if (a.data && !holds(json(row.data), a.data)) failures.push(`an acknowledged ${a.kind} says something else`);
    }
    if (!a.key) continue;
    const kept = await one('SELECT response FROM done_request WHERE accountId = ? AND keyHash = ?', [
      a.accountId,
      sha256(a.key),
    ]);
    if (!kept) failures.push(`the key of an acknowledged ${a.kind} is gone`);
    else if (kept.response === null) failures.push(`the key of an acknowledged ${a.kind} has no answer`);
  }
  const running = await db.query(
    "SELECT jobId, COUNT(*) AS n FROM capture WHERE state = 'running' GROUP BY jobId HAVING n > 1",
  );
  if (running.length > 0) failures.push(`${running.length} jobs with more than one running capture`);
}

async function jobs({ ledger, failures, one, count }) {
  for (const jobId of new Set(ledger.acknowledged.map((a) => a.jobId))) {
    const job = await one('SELECT shopId, summary, changes FROM job WHERE id = ?', [jobId]);
    if (!job) {
      failures.push('the job of an acknowledged write is not there');
      continue;
    }
    const shop = ledger.acknowledged.find((a) => a.jobId === jobId && a.shopId)?.shopId;
    if (shop && job.shopId !== shop) failures.push('a job lies in another shop');
    for (const table of OF_JOBS) {
      const n = await count(`SELECT COUNT(*) AS n FROM ${table} WHERE jobId = ? AND shopId <> ?`, [jobId, job.shopId]);
      if (n > 0) failures.push(`${n} rows of ${table} lie in another shop than their job`);
    }
    for (const { table, event } of Object.values(KINDS)) {
      if (!event) continue;
      const events = await count('SELECT COUNT(*) AS n FROM job_event WHERE kind = ? AND jobId = ?', [event, jobId]);
      const rows = await count(`SELECT COUNT(*) AS n FROM ${table} WHERE jobId = ?`, [jobId]);
      if (events !== rows) failures.push(`${rows} rows of ${table}, ${events} lines in the history`);
    }
    const { counts } = json(job.summary);
    const tests = await count('SELECT COUNT(*) AS n FROM test_result WHERE jobId = ? AND undone = 0', [jobId]);
    const repairs = await count('SELECT COUNT(*) AS n FROM repair WHERE jobId = ? AND undone = 0', [jobId]);
    if (counts.tests !== tests || counts.repairs !== repairs)
      failures.push(`the board says ${JSON.stringify(counts)}, the rows are ${tests} tests and ${repairs} repairs`);
  }
}

/** The newest judgement of each job: of its readings, and what the command line says of the same input. */
async function judgements({ db, ledger, failures }, recompute) {
  const judged = [];
  for (const jobId of new Set(ledger.acknowledged.map((a) => a.jobId))) {
    const [d] = await db.query(
      'SELECT input, settings, output FROM diagnosis WHERE jobId = ? ORDER BY createdAt DESC, id DESC LIMIT 1',
      [jobId],
    );
    const rows = await db.query("SELECT data FROM reading WHERE jobId = ? AND phase = 'before' AND undone = 0", [
      jobId,
    ]);
    if (!d) {
      if (rows.length > 0) failures.push('a job with readings has no judgement');
      continue;
    }
    const [input, settings, output] = [json(d.input), json(d.settings), json(d.output)];
    // An outcome that moves nothing keeps no new judgement: the readings are what always shows.
    if (input.readings.length !== rows.length)
      failures.push(`the kept judgement has ${input.readings.length} of ${rows.length} readings`);
    else if (
      !rows.every((r) => input.readings.some((x) => x.at === json(r.data).at && holds(x.trims, json(r.data).trims)))
    )
      failures.push('the kept judgement was made of other readings');
    if (output.id !== input.id) failures.push('the kept judgement is of another case');
    if (Object.keys(settings).length === 0) judged.push({ input, output });
  }
  if (judged.length === 0 || !recompute) return;
  const dir = await mkdtemp(join(tmpdir(), 'jb-check-'));
  try {
    const [cases, results] = [join(dir, 'cases.ndjson'), join(dir, 'results.ndjson')];
    await writeFile(cases, judged.map((j) => `${JSON.stringify(j.input)}\n`).join(''));
    await run(process.execPath, [join(ROOT, 'apps/cli/bin/jb.mjs'), 'diagnose', '--in', cases, '--out', results]);
    const said = (await readFile(results, 'utf8'))
      .trim()
      .split('\n')
      .map((l) => JSON.parse(l));
    said.forEach((s, i) => {
      // As it was kept: numbers as JSON carries them; sentences as the format has them.
      if (JSON.stringify(s.causes) !== JSON.stringify(inWords(judged[i].output.causes, 'own')))
        failures.push('the kept judgement is not what the same readings give');
    });
  } finally {
    await rm(dir, { recursive: true, force: true });
  }
}

async function captures({ db, ledger, failures, one }) {
  for (const [captureId, most] of ledger.seconds) {
    const c = await one('SELECT form, meta FROM capture WHERE id = ?', [captureId]);
    if (!c) {
      failures.push('a capture whose seconds were shown as kept is not there');
      continue;
    }
    const rows = await db.query('SELECT epoch, seq, data FROM capture_row WHERE captureId = ? ORDER BY epoch, seq', [
      captureId,
    ]);
    const there = c.form === 'columns' ? (json(c.meta)?.seconds ?? 0) : rows.length;
    if (there < most) failures.push(`${most} seconds were shown as kept, ${there} are there`);
    let last = null;
    for (const r of rows) {
      if (last && r.epoch === last.epoch && r.seq !== last.seq + 1)
        failures.push(`epoch ${r.epoch}: ${last.seq} then ${r.seq}`);
      if ((!last || r.epoch !== last.epoch) && r.seq !== 0) failures.push(`epoch ${r.epoch} begins with ${r.seq}`);
      last = r;
    }
    const found = new Map();
    const add = (channel, n) => found.set(channel, (found.get(channel) ?? 0) + n);
    if (c.form === 'columns') {
      const parts = await db.query('SELECT channel, n, data FROM capture_column WHERE captureId = ?', [captureId]);
      for (const p of parts) {
        const n = samplesIn(p.data);
        if (n !== p.n) failures.push(`a part of ${p.channel} says ${p.n} samples and holds ${n}`);
        add(p.channel, n);
      }
    } else for (const r of rows) for (const [channel, list] of Object.entries(json(r.data))) add(channel, list.length);
    for (const [channel, n] of ledger.samples.get(captureId) ?? [])
      if ((found.get(channel) ?? 0) < n)
        failures.push(`${n} samples of ${channel} were told, ${found.get(channel) ?? 0} are there`);
  }
}

/** Samples of a packed column by its own bytes (docs/formats/column.md): magic, kind, then n as a varint. -1: no column. */
function samplesIn(data) {
  let bytes;
  try {
    bytes = inflateSync(data);
  } catch {
    return -1;
  }
  if (bytes.subarray(0, 4).toString('latin1') !== 'JBC1') return -1;
  let n = 0;
  for (let i = 5, shift = 0; i < bytes.length; i++, shift += 7) {
    n += (bytes[i] & 0x7f) * 2 ** shift;
    if ((bytes[i] & 0x80) === 0) return n;
  }
  return -1;
}

async function picturesAndArchives({ ledger, failures, one, count }) {
  for (const p of ledger.photos) {
    const row = await one('SELECT jobId, image FROM photo WHERE id = ?', [p.id]);
    if (!row || row.jobId !== p.jobId) failures.push('an acknowledged picture is not there');
    else if (sha256(row.image) !== p.sha256) failures.push('an acknowledged picture is another one');
  }
  const TABLES = {
    events: 'job_event',
    tests: 'test_result',
    repairs: 'repair',
    readings: 'reading',
    entries: 'service_entry',
  };
  for (const { job, rows } of ledger.archives) {
    if ((await count('SELECT COUNT(*) AS n FROM job WHERE id = ?', [job])) !== 1)
      failures.push('a job of an archive that was taken is not there');
    for (const [name, table] of Object.entries(TABLES))
      for (const r of rows[name] ?? []) {
        const row = await one(`SELECT data FROM ${table} WHERE id = ?`, [r.id]);
        if (!row || !holds(json(row.data), r.data))
          failures.push(`a row of ${table} of an archive is not there as it was`);
      }
  }
}
