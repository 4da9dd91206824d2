/**
 * The checker: reads the database with its own SQL, shares no code with the server, and holds it against what the
 * tablets were told. Pushes one sentence for every promise that does not hold.
 */
export async function check(db, { acknowledged, seconds, failures }) {
  const count = async (sql, args) => Number((await db.query(sql, args))[0].n);
  const TABLE = { reading: 'reading', test: 'test_result', repair: 'repair' };
  for (const a of acknowledged) {
    const n =
      a.kind === 'caution'
        ? await count("SELECT COUNT(*) AS n FROM job_event WHERE kind = 'caution' AND JSON_VALUE(data, '$.step') = ?", [
            a.id,
          ])
        : await count(`SELECT COUNT(*) AS n FROM ${TABLE[a.kind]} WHERE id = ?`, [a.id]);
    if (n !== 1) failures.push(`an acknowledged ${a.kind} is there ${n} times`);
    if (a.kind !== 'caution') {
      const events = await count('SELECT COUNT(*) AS n FROM job_event WHERE kind = ? AND jobId = ?', [a.kind, a.jobId]);
      const rows = await count(`SELECT COUNT(*) AS n FROM ${TABLE[a.kind]} WHERE jobId = ?`, [a.jobId]);
      if (events !== rows) failures.push(`${rows} rows of ${a.kind}, ${events} lines in the history`);
    }
  }
  const taken = await count('SELECT COUNT(*) AS n FROM done_request WHERE response IS NULL');
  if (taken > 0) failures.push(`${taken} idempotency keys without the answer of their work`);
  for (const jobId of new Set(acknowledged.map((a) => a.jobId))) {
    const [job] = await db.query('SELECT summary, changes FROM job WHERE id = ?', [jobId]);
    const summary = typeof job.summary === 'string' ? JSON.parse(job.summary) : job.summary;
    const tests = await count('SELECT COUNT(*) AS n FROM test_result WHERE jobId = ? AND undone = 0', [jobId]);
    const repairs = await count('SELECT COUNT(*) AS n FROM repair WHERE jobId = ? AND undone = 0', [jobId]);
    if (summary.counts.tests !== tests || summary.counts.repairs !== repairs)
      failures.push(
        `the board says ${JSON.stringify(summary.counts)}, the rows are ${tests} tests and ${repairs} repairs`,
      );
    const [d] = await db.query('SELECT input FROM diagnosis WHERE jobId = ? ORDER BY createdAt DESC, id DESC LIMIT 1', [
      jobId,
    ]);
    const input = d && (typeof d.input === 'string' ? JSON.parse(d.input) : d.input);
    const readings = await count('SELECT COUNT(*) AS n FROM reading WHERE jobId = ?', [jobId]);
    // An outcome that moves nothing keeps no new judgement: the readings are what always shows.
    if (input && input.readings.length !== readings)
      failures.push(`the kept judgement has ${input.readings.length} of ${readings} readings`);
  }
  const twice = await db.query(
    "SELECT jobId, COUNT(*) AS n FROM capture WHERE state = 'running' GROUP BY jobId HAVING n > 1",
  );
  if (twice.length > 0) failures.push(`${twice.length} jobs with more than one running capture`);
  for (const [captureId, most] of seconds) {
    const rows = await db.query('SELECT epoch, seq FROM capture_row WHERE captureId = ? ORDER BY epoch, seq', [
      captureId,
    ]);
    const [c] = await db.query('SELECT meta FROM capture WHERE id = ?', [captureId]);
    const meta = c && (typeof c.meta === 'string' ? JSON.parse(c.meta) : c.meta);
    const there = rows.length > 0 ? rows.length : (meta?.seconds ?? 0);
    if (there < most) failures.push(`${most} seconds were shown as kept, ${there} are there`);
    let last = null;
    for (const r of rows) {
      if (last && r.epoch === last.epoch && r.seq !== last.seq + 1)
        failures.push(`epoch ${r.epoch}: ${last.seq} then ${r.seq}`);
      if ((!last || r.epoch !== last.epoch) && r.seq !== 0) failures.push(`epoch ${r.epoch} begins with ${r.seq}`);
      last = r;
    }
  }
}
