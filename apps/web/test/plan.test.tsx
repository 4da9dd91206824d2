import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { JobView, RunView } from '@just-balance/contract';
import { goesBackOn, type Happened, runState, SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { CaptureRunner } from '../src/capture/CaptureRunner.tsx';
import { KeptReading, readingLines } from '../src/capture/KeptReading.tsx';
import type { JobLive } from '../src/data/live.tsx';
import { outbox } from '../src/data/queue.ts';
import { ServiceStation } from '../src/stations/service/ServiceStation.tsx';
import { useShown } from '../src/ui/preferences.tsx';
import { drawsNothing, EMPTY_JOB, LEAD, open, openSignedIn, refused, SIGNED_IN, server } from './page.tsx';

drawsNothing();
beforeEach(async () => {
  localStorage.clear();
  await outbox.useAccount('a1');
});
afterEach(cleanup);

const live = (more: object = {}): JobLive =>
  ({
    ...{ values: {}, traces: new Map(), link: null, capture: null, atDevice: false, present: [] },
    ...{ connected: true, lost: false, setCapture: () => {}, listen: () => () => {}, ...more },
  }) as unknown as JobLive;
const job = (over: object = {}): JobView =>
  ({
    ...EMPTY_JOB,
    ...{ rev: 3, status: 'open', openedAt: '2026-05-04T08:00:00Z', openedBy: 'A. Lund', adapter: null },
    vehicle: {
      ...{ id: 'v1', rev: 1, label: 'Marl 2.0', fuel: 'petrol', metering: 'maf', induction: 'na' },
      ...{ displacementL: 2, cylinders: 4, banks: 1 },
    },
    complaint: { story: '', symptoms: ['lamp-only'], recentWork: [] },
    ...over,
  }) as unknown as JobView;
const runOf = (id: string, ...what: Happened[]): RunView => ({
  ...{ id: `run ${id}`, at: '2026-05-04T08:00:00Z', by: 'x' },
  procedure: SHIPPED_PROCEDURES.find((p) => p.id === id)!,
  events: what.map((w, i) => ({ id: `e${i}`, atMs: 1000 * i, by: 'A. Lund', what: w })),
});
const OK = { status: 201, body: { id: 'x', rev: 1 } };

describe('the plan of the work', () => {
  const causes = [
    { fault: 'maf-dirty', probability: 0.7 },
    { fault: 'vac-leak', probability: 0.2 },
  ];
  const diagnoses = [{ id: 'd', at: '2026-05-04T08:30:00Z', output: { causes, condemned: [] } }];
  const station = async (over: object = {}, account: object = {}) => {
    const asked = server({
      'GET /session': { body: { account: { ...LEAD, ...account }, setupNeeded: false, demo: null } },
      ...{ 'GET /procedures': { body: [] }, 'POST /jobs/j1/runs': OK },
    });
    const page = openSignedIn(<ServiceStation job={job(over)} live={live()} />);
    await screen.findByRole('tablist', { name: 'Service' });
    return { ...page, asked };
  };
  const begun = (asked: { path: string; body: { procedure?: { id: string } } }[]) =>
    waitFor(() => expect(asked.some((a) => a.path === '/jobs/j1/runs')).toBe(true)).then(
      () => asked.find((a) => a.path === '/jobs/j1/runs')!.body.procedure!.id,
    );

  test('the likelier cause’s work stands first, with what it needs, and begins with one press', async () => {
    const { person, asked } = await station({ diagnoses });
    const [first] = screen.getAllByRole('listitem').filter((li) => /min/.test(li.textContent!));
    expect(first!.textContent).toMatch(/airflow sensor/i);
    expect(document.body.textContent).toMatch(/What it needs/);
    await person.click(within(first!).getByRole('button', { name: 'Begin' }));
    expect(await begun(asked as never)).toBe('airflow-sensor-clean');
  });
  test('no judgement: any procedure is found by a word of it', async () => {
    const { person, asked } = await station();
    expect(document.body.textContent).toMatch(/No judgement yet: with readings the plan comes from it/);
    expect((screen.getByRole('button', { name: 'Begin it' }) as HTMLButtonElement).disabled).toBe(true);
    await person.type(screen.getByRole('combobox', { name: 'Another procedure' }), 'crankcase');
    await person.click((await screen.findAllByRole('option'))[0]!);
    await person.click(screen.getByRole('button', { name: 'Begin it' }));
    expect(await begun(asked as never)).toMatch(/crankcase/);
  });
  test('a tool that the shop does not own is said before the work is begun', async () => {
    const settings = { tools: ['multimeter'] };
    await station({ diagnoses }, { shop: { ...LEAD.shop, settings } });
    expect(document.body.textContent).toMatch(/The shop does not own: /);
  });
  test('what is done says how it ended, what was left off and what was left out', async () => {
    const id = 'crankcase-valve-and-hose';
    const { steps } = SHIPPED_PROCEDURES.find((p) => p.id === id)!;
    const way: Happened[] = [
      { kind: 'took-off', taken: { item: 'a bracket' } },
      ...steps.map((s): Happened => ({ kind: 'skipped', step: s.id, round: 0, reason: 'seen' })),
    ];
    const open = runOf(id, ...way);
    const [off] = goesBackOn(runState(open.procedure, open.events));
    const over = runOf(id, ...way, { kind: 'ended', counted: true, left: [{ item: off!.id, reason: 'waits' }] });
    const up = runOf('airflow-sensor-clean', { kind: 'given-up', reason: 'no cleaner here' });
    await station({ runs: [over, up] });
    expect(document.body.textContent).toMatch(/ended by A\. Lund.*a bracket.*\d+ steps left out/);
    expect(document.body.textContent).toMatch(/given up: no cleaner here/);
  });
  test('after the repair its own page stands open, and leads to Prove', async () => {
    const repairs = [{ id: 'r', at: '2026-05-04T09:00:00Z', undone: false, text: 'Hose', fault: null, part: null }];
    const { person } = await station({ repairs });
    expect(screen.getByRole('tab', { name: 'After the repair' }).getAttribute('aria-selected')).toBe('true');
    expect(screen.getByRole('link', { name: 'To Prove' })).toBeTruthy();
    await person.click(screen.getByRole('button', { name: 'More work' }));
    expect(screen.getByRole('tab', { name: 'Plan' }).getAttribute('aria-selected')).toBe('true');
  });
  test('a run under way is what the station shows, with what a step may need beside it', async () => {
    server({ ...SIGNED_IN, 'GET /procedures': { body: [] }, 'GET /photos/good': { body: [] } });
    const { person } = openSignedIn(
      <ServiceStation job={job({ runs: [runOf('airflow-sensor-clean')] })} live={live()} />,
    );
    await screen.findByText(/^step 1 of /);
    await person.click(screen.getByRole('button', { name: 'Which sensor' }));
    expect(await screen.findByRole('region', { name: 'Which sensor' })).toBeTruthy();
    await person.click(screen.getByRole('button', { name: 'Which sensor' }));
    expect(screen.queryByRole('region', { name: 'Which sensor' })).toBeNull();
  });
});

const READING = {
  ...{ at: 'idle', rpm: 740, mafGps: 3.14, ectC: 88, airCon: true, loop: 'closed', relativeThrottlePct: 4.3 },
  trims: { bank1: { stft: 1.5, ltft: 6.2, n: 12, sd: 0.4 }, bank2: { stft: 1, ltft: 2 } },
  lambda: { bank1: 1.002 },
  o2V: { bank1: 0.45 },
  o2: { bank1s1: { minV: 0.1, maxV: 0.8, leanToRichMs: 90 } },
  sampleHz: 4,
} as const;
const kept = (over: object = {}) => ({
  ...{ id: 'k1', rev: 2, at: '2026-05-04T08:20:00Z', by: 'x', phase: 'before', source: 'hand', undone: false },
  ...{ doubtful: null, captureId: null, reading: READING, ...over },
});

describe('a reading that is kept', () => {
  const Lines = ({ banks }: { banks: number }) => (
    <>
      {readingLines(READING as never, banks, useShown()).map(([l, t]) => (
        <p key={l + t}>{`${l}: ${t}`}</p>
      ))}
    </>
  );
  test('every figure of it is a line, in the reader’s units', () => {
    localStorage.setItem('jb-units', 'metric');
    open(<Lines banks={2} />);
    const lines = [...document.querySelectorAll('p')].map((p) => p.textContent);
    expect(lines).toContain('Trim, bank 1: +7.7 % (short +1.5, long +6.2), 12 samples, spread 0.4');
    expect(lines).toContain('Trim, bank 2: +3.0 % (short +1.0, long +2.0)');
    expect(lines).toContain('Lambda, bank 1: 1.002');
    expect(lines).toContain('Upstream sensor, bank 1: 0.45 V');
    expect(lines).toContain('Air conditioning: on');
    expect(lines).toContain('Fuel control: closed loop');
    expect(lines).toContain('Relative throttle: 4.3 %');
    expect(lines).toContain('Rate: 4 values a second');
    expect(lines.find((l) => l!.startsWith('Sensor 1/1'))).toMatch(/90 ms.*0\.1 V.*0\.8 V/);
    cleanup();
    open(<Lines banks={1} />);
    expect(document.body.textContent).toMatch(/Trim: \+7\.7 %/);
  });
  test('its doubt is said; taken back it is taken back with its revision', async () => {
    const asked = server({ ...SIGNED_IN, 'PATCH /jobs/j1/readings/k1': { body: { id: 'k1', rev: 3 } } });
    const { person } = openSignedIn(<KeptReading job={job()} kept={kept({ doubtful: 'not quite warm' }) as never} />);
    await screen.findByText('Doubtful: not quite warm.');
    await person.click(screen.getByRole('button', { name: 'Remove it' }));
    await waitFor(() => expect(asked.find((a) => a.method === 'PATCH')?.body).toEqual({ rev: 2, undone: true }));
  });
  test('only what was typed can be put right; what is refused is said', async () => {
    server({ ...SIGNED_IN, 'PATCH /jobs/j1/readings/k1': refused(409, 'the job is closed') });
    const { person } = openSignedIn(<KeptReading job={job()} kept={kept({ source: 'capture' }) as never} />);
    expect(await screen.findByText('Idle, captured')).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'Put it right' })).toBeNull();
    await person.click(screen.getByRole('button', { name: 'Remove it' }));
    await screen.findByText('the job is closed');
    cleanup();
    const hand = openSignedIn(<KeptReading job={job()} kept={kept() as never} />);
    await hand.person.click(await screen.findByRole('button', { name: 'Put it right' }));
    expect(screen.getByRole('dialog')).toBeTruthy();
  });
});

