import { afterEach, describe, expect, test } from '@jest/globals';
import type { CaptureStatus, JobView } from '@just-balance/contract';
import { capturePoint } from '@just-balance/core/capture';
import { cleanup, screen, within } from '@testing-library/react';
import { CaptureHead } from '../src/capture/CaptureHead.tsx';
import { Conditions } from '../src/capture/Conditions.tsx';
import { CaptureSession, planOfPhase, underWay } from '../src/sessions/CaptureSession.ts';
import { EMPTY_JOB, open } from './page.tsx';

afterEach(cleanup);

const status = (over: Partial<CaptureStatus> = {}): CaptureStatus => ({
  captureId: 'c1',
  at: 'idle',
  phase: 'before',
  state: 'waiting',
  conditions: [],
  goodS: 0,
  wantedS: 10,
  reason: null,
  etaS: null,
  sentence: null,
  keepable: false,
  keptSeconds: 12,
  ...over,
});
const reading = (at: string, phase: 'before' | 'after' = 'before') => ({
  id: `${phase} ${at}`,
  rev: 1,
  at: '2026-05-04T09:00:00Z',
  by: 'x',
  phase,
  source: 'hand',
  undone: false,
  doubtful: null,
  reading: { at, ltft: { bank1: 4 }, stft: { bank1: 2 } },
});
const job = (over: Partial<JobView> = {}): JobView =>
  ({
    ...EMPTY_JOB,
    adapter: 'shop:1',
    openedAt: '2026-05-04T08:00:00Z',
    vehicle: { label: 'Marl 2.0', fuel: 'petrol', metering: 'maf', induction: 'na', banks: 1 },
    complaint: { symptoms: ['lamp-only'], recentWork: [] },
    ...over,
  }) as unknown as JobView;

describe('the captures of a phase', () => {
  function made() {
    const asked: unknown[][] = [];
    const session = new CaptureSession('before', {
      start: async (...a) => void asked.push(['start', ...a]),
      command: async (...a) => void asked.push(['command', ...a]),
      tone: (t) => void asked.push(['tone', t]),
    });
    return { session, asked };
  }
  test('what was so before anybody listened makes no sound; each change makes its own, once', () => {
    const { session, asked } = made();
    session.follow(status({ state: 'capturing' }));
    session.follow(status({ state: 'capturing', keptSeconds: 13 }));
    expect(asked).toEqual([]);
    session.follow(status({ state: 'lost' }));
    session.follow(status({ state: 'capturing' }));
    session.follow(status({ state: 'done' }));
    session.follow(null);
    session.follow(status({ state: 'waiting' }));
    session.follow(status({ state: 'refused', reason: 'it wandered' }));
    expect(asked.map((a) => a[1])).toEqual(['trouble', 'opened', 'kept', 'trouble']);
  });
  test('a point that is kept is no longer the chosen one; a point chosen after it stays chosen', () => {
    const { session } = made();
    session.choose('hold-2500');
    session.follow(status({ state: 'capturing' }));
    session.follow(status({ state: 'done' }));
    expect(session.choice().chosen).toBeNull();
    session.choose('idle');
    session.follow(status({ state: 'done', keptSeconds: 14 }));
    expect(session.choice().chosen).toBe('idle');
    session.follow(status({ state: 'done', captureId: 'c2' }));
    expect(session.choice().chosen).toBeNull();
  });
  test('started, it is the chosen one; asked, it is asked by its id; free is in the same phase', async () => {
    const { session, asked } = made();
    await session.start('hold-2500');
    await session.startFree('rpm');
    await session.command(status(), 'pause');
    expect(session.choice().chosen).toBe('hold-2500');
    expect(asked).toEqual([
      ['start', 'hold-2500', 'before'],
      ['start', 'free', 'before', 'rpm'],
      ['command', 'c1', 'pause'],
    ]);
  });
});

describe('which point is meant', () => {
  const none = { chosen: null, byHand: false, more: false };
  test('the first wanted that is not kept; what runs and what was chosen come before it', () => {
    const empty = planOfPhase(job(), 'before', none, null);
    expect(empty.point.at).toBe('idle');
    const one = job({ readings: [reading('idle')] } as never);
    expect(planOfPhase(one, 'before', none, null).point.at).toBe('hold-2500');
    expect(planOfPhase(one, 'before', { ...none, chosen: 'road-load' }, null).point.at).toBe('road-load');
    const runs = status({ at: 'snap' });
    expect(planOfPhase(one, 'before', { ...none, chosen: 'road-load' }, runs).point.at).toBe('snap');
  });
  test('for the proof only what was taken before the repair is wanted', () => {
    const proof = job({
      readings: [reading('hold-2500')],
      repairs: [{ id: 'r', at: '2026-05-04T10:00:00Z', undone: false, fault: null, part: null }],
    } as never);
    expect(planOfPhase(proof, 'after', none, null)).toMatchObject({ wanted: ['hold-2500'], open: { at: 'hold-2500' } });
  });
  test('boost is offered to an engine that has it, and more points when they are asked for', () => {
    const ats = (j: JobView, more: boolean) =>
      planOfPhase(j, 'before', { ...none, more }, null).offered.map((p) => p.at);
    expect(ats(job(), true)).not.toContain('boost');
    const turbo = job();
    turbo.vehicle.induction = 'turbo';
    expect(ats(turbo, true)).toContain('boost');
    expect(ats(job(), false).length).toBeLessThan(ats(job(), true).length);
  });
  test('what runs is what has something to say, in this phase', () => {
    expect(underWay(status(), 'before')?.captureId).toBe('c1');
    expect(underWay(status(), 'after')).toBeNull();
    expect(underWay(status({ state: 'done' }), 'before')).toBeNull();
    expect(underWay(status({ state: 'refused' }), 'before')).toBeNull();
    expect(underWay(status({ state: 'refused', reason: 'it wandered' }), 'before')).not.toBeNull();
    expect(underWay(null, 'before')).toBeNull();
  });
});

