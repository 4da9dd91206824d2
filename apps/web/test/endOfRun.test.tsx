import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import type { JobView, RunView } from '@just-balance/contract';
import { DIRT_SOURCES, type Happened, SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import type { JobLive } from '../src/data/live.tsx';
import { outbox } from '../src/data/queue.ts';
import { RunSession } from '../src/sessions/RunSession.ts';
import { AfterRepair } from '../src/stations/service/AfterRepair.tsx';
import { EndOfRun } from '../src/stations/service/EndOfRun.tsx';
import type { RunHandle } from '../src/stations/service/useRun.ts';
import { troubleOf } from '../src/ui/useAction.ts';
import { drawsNothing, EMPTY_JOB, LEAD, open, openSignedIn, SIGNED_IN, server } from './page.tsx';

drawsNothing();
beforeEach(async () => {
  localStorage.clear();
  sessionStorage.clear();
  await outbox.useAccount('a1');
});
afterEach(() => {
  cleanup();
  jest.useRealTimers();
});

const live = (more: Partial<JobLive> = {}): JobLive =>
  ({ values: {}, traces: new Map(), link: null, capture: null, ...more }) as unknown as JobLive;
const job = (over: object = {}): JobView =>
  ({
    ...EMPTY_JOB,
    ...{ rev: 3, status: 'open', openedAt: '2026-05-04T08:00:00Z', openedBy: 'A. Lund', adapter: 'sim:1' },
    vehicle: { id: 'v1', label: 'Marl 2.0', fuel: 'petrol', metering: 'maf', banks: 1 },
    complaint: { story: '', symptoms: [], recentWork: [] },
    ...over,
  }) as unknown as JobView;

function handleOf(procedure: string, ...what: Happened[]): RunHandle & { said: Happened[] } {
  const run: RunView = {
    ...{ id: 'r1', at: '2026-05-04T08:00:00Z', by: 'x' },
    procedure: SHIPPED_PROCEDURES.find((p) => p.id === procedure)!,
    events: what.map((w, i) => ({ id: `e${i}`, atMs: 1000 * i, by: 'x', what: w })),
  };
  const said: Happened[] = [];
  const session = new RunSession(run, {
    jobId: 'j1',
    queue: async (list) => {
      for (const w of list) said.push(...JSON.parse(w.body as string).events.map((e: { what: Happened }) => e.what));
    },
    ...{ newId: () => 'n', nowMs: () => 5_000, troubleOf },
  });
  return { ...session.now(), session, say: session.say, said };
}
const through = (procedure: string): Happened[] =>
  SHIPPED_PROCEDURES.find((p) => p.id === procedure)!.steps.map(
    (s) =>
      ({
        ...{ kind: 'skipped', step: s.id, round: 0, reason: 'seen' },
      }) as Happened,
  );
const OK = { status: 201, body: { id: 'x', rev: 1 } };
const SERVER = { ...SIGNED_IN, 'POST /jobs/j1/runs/r1/events': OK, 'POST /jobs/j1/repairs': OK } as const;
const finish = () => screen.getByRole('button', { name: 'Finish' }) as HTMLButtonElement;
const count = () => screen.getByLabelText(/Tools, rags, caps/);

describe('the end of a run', () => {
  test('a cleaning does not end before the tools are counted and the dirt has a source', async () => {
    const asked = server(SERVER);
    const handle = handleOf('airflow-sensor-clean', ...through('airflow-sensor-clean'));
    const { person } = openSignedIn(<EndOfRun job={job()} live={live()} handle={handle} />);
    await screen.findByText('All steps are through');
    expect(finish().disabled).toBe(true);
    await person.click(count());
    expect(finish().disabled).toBe(true);
    const mendable = DIRT_SOURCES.find((s) => s.left < 1 && s.id !== 'not-found')!;
    await person.click(screen.getByRole('radio', { name: new RegExp(`^${mendable.label}`) }));
    expect(document.body.textContent).toMatch(/Left as it is, \d+ % of the chance that the cleaning holds is left/);
    await person.click(screen.getByLabelText(/^Repaired: /));
    expect(document.body.textContent).not.toMatch(/Left as it is/);
    await person.click(finish());
    await waitFor(() => expect(asked.filter((a) => a.method === 'POST')).toHaveLength(2));
    const [ended, repair] = asked.filter((a) => a.method === 'POST');
    expect(ended!.body.events.map((e: { what: Happened }) => e.what)).toEqual([
      { kind: 'source', source: mendable.id, repaired: true },
      { kind: 'ended', counted: true, left: [] },
    ]);
    expect(repair!.body).toMatchObject({ adaptation: 'relearn', part: 'airflow sensor' });
    expect(repair!.body.text).toMatch(/, repaired$/);
    expect('fault' in repair!.body).toBe(false);
  });

  test('where the dirt came from is asked once: answered at its step it stands there, and can be changed', async () => {
    const asked = server(SERVER);
    const id = 'airflow-sensor-clean';
    const answered: Happened = { kind: 'done', step: 'source', round: 0, answer: 'filter loaded' };
    const steps = through(id).map((w) => (w.kind === 'skipped' && w.step === 'source' ? answered : w));
    const { person } = openSignedIn(<EndOfRun job={job()} live={live()} handle={handleOf(id, ...steps)} />);
    await screen.findByText('Filter loaded');
    expect(screen.queryByRole('radio')).toBeNull();
    await person.click(count());
    await person.click(screen.getByLabelText(/^Repaired: New filter/));
    await person.click(finish());
    await waitFor(() => expect(asked.some((a) => /events$/.test(a.path))).toBe(true));
    expect(asked.find((a) => /events$/.test(a.path))!.body.events[0].what).toEqual({
      ...{ kind: 'source', source: 'filter-loaded', repaired: true },
    });
    await person.click(screen.getByRole('button', { name: 'Something else' }));
    expect((screen.getByRole('radio', { name: /^Filter loaded/ }) as HTMLInputElement).checked).toBe(true);
  });

  test('what is still off goes back on, or says why it does not', async () => {
    const asked = server(SERVER);
    const id = 'crankcase-valve-and-hose';
    const handle = handleOf(id, ...through(id), { kind: 'took-off', taken: { item: 'a bracket' } });
    const { person } = openSignedIn(<EndOfRun job={job()} live={live()} handle={handle} />);
    await screen.findByText('Something is still off the car');
    await person.click(screen.getByRole('button', { name: 'It is back on' }));
    expect(handle.said).toMatchObject([{ kind: 'refitted' }]);
    await person.click(count());
    expect(finish().disabled).toBe(true);
    await person.type(screen.getByLabelText('or why it stays off'), 'waits for a clip');
    expect(finish().disabled).toBe(false);
    await person.click(finish());
    await waitFor(() => expect(asked.some((a) => /events$/.test(a.path))).toBe(true));
    const sent = asked.find((a) => /events$/.test(a.path))!.body.events.map((e: { what: Happened }) => e.what);
    expect(sent.at(-1)).toMatchObject({ kind: 'ended', left: [{ reason: 'waits for a clip' }] });
  });

  test('a fastener that is missing, and what fell in, are asked for; the work can be parked for it', async () => {
    server(SERVER);
    const id = 'airflow-sensor-clean';
    const off = SHIPPED_PROCEDURES.find((p) => p.id === id)!.steps.find((s) => s.kind === 'take-off' && s.count)!;
    const taken: Happened = { kind: 'done', step: off.id, round: 0 };
    const refitted: Happened = { kind: 'refitted', item: off.id, back: off.count! - 1 };
    const fell: Happened = { kind: 'mishap', step: off.id, what: 'a screw fell', where: 'under the duct', out: false };
    const skipped = through(id).map((w) => (w.kind === 'skipped' && w.step === off.id ? taken : w));
    const handle = handleOf(id, ...skipped, refitted, fell);
    const { person } = openSignedIn(<EndOfRun job={job()} live={live()} handle={handle} />);
    await screen.findByText('Not everything went back on');
    expect(document.body.textContent).toMatch(new RegExp(`Missing: 1 of ${off.count} fasteners`));
    expect(document.body.textContent).toMatch(/Still in there: a screw fell, under the duct/);
    await person.click(screen.getByRole('button', { name: 'All of them are on now' }));
    await person.click(screen.getByRole('button', { name: 'It is out' }));
    expect(handle.said).toEqual([
      { kind: 'refitted', item: off.id },
      { kind: 'mishap-out', mishap: expect.stringMatching(/^e\d+$/) },
    ]);
    await person.click(screen.getByRole('button', { name: 'Park it' }));
    await person.type(screen.getByLabelText('What it waits for'), 'a new screw');
    await person.click(within(screen.getByRole('form', { name: 'Park it' })).getByRole('button', { name: 'Park it' }));
    await waitFor(() => expect(handle.said.at(-1)).toMatchObject({ kind: 'parked', reason: 'a new screw' }));
  });

  test('the cause stands there only where the judgement calls for this very work', async () => {
    server(SERVER);
    const diagnoses = (probability: number) => [{ id: 'd', output: { causes: [{ fault: 'maf-dirty', probability }] } }];
    const chosen = async (p: number) => {
      const handle = handleOf('airflow-sensor-clean', ...through('airflow-sensor-clean'));
      openSignedIn(<EndOfRun job={job({ diagnoses: diagnoses(p) })} live={live()} handle={handle} />);
      const value = ((await screen.findByLabelText('What was it done for?')) as HTMLSelectElement).value;
      cleanup();
      return value;
    };
    expect([await chosen(0.8), await chosen(0.3)]).toEqual(['maf-dirty', '']);
  });

  test('a learner’s run ends without a repair: that is for who may judge', async () => {
    const learner = { account: { ...LEAD, role: 'learner', rights: ['look', 'work', 'drive'] }, demo: null };
    const asked = server({ ...SERVER, 'GET /session': { body: { ...learner, setupNeeded: false } } });
    const id = 'crankcase-valve-and-hose';
    const handle = handleOf(id, ...through(id));
    const { person } = openSignedIn(<EndOfRun job={job()} live={live()} handle={handle} />);
    await person.click(await screen.findByLabelText(/Tools, rags, caps/));
    expect(screen.queryByLabelText('What was it done for?')).toBeNull();
    await person.click(finish());
    await waitFor(() => expect(asked.some((a) => /events$/.test(a.path))).toBe(true));
    expect(asked.some((a) => /repairs$/.test(a.path))).toBe(false);
  });

  test('the last step can be opened again', async () => {
    server(SERVER);
    const id = 'crankcase-valve-and-hose';
    const handle = handleOf(id, ...through(id));
    const { person } = openSignedIn(<EndOfRun job={job()} live={live()} handle={handle} />);
    await person.click(await screen.findByRole('button', { name: 'Back' }));
    expect(handle.said).toEqual([{ kind: 'reopened', step: handle.state.way.at(-1) }]);
  });
});

const record = {
  ...{ id: 'rec', at: '2026-05-04T08:10:00Z', by: 'x', phase: 'before', source: 'link', undone: false },
  ...{ codes: [{ code: 'P0171', state: 'stored' }], freezeFrame: [], lampOn: true },
  monitors: {
    monitors: [
      { id: 'evap', state: 'complete' },
      { id: 'catalyst', state: 'incomplete' },
    ],
  },
};
const reading = {
  ...{ id: 'rd', rev: 1, at: '2026-05-04T08:20:00Z', by: 'x', phase: 'before', source: 'hand', undone: false },
  reading: { at: 'idle', trims: { bank1: { stft: 2, ltft: 12 } } },
};

describe('reset: what is lost is said before it is lost', () => {
  const reset = () => within(screen.getByRole('region', { name: 'Reset' }));
  const button = () => reset().getByRole('button', { name: 'Clear now' }) as HTMLButtonElement;

  test('nothing is cleared before it is on record and understood', async () => {
    const asked = server({
      ...SIGNED_IN,
      'POST /jobs/j1/records/clear': { status: 201, body: { id: 'e', kind: 'reset' } },
    });
    const bare = open(<AfterRepair job={job()} live={live()} />);
    expect(reset().getAllByText('not on record')).toHaveLength(3);
    await bare.person.click(reset().getByRole('checkbox'));
    expect(button().disabled).toBe(true);
    cleanup();
    const { person } = openSignedIn(
      <AfterRepair job={job({ records: [record], readings: [reading] })} live={live()} />,
    );
    await screen.findByRole('region', { name: 'Reset' });
    expect(reset().queryByText('not on record')).toBeNull();
    expect(document.body.textContent).toMatch(/every monitor that is complete \(.*EVAP.*\)/);
    expect(document.body.textContent).toMatch(/1,000 km/);
    expect(button().disabled).toBe(true);
    await person.click(reset().getByRole('checkbox'));
    await person.click(button());
    await waitFor(() => expect(asked.some((a) => /clear$/.test(a.path))).toBe(true));
    expect(asked.find((a) => /clear$/.test(a.path))!.body).toMatchObject({ understood: true });
  });

  test('without an adapter of the shop it is the technician’s own tool', () => {
    for (const adapter of [null, 'own']) {
      open(<AfterRepair job={job({ adapter, records: [record], readings: [reading] })} live={live()} />);
      expect(reset().getByText(/clear with your own tool/)).toBeTruthy();
      expect(button().disabled).toBe(true);
      cleanup();
    }
  });

  test.each([
    [{ refused: 'conditions not correct' }, /The vehicle refused: conditions not correct\./],
    [{ codesBefore: 1, codesAfter: 0 }, /Cleared: 1 code before, 0 after\./],
    [{ codesBefore: 2, codesAfter: null }, /Cleared: 2 codes before, not read after\./],
    [{ openedMonitors: ['evap', 'catalyst'] }, /Incomplete again: 2 monitors\./],
    [
      { before: [{ bank: 1, longPct: 12.5 }], after: [{ bank: 1, longPct: 0 }], adaptationKept: false },
      /Bank 1 long term \+12\.5 %, then 0\.0 %.*The adaptations went with the codes\./,
    ],
    [{ adaptationKept: true }, /the adaptations are not: the vehicle goes on correcting a fault that is gone/],
  ])('what came of it: %j', (data, words) => {
    const whole = {
      ...{ refused: null, codesBefore: 1, codesAfter: 0, openedMonitors: [], before: [], after: [] },
      ...{ adaptationKept: null, ...data },
    };
    open(
      <AfterRepair job={job({ entries: [{ id: 'e', kind: 'reset', undone: false, data: whole }] })} live={live()} />,
    );
    expect(reset().getByRole('status').textContent).toMatch(words);
  });
});

describe('relearn: the memory is left and watched', () => {
  const trace = (f: (t: number) => number) => Array.from({ length: 300 }, (_, t) => ({ t, v: f(t) }));
  const relearn = () => screen.getByRole('region', { name: 'Relearn' }).textContent!;

  test('nothing is said of trims that nobody has heard', () => {
    open(<AfterRepair job={job()} live={live()} />);
    expect(relearn()).toMatch(/Connect the adapter and let it idle warm/);
    cleanup();
    open(<AfterRepair job={job()} live={live({ link: { state: 'ready' } as never })} />);
    expect(relearn()).toMatch(/No trims come in yet: start the engine/);
    cleanup();
    const vehicle = { ...job().vehicle, fuel: 'diesel' };
    open(<AfterRepair job={job({ vehicle })} live={live()} />);
    expect(relearn()).toMatch(/A diesel has no fuel trims to settle/);
    expect(relearn()).not.toMatch(/verdict before it has settled/);
  });

  test('short term near nothing and a long term that stays: settled, with its figures', async () => {
    const traces = new Map([
      ['stft1', trace((t) => Math.sin(t))],
      ['ltft1', trace(() => 2.3)],
      ['rpm', trace(() => 740)],
    ]);
    open(<AfterRepair job={job()} live={live({ traces } as never)} />);
    expect(relearn()).toMatch(/Bank 1settled/);
    expect(relearn()).toMatch(/It has settled: take the readings again/);
    expect(relearn()).not.toMatch(/No verdict before it has settled/);
    expect(relearn()).toMatch(/now \+[123]\.\d %/);
    expect(await screen.findByRole('img', { name: /Bank 1: short term, long term and their total/ })).toBeTruthy();
  });

  test('a long term that still follows: where it goes, and about when', () => {
    const long = (t: number) => 14 * Math.exp(-t / 150);
    const traces = new Map([
      ['stft1', trace((t) => -0.9 * long(t) + Math.sin(t))],
      ['ltft1', trace((t) => Math.round(long(t) / 0.78) * 0.78)],
      ['rpm', trace(() => 740)],
    ]);
    open(<AfterRepair job={job()} live={live({ traces } as never)} />);
    expect(relearn()).toMatch(/Bank 1(settling|not settling)/);
  });
});
