import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { bays, Client, type Fixture, startFixture, until } from './harness.ts';

let fixture: Fixture;
let me: Client;
beforeAll(async () => {
  fixture = await startFixture();
  me = await new Client(() => fixture.base).signIn();
});
afterAll(() => fixture.close());

const { bay, carWith, capture } = bays(() => me);

describe('the bay panel', () => {
  test('chooses the vehicle, the sky, the night, the drive, the time; two faults; a bench test with its chance of a wrong look', async () => {
    const state = async (command: string, more = {}) => (await bay(3, command, more)).body;
    expect((await state('vehicle', { vehicle: 'garrick-50' })).vehicle).toMatchObject({ cylinders: 8, banks: 2 });
    expect((await state('ambient', { altitudeM: 1500, airC: 4 })).baroKPa).toBeCloseTo(84.6, 1);
    await state('soak', { hours: 12 });
    expect((await state('idle', { ac: true })).target).toBe('idle, A/C on');
    expect((await state('speed', { kmh: 80 })).target).toBe('driving 80 km/h');
    await state('rate', { rate: 50 });
    await until(async () => (await me.get('/bays')).body[2].kmh > 60);
    // Slower from here: at fifty times the pull is over between two looks.
    await state('rate', { rate: 10 });
    expect((await state('script', { script: 'hill' })).script).toBe('Up the hill');
    await until(async () => /full load/.test((await me.get('/bays')).body[2].target));
    expect((await state('idle')).script).toBeNull();
    await state('rate', { rate: 0 });
    await state('fault', { fault: 'maf-dirty', severity: 15 });
    const two = await state('fault', { fault: 'o2-slow', severity: 800, faultBank: 2, also: true });
    expect(two.faultsIn).toEqual([
      { id: 'maf-dirty', severity: 15 },
      { id: 'o2-slow', severity: 800, bank: 2 },
    ]);
    expect((await state('repair', { fault: 'maf-dirty' })).faultsIn).toHaveLength(1);
    const looked = (await state('test', { test: 'o2-force', faultBank: 2 })).result;
    expect(looked).toMatchObject({ test: 'o2-force', outcome: 'slow', bank: 2, chanceOfWrong: expect.any(Number) });
    expect((await state('pins')).result).toHaveLength(5);
    expect((await bay(3, 'test', { test: 'tarot' })).body.message).toMatch(/unknown bench test/);
    expect((await bay(3, 'rate', { rate: 90 })).body.message).toMatch(/rate: 0 to 50/);
    await state('rate', { rate: 1 });
    await state('vehicle', { vehicle: 'dunmore-16' });
  });

  test('a link that drops and corrupts frames still captures', async () => {
    const broken = { dropShare: 0.05, corruptShare: 0.02, delayMs: 20 };
    const job = await carWith(1, null);
    const opened = async (degradation: object) => {
      await bay(1, 'degrade', { degradation });
      await me.post(`/jobs/${job.id}/link`, {});
      await until(async () => (await me.get(`/jobs/${job.id}/link`)).body.state === 'ready');
    };
    // Over such a link the vehicle is found out too, and asked one thing at a time from then on.
    await opened(broken);
    await me.remove(`/jobs/${job.id}/link`);
    // What goes wrong on the way finds a car that is known: several things in one question.
    await opened({});
    // Less of it than for finding out: on a slow machine late answers come on top of the lost ones.
    await bay(1, 'degrade', { degradation: { ...broken, dropShare: 0.03, corruptShare: 0.01 } });
    const { captureId } = (await capture(job.id, 'idle')).body;
    // It takes seconds at best: meanwhile the board says that it runs.
    const runs = expect.objectContaining({ id: captureId, job: job.id, at: 'idle' });
    expect((await me.get('/jobs/running')).body).toContainEqual(runs);
    await until(async () => {
      // On a slow machine broken frames weigh more: refused three times it waits for a person, who tries again.
      const { status } = (await me.get(`/jobs/${job.id}/captures/running`)).body;
      if (status?.state === 'refused')
        await me.post(`/jobs/${job.id}/captures/${captureId}/command`, { command: 'again' });
      return (await me.get(`/jobs/${job.id}/readings`)).body.length > 0;
    });
    expect((await me.get('/jobs/running')).body).not.toContainEqual(runs);
    await bay(1, 'degrade', { degradation: {} });
    await me.remove(`/jobs/${job.id}/link`);
  });

  test('refuses what the bay cannot do, with the reason', async () => {
    expect((await bay(1, 'fault', { fault: 'vac-leak', severity: 400 })).body.message).toMatch(/outside/);
    expect((await bay(1, 'fault', { fault: 'warp-core', severity: 1 })).body.message).toMatch(/unknown fault/);
    expect((await bay(1, 'hold', { rpm: 10 })).body.message).toMatch(/1,000 to 4,500/);
    expect((await bay(77, 'idle')).status).toBe(400);
    expect((await bay(1, 'explode')).status).toBe(400);
  });
});