describe('the next step of a capture', () => {
  const head = (s: CaptureStatus | null, over: Partial<Parameters<typeof CaptureHead>[0]> = {}) => {
    const asked: string[] = [];
    const page = open(
      <CaptureHead
        job={job()}
        point={capturePoint('idle')!}
        status={s}
        complete={null}
        busy={false}
        next={<a href="/x">To Balance</a>}
        start={() => asked.push('start')}
        command={(c) => asked.push(c)}
        hand={() => asked.push('hand')}
        again={() => asked.push('first again')}
        {...over}
      />,
    );
    const press = async (name: string) => page.person.click(screen.getByRole('button', { name }));
    return { ...page, asked, press };
  };
  const buttons = () => screen.getAllByRole('button').map((b) => b.textContent);

  test('nothing runs: started, or entered by hand; without an adapter only by hand', async () => {
    const { press, asked } = head(null);
    await press('Start');
    await press('Enter by hand');
    expect(asked).toEqual(['start', 'hand']);
    cleanup();
    head(null, { job: job({ adapter: null } as never) });
    expect(screen.getByText('No adapter on this job: enter what your tool shows.')).toBeTruthy();
    expect((screen.getByRole('button', { name: 'Start' }) as HTMLButtonElement).disabled).toBe(true);
  });
  test('waiting it says for what; what only lacks warmth can be kept as doubtful', async () => {
    const { press, asked } = head(status({ sentence: 'Waiting for the coolant: 61 of 75 °C.', keepable: true }));
    expect(screen.getAllByText('Waiting for the coolant: 61 of 75 °C.').length).toBeGreaterThan(0);
    await press('Keep it now, marked doubtful');
    await press('Pause');
    await press('Stop');
    expect(asked).toEqual(['keep-doubtful', 'pause', 'stop']);
    cleanup();
    head(status());
    expect(buttons()).toEqual(['Pause', 'Stop']);
  });
  test('capturing it counts down', () => {
    head(status({ state: 'capturing', goodS: 3.4, wantedS: 10 }));
    expect(screen.getByRole('img', { name: '7 s left' })).toBeTruthy();
    expect(document.body.textContent).toMatch(/capturing, 7 s to go/);
  });
  test('paused it goes on; refused it is tried again or kept with its doubt', async () => {
    const paused = head(status({ state: 'paused' }));
    await paused.press('Go on');
    expect(paused.asked).toEqual(['resume']);
    cleanup();
    const refused = head(status({ state: 'refused', reason: 'airflow wandered by 9 %' }));
    expect(document.body.textContent).toMatch(/Not good enough to keep: airflow wandered by 9 %/);
    await refused.press('Try again');
    await refused.press('Keep, marked doubtful');
    expect(refused.asked).toEqual(['again', 'keep-doubtful']);
  });
  test('a silent vehicle is not a lost adapter', () => {
    head(status({ state: 'lost', silent: true, reason: 'no value has come for 3 s' }));
    expect(document.body.textContent).toMatch(/The vehicle does not answer\. 12 s up to then are kept/);
    expect(document.body.textContent).not.toMatch(/Adapter lost/);
    cleanup();
    head(status({ state: 'lost', silent: false, reason: 'unplugged; trying again every 2 s' }));
    expect(document.body.textContent).toMatch(/Adapter lost\. 12 s up to then are kept/);
    expect(document.body.textContent).toMatch(/Unplugged; trying again every 2 s\. Cranking often does this/);
  });
  test('free it has no window and no reading: stop is all it ends with', () => {
    head(status({ at: 'free', state: 'capturing' }));
    expect(buttons()).toEqual(['Pause', 'Stop']);
    expect(document.body.textContent).toMatch(/Recording freely: 12 s kept/);
  });
  test('all kept: on, or the first once more', async () => {
    const { press, asked } = head(null, {
      complete: { title: 'Both points are kept', why: 'What was asked for is in.' },
    });
    expect(screen.getByRole('link', { name: 'To Balance' })).toBeTruthy();
    await press('Take again');
    expect(asked).toEqual(['first again']);
  });
});

describe('what must be true', () => {
  test('before it runs in words, in the reader’s units; then each with its state', () => {
    open(<Conditions status={null} point={capturePoint('idle')!} job={job()} />);
    expect(document.body.textContent).toMatch(/warm from 75 °C|warm from \d+ °C/);
    expect(document.body.textContent).toMatch(/closed loop/);
    cleanup();
    const conditions = [
      { id: 'rpm', label: 'Engine speed', met: true, detail: '760 rpm' },
      { id: 'warm', label: 'Warm', met: false, detail: '61 °C' },
    ];
    open(<Conditions status={status({ conditions })} point={capturePoint('idle')!} job={job()} />);
    const rows = screen.getAllByRole('listitem');
    expect(within(rows[0]!).getByText('yes')).toBeTruthy();
    expect(within(rows[1]!).getByText('not yet')).toBeTruthy();
  });
  test('a diesel has no closed loop to wait for', () => {
    const diesel = job();
    diesel.vehicle.fuel = 'diesel';
    open(<Conditions status={null} point={capturePoint('idle')!} job={diesel} />);
    expect(document.body.textContent).not.toMatch(/closed loop/);
  });
});
