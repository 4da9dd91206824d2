import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { v7 as uuid } from 'uuid';
import { Capture, CaptureRow } from '../src/rows/captures.ts';
import { Job } from '../src/rows/jobs.ts';
import { JobOutcomeRow } from '../src/rows/learning.ts';
import { Client, type Fixture, readingAt, startFixture, until } from './harness.ts';

let fixture: Fixture;
let me: Client;
beforeAll(async () => {
  fixture = await startFixture({ sim: null });
  me = await new Client(() => fixture.base).signIn();
});
afterAll(() => fixture.close());

/** The next start does a migration again, as on a database from before it. */
async function startFromBefore(migration: string): Promise<void> {
  await fixture.running.sequelize.query(`DELETE FROM schema_migrations WHERE name = '${migration}'`);
  await fixture.restart();
  await me.signIn();
}

test('causes that an earlier version stamped on repairs by hand are told apart, and teach nothing; those of guided work stay', async () => {
  const proven = async (repair: (jobId: string) => Promise<unknown>) => {
    const { id } = await me.newJob();
    const into = (phase: string, at: string, ltft: number) =>
      me.post(`/jobs/${id}/readings`, { id: uuid(), phase, reading: readingAt(at, ltft, at === 'idle' ? 2.6 : 9) });
    await into('before', 'idle', 14);
    await repair(id);
    await into('after', 'idle', 0.5);
    return id as string;
  };
  const stamped = await proven((id) =>
    me.post(`/jobs/${id}/repairs`, { id: uuid(), text: 'hose renewed', fault: 'vac-leak', adaptation: 'relearn' }),
  );
  const procedure = SHIPPED_PROCEDURES.find((p) => p.id === 'airflow-sensor-clean')!;
  const guided = await proven(async (id) => {
    await me.post(`/jobs/${id}/runs`, { id: uuid(), procedure });
    const text = `${procedure.title}. Source: filter`;
    return me.post(`/jobs/${id}/repairs`, { id: uuid(), text, fault: 'maf-dirty', adaptation: 'relearn' });
  });
  const taught = async (jobId: string) => (await JobOutcomeRow.findOne({ where: { jobId } }))?.data.proven;
  expect([await taught(stamped), await taught(guided)]).toEqual([['vac-leak'], ['maf-dirty']]);
  await startFromBefore('0010-brought-in');
  const repairs = async (id: string) => (await me.get(`/jobs/${id}/repairs`)).body;
  expect(await repairs(stamped)).toMatchObject([{ fault: 'vac-leak', guessed: true }]);
  expect((await repairs(guided))[0]).not.toHaveProperty('guessed');
  await until(async () => (await taught(stamped))?.length === 0);
  expect(await taught(guided)).toEqual(['maf-dirty']);
  const doc = JSON.stringify((await me.get(`/jobs/${stamped}/hand-over/customer`)).body);
  expect(doc).not.toMatch(/vac-leak/);
});

test('a stretch that is taken into the case before its recording is packed hides nothing of it; one so hidden is found again', async () => {
  const { id: jobId } = await me.newJob();
  const { shopId } = (await Job.findByPk(jobId))!;
  /** Ended, its twenty seconds not packed yet, as in the moment after a capture or after a crash. */
  const ended = async (meta: object | null) => {
    const id = uuid();
    const head = { id, shopId, jobId, at: 'idle', phase: 'before', state: 'stopped', source: 'link', gaps: 0 };
    await Capture.create({ ...head, endedAt: new Date(), meta } as never);
    for (let seq = 0; seq < 20; seq++)
      await CaptureRow.create({
        ...{ captureId: id, shopId, epoch: 1, seq, atMs: 1_770_000_000_000 + 1000 * seq },
        data: { rpm: [[0, 700 + seq]] },
      } as never);
    return id;
  };
  const seconds = async (id: string) => {
    const { channels, seconds } = (await me.get(`/jobs/${jobId}/captures/${id}/recording`)).body;
    return [channels.find((c: { id: string }) => c.id === 'rpm')?.n, seconds];
  };
  const fresh = await ended(null);
  const stretch = { captureId: fresh, fromS: 2, toS: 14 };
  const reading = readingAt('idle', 12, 2.5);
  expect((await me.post(`/jobs/${jobId}/readings`, { id: uuid(), phase: 'before', reading, stretch })).status).toBe(
    201,
  );
  // As an earlier version left one behind.
  const hidden = await ended({ startedAtMs: 0, marks: [{ at: 'idle', from: 2, to: 14 }] });
  for (const id of [fresh, hidden]) expect(await seconds(id)).toEqual([20, 20]);
  await fixture.restart();
  await me.signIn();
  await until(async () => (await CaptureRow.count({ where: { captureId: [fresh, hidden] } })) === 0);
  for (const id of [fresh, hidden]) {
    expect(await seconds(id)).toEqual([20, 20]);
    expect((await Capture.findByPk(id))!.form).toBe('columns');
    const { marks, startedAt } = (await me.get(`/jobs/${jobId}/captures/${id}/recording`)).body;
    expect([marks, startedAt]).toEqual([[{ at: 'idle', from: 2, to: 14 }], new Date(1_770_000_000_000).toISOString()]);
  }
});