describe('taking the readings', () => {
  const runner = (over: object = {}, liveNow: object = {}, more: object = {}) => {
    const asked = server({ ...SIGNED_IN, 'POST /jobs/j1/captures': { status: 201, body: { captureId: 'c1' } } });
    const page = openSignedIn(
      <CaptureRunner job={job(over)} live={live(liveNow)} phase="before" next={<a href="/n">On</a>} {...more} />,
    );
    return { ...page, asked };
  };
  const points = () => within(screen.getByRole('group', { name: 'Operating points' }));

  test('the first wanted point is taken over the shop’s adapter; another is chosen with one press', async () => {
    const { person, asked } = runner({ adapter: 'shop:1' });
    await screen.findByText('Take idle');
    await person.click(points().getByRole('button', { name: /Hold 2,500/ }));
    await person.click(screen.getByRole('button', { name: 'Start' }));
    await waitFor(() => expect(asked.some((a) => a.path === '/jobs/j1/captures')).toBe(true));
    expect(asked.find((a) => a.path === '/jobs/j1/captures')!.body).toMatchObject({ at: 'hold-2500', phase: 'before' });
  });
  test('more points are offered when they are asked for; while one runs none can be chosen', async () => {
    const { person } = runner({ adapter: 'shop:1' });
    await screen.findByText('Take idle');
    const before = points().getAllByRole('button').length;
    await person.click(points().getByRole('button', { name: 'More points' }));
    expect(points().getAllByRole('button').length).toBeGreaterThan(before);
    cleanup();
    const capture = {
      ...{ captureId: 'c1', at: 'idle', phase: 'before', state: 'capturing', conditions: [], goodS: 2, wantedS: 10 },
      ...{ reason: null, etaS: null, sentence: null, keepable: false, keptSeconds: 2 },
    };
    runner({ adapter: 'shop:1' }, { capture });
    await screen.findByText(/capturing, 8 s to go/);
    expect(
      points()
        .getAllByRole('button')
        .every((b) => (b as HTMLButtonElement).disabled),
    ).toBe(true);
    expect(points().getByRole('button', { name: /Idle/ }).textContent).toMatch(/capturing/);
  });
  test('h opens the entry by hand, wherever one stands', async () => {
    const { person } = runner();
    await screen.findByText('Take idle');
    await person.keyboard('h');
    expect(await screen.findByRole('dialog')).toBeTruthy();
  });
  test('all kept: on; one that is kept opens with its figures', async () => {
    const readings = [kept(), kept({ id: 'k2', reading: { ...READING, at: 'hold-2500', rpm: 2500 } })];
    const { person } = runner({ readings });
    await screen.findByText('Both points are kept');
    expect(screen.getByRole('link', { name: 'On' })).toBeTruthy();
    await person.click(points().getByRole('button', { name: /Hold 2,500/ }));
    expect(screen.getByRole('region', { name: /^Kept: Hold/ })).toBeTruthy();
  });
  test('a free recording is begun from what stands below, and not while one runs', async () => {
    let free: { start: (only?: string) => void; disabled: boolean } | null = null;
    const { asked } = runner(
      { adapter: 'shop:1' },
      {},
      {
        below: (f: NonNullable<typeof free>) => {
          free = f;
          return <p>below</p>;
        },
      },
    );
    await screen.findByText('below');
    expect(free!.disabled).toBe(false);
    free!.start('rpm');
    await waitFor(() => expect(asked.some((a) => a.path === '/jobs/j1/captures')).toBe(true));
    expect(asked.find((a) => a.path === '/jobs/j1/captures')!.body).toMatchObject({ at: 'free', only: 'rpm' });
  });
});
