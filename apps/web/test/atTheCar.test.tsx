import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import type { JobView, RunView } from '@just-balance/contract';
import { capturePoint } from '@just-balance/core/capture';
import { type Happened, runState, SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { BEFORE_INSPECTION } from '@just-balance/core/readiness';
import { figure } from '@just-balance/core/units';
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { Strips } from '../src/capture/Strips.tsx';
import { newId } from '../src/data/api.ts';
import type { JobLive } from '../src/data/live.tsx';
import { outbox } from '../src/data/queue.ts';
import { RecordCard, VehicleCard } from '../src/stations/complaint/RecordCard.tsx';
import { CameBackButton, ComeBack } from '../src/stations/handOver/ComeBack.tsx';
import { LeaveOut } from '../src/stations/handOver/LeaveOut.tsx';
import { Attempts } from '../src/stations/readiness/Attempts.tsx';
import { InspectionSheet } from '../src/stations/readiness/InspectionSheet.tsx';
import { LastWork } from '../src/stations/service/LastWork.tsx';
import { Refit, TakeOff } from '../src/stations/service/OffAndOn.tsx';
import { PartsAndFigures } from '../src/stations/service/PartsAndFigures.tsx';
import { Reading } from '../src/stations/service/Reading.tsx';
import type { StepProps } from '../src/stations/service/stepProps.ts';
import { TwoAnswers } from '../src/stations/service/TwoAnswers.tsx';
import { useRun } from '../src/stations/service/useRun.ts';
import { drawsNothing, EMPTY_JOB, open, openSignedIn, refused, SIGNED_IN, said, server } from './page.tsx';

drawsNothing();
beforeEach(async () => {
  localStorage.clear();
  // What one test leaves waiting is not the next one's.
  await outbox.useAccount(newId());
});
afterEach(cleanup);

const live = { values: {}, traces: new Map(), link: null, capture: null } as unknown as JobLive;
const job = (more: object = {}): JobView =>
  ({
    ...EMPTY_JOB,
    rev: 3,
    status: 'open',
    openedAt: '2026-05-04T08:00:00Z',
    openedBy: 'A. Lund',
    vehicle: {
      ...{
        id: 'v1',
        rev: 1,
        label: 'Marl 2.0',
        fuel: 'petrol',
        metering: 'maf',
        displacementL: 2,
        cylinders: 4,
        banks: 1,
      },
    },
    complaint: { story: '', symptoms: ['lamp-only'], recentWork: [] },
    adapter: 'sim:1',
    ...more,
  }) as unknown as JobView;
const entry = (kind: string, data: object, id = 'e1') => ({
  ...{ id, rev: 2, at: '2026-05-04T09:00:00Z', by: 'A. Lund', undone: false },
  ...{ kind, data },
});
const input = (label: RegExp | string) => screen.getByLabelText(label) as HTMLInputElement;
const kept = async () => (await outbox.waiting()).map((w) => JSON.parse(w.body as string) as Record<string, never>);

describe('when the car is looked at again', () => {
  const due = { dueAt: '2031-06-01T08:00:00Z', what: 'the hose clamp' };

  test('a day is shown with what it is for, taken back with its revision, and given out as a calendar file', async () => {
    let undone = false;
    const asked = server({
      'PATCH /jobs/j1/entries/e1': () => {
        undone = true;
        return { body: {} };
      },
    });
    const files: Blob[] = [];
    URL.createObjectURL = ((b: Blob) => {
      files.push(b);
      return 'blob:1';
    }) as never;
    URL.revokeObjectURL = () => {};
    const click = jest.spyOn(HTMLAnchorElement.prototype, 'click').mockImplementation(() => {});
    const { person } = open(<ComeBack job={job({ entries: [entry('recheck', due)] })} mayWork />);
    expect(screen.getByRole('listitem').textContent).toMatch(/^1 Jun 2031 the hose clamp/);
    await person.click(screen.getByRole('button', { name: 'Calendar file' }));
    click.mockRestore();
    const text = String(await files[0]!.text());
    // RFC 5545 3.6.1: an event has a begin and an end; 20 minutes here.
    expect(text).toMatch(/DTSTART:20310601T080000Z/);
    expect(text).toMatch(/DTEND:20310601T082000Z|DURATION:PT20M/);
    expect(text).toMatch(/SUMMARY:Look again: Marl 2\.0/);
    await person.click(screen.getByRole('button', { name: 'Take back: the hose clamp' }));
    await waitFor(() => expect(undone).toBe(true));
    expect(asked[0]!.body).toEqual({ rev: 2, undone: true });
  });

  test('a refusal is said; somebody who may only look sets nothing; nothing is set: no calendar', async () => {
    server({ 'PATCH /jobs/j1/entries/e1': refused(409, 'somebody else took it back') });
    const { person } = open(<ComeBack job={job({ entries: [entry('recheck', due)] })} mayWork />);
    await person.click(screen.getByRole('button', { name: 'Take back: the hose clamp' }));
    expect((await screen.findByRole('alert')).textContent).toBe('somebody else took it back');
    cleanup();
    open(<ComeBack job={job({ entries: [entry('recheck', due)] })} mayWork={false} />);
    expect(screen.queryByRole('button', { name: /^Take back/ })).toBeNull();
    expect(screen.queryByRole('button', { name: /^in \d+ days/ })).toBeNull();
    cleanup();
    open(<ComeBack job={job()} mayWork />);
    expect(screen.getByText('No day is set.')).toBeTruthy();
    expect((screen.getByRole('button', { name: 'Calendar file' }) as HTMLButtonElement).disabled).toBe(true);
  });

  test('the same trouble again: a new job of the same car that knows of this one', async () => {
    server({});
    const { person } = open(<CameBackButton job={job({ adapter: 'sim:2' })} />);
    await person.click(screen.getByRole('button', { name: 'It came back' }));
    await waitFor(async () => expect(await kept()).toHaveLength(2));
    const [opened, said] = await kept();
    expect(opened).toMatchObject({ vehicleId: 'v1', adapter: 'sim:2', complaint: { symptoms: ['lamp-only'] } });
    expect(opened!.vehicle).not.toHaveProperty('rev');
    expect(said).toMatchObject({ kind: 'cameBack', data: { job: 'j1' } });
  });
});

describe('whether the shop learns from a job', () => {
  test('left out only with a reason, taken in again without one', async () => {
    let out: object[] = [];
    const asked = server({
      ...SIGNED_IN,
      'GET /learned': () => ({ body: { leftOut: out } }),
      'PUT /learned/jobs/j1': (a) => {
        out = a.body.leftOut ? [{ job: 'j1' }] : [];
        return { body: { leftOut: out } };
      },
    });
    const { person } = openSignedIn(<LeaveOut job={job({ status: 'closed' })} />);
    const leave = (await screen.findByRole('button', { name: 'Leave it out' })) as HTMLButtonElement;
    expect(leave.disabled).toBe(true);
    await person.type(input('Why leave it out'), 'tank was empty');
    await person.click(leave);
    await person.click(await screen.findByRole('button', { name: 'Take it in again' }));
    await screen.findByRole('button', { name: 'Leave it out' });
    const sent = asked.filter((a) => a.method === 'PUT').map((a) => a.body);
    expect(sent[0]).toEqual({ leftOut: true, reason: 'tank was empty' });
    expect(sent[1]).toMatchObject({ leftOut: false });
  });

  test('a job that is neither proven nor closed asks for nothing', async () => {
    const asked = server(SIGNED_IN);
    openSignedIn(<LeaveOut job={job()} />);
    await waitFor(() => expect(asked).toHaveLength(1));
    expect(asked[0]!.path).toBe('/session');
  });
});

describe('what is on record', () => {
  const record = (more: object = {}) =>
    ({
      ...{ id: 'r1', rev: 1, at: '2026-05-04T09:00:00Z', phase: 'before', source: 'link', codes: [], lampOn: false },
      ...{ monitors: null, freezeFrame: [], tests: [], vin: null, sensors: null },
      ...{ warmupsSinceClear: null, distanceSinceClearKm: null, counters: { minutesSinceClear: null } },
      ...more,
    }) as unknown as JobView['records'][number];

  test('codes with what they say, the frame in the reader’s units, monitors by name', () => {
    localStorage.setItem('jb-units', 'us');
    open(
      <RecordCard
        record={record({
          lampOn: true,
          codes: [{ code: 'P0171', state: 'stored', text: 'System too lean, bank 1' }],
          freezeFrame: [
            { name: 'freezeDtc', value: 'P0171', unit: '' },
            { name: 'ect', value: 80, unit: '°C' },
          ],
          monitors: {
            monitors: [
              { id: 'catalyst', state: 'incomplete' },
              { id: 'misfire', state: 'complete' },
            ],
          },
          distanceSinceClearKm: 100,
        })}
      />,
    );
    expect(screen.getByRole('row', { name: /^P0171/ }).textContent).toBe('P0171storedSystem too lean, bank 1');
    expect(screen.getByText('Stored with').parentElement!.textContent).toMatch(/P0171/);
    // NIST SP 811: 80 °C is 176 °F; 100 km are 62.1 mi.
    expect(document.body.textContent).toMatch(/176 °F/);
    expect(document.body.textContent).toMatch(/Since clear62 mi/);
    expect(screen.getByText('open: Catalyst')).toBeTruthy();
    expect(screen.queryByRole('button', { name: 'Put it right' })).toBeNull();
  });

  test('by hand: it can be put right; no codes, no counters, monitors not read', async () => {
    let asked = 0;
    const { person } = open(<RecordCard record={record({ source: 'hand' })} correct={() => asked++} />);
    expect(screen.getByText('On record, entered by hand')).toBeTruthy();
    expect(screen.getByText('No codes: stored, pending or permanent.')).toBeTruthy();
    expect(screen.getByText('not read')).toBeTruthy();
    expect(screen.queryByText('Since clear')).toBeNull();
    await person.click(screen.getByRole('button', { name: 'Put it right' }));
    expect(asked).toBe(1);
  });

  test('all complete is said, and lately cleared with why', () => {
    open(
      <RecordCard
        record={record({
          monitors: { monitors: [{ id: 'catalyst', state: 'complete' }] },
          warmupsSinceClear: 1,
          distanceSinceClearKm: 4,
        })}
      />,
    );
    expect(screen.getByText('all complete')).toBeTruthy();
    expect(document.body.textContent).toMatch(/Cleared not long ago: .*1 warm-up/);
  });

  test('the card: its own figures with their source; its changes line by line', async () => {
    server({
      'GET /vehicles/v1/changes?rev=2': {
        body: [
          {
            ...{ id: 'c1', at: '2026-05-04T10:00:00Z', by: 'A. Lund' },
            ...{ before: { label: 'Marl', note: null }, after: { label: 'Marl 2.0', note: 'blue' } },
          },
        ],
      },
    });
    const value = entry('value', { quantity: 'Fuel pressure', value: 350, unit: 'kPa', source: 'maker’s sheet' });
    const vehicle = { ...job().vehicle, rev: 2, note: 'blue' };
    const { person } = open(<VehicleCard job={job({ vehicle, entries: [value] })} record={undefined} />);
    expect(screen.getByText('Fuel pressure').nextElementSibling!.textContent).toBe('350 kPa, maker’s sheet');
    await person.click(screen.getByText('Changes to the card'));
    const lines = (await screen.findByText('Name: was Marl, now Marl 2.0')).closest('ol')!.textContent;
    expect(lines).toMatch(/A\. Lund/);
    expect(lines).toMatch(/Note: was not entered, now blue/);
  });
});

describe('before an inspection', () => {
  const monitors = {
    ...{ lampOn: false, codeCount: 0, ignition: 'spark' },
    monitors: [
      { id: 'catalyst', state: 'complete' },
      { id: 'evap', state: 'incomplete' },
    ],
  };
  const records = [
    {
      ...{ id: 'r1', at: '2026-05-04T09:00:00Z', lampOn: false, codes: [], freezeFrame: [], tests: [], cycle: null },
      ...{ counters: {}, warmupsSinceClear: 40, distanceSinceClearKm: 900, monitors },
    },
  ];

  test('what was read stands on the sheet; a tick is kept beside those before it, and taken away again', async () => {
    server(SIGNED_IN);
    const [first, second] = BEFORE_INSPECTION;
    const seen = entry('inspection', { seen: [first!.id] });
    const { person } = openSignedIn(<InspectionSheet job={job({ records, entries: [seen] })} live={live} />);
    const sheet = within(await screen.findByRole('region', { name: 'Sheet' }));
    expect(sheet.getByText(/^Monitors read 4 May 2026, .*: 1 open; lamp off; no codes\.$/)).toBeTruthy();
    const boxes = sheet.getAllByRole('checkbox') as HTMLInputElement[];
    expect(boxes.map((b) => b.checked)).toEqual(BEFORE_INSPECTION.map((b) => b === first));
    await person.click(boxes[1]!);
    await waitFor(async () => expect(await kept()).toHaveLength(1));
    expect((await kept())[0]).toMatchObject({ kind: 'inspection', data: { seen: [first!.id, second!.id] } });
    await person.click(boxes[0]!);
    await waitFor(async () => expect(await kept()).toHaveLength(2));
    expect((await kept())[1]).toMatchObject({ data: { seen: [] } });
  });

  test('prints; without monitors it says so', async () => {
    server(SIGNED_IN);
    let printed = 0;
    window.print = () => {
      printed++;
    };
    const { person } = openSignedIn(<InspectionSheet job={job()} live={live} />);
    expect(await screen.findByText('Monitors not read yet.')).toBeTruthy();
    await person.click(screen.getByRole('button', { name: 'Print the sheet' }));
    expect(printed).toBe(1);
  });
});

describe('drives so far', () => {
  const drive = (id: string, more: object) => ({
    ...{ id, at: '2026-05-03T09:00:00Z', jobId: 'j0' },
    attempt: {
      ...{ procedure: 'own', result: 'incomplete', done: [], broke: [], distanceKm: 10, minutes: 20, road: '' },
      ...{ stillOpen: null },
      ...more,
    },
  });

  test('their distance is added up, this job’s before the list was read again; what breaks most is named', async () => {
    const broke = [{ what: 'steady-hold', atS: 40, reason: 'Speed left its band.' }];
    server({
      'GET /vehicles/v1/drives': {
        body: [drive('d1', { broke, road: 'ring road' }), drive('d2', { broke, road: 'ring road', done: ['idle'] })],
      },
      'GET /procedures?kind=drive': { body: [] },
    });
    open(
      <Attempts
        job={job({
          entries: [
            entry('drive', drive('d3', { distanceKm: 5.5 }).attempt, 'd3'),
            entry('drive', drive('d1', {}).attempt, 'd1'),
          ],
        })}
      />,
    );
    const box = await screen.findByRole('region', { name: 'Drives so far' });
    await waitFor(() => expect(box.textContent).toMatch(/^3 drives so far, 26 km/));
    expect(box.textContent).toMatch(/Breaks most: steady hold, 2 times on ring road\. Speed left its band\./);
    expect(box.textContent).toMatch(/Best: 3 May, own, one step done\./);
  });

  test('none: nothing', async () => {
    const asked = server({ 'GET /vehicles/v1/drives': { body: [] }, 'GET /procedures?kind=drive': { body: [] } });
    open(<Attempts job={job()} />);
    await waitFor(() => expect(asked.length).toBeGreaterThan(0));
    expect(screen.queryByRole('region')).toBeNull();
  });
});

describe('strips of what comes in', () => {
  const traces = new Map([
    [
      'rpm',
      [
        { t: 0, v: 700 },
        { t: 1, v: 2480 },
      ],
    ],
    [
      'stft1',
      [
        { t: 0, v: 3 },
        { t: 1, v: 4.5 },
      ],
    ],
    ['ltft1', [{ t: 0.5, v: 8 }]],
  ]);
  const idle = capturePoint('idle')!;

  test('the newest figure, its rate, its band where there is one; totals are short and long', async () => {
    server(SIGNED_IN);
    const now = { ...live, traces, link: { rates: { rpm: 12.4, stft1: 3.26 } } } as unknown as JobLive;
    openSignedIn(<Strips live={now} job={job()} point={idle} status={null} />);
    const speed = (await screen.findByText('Engine speed')).closest('.grid')!;
    await waitFor(() => expect(speed.textContent).toMatch(/2,480 rpm/));
    expect(speed.textContent).toMatch(/12\/s/);
    expect(speed.textContent).toMatch(/expected [\d,]+–[\d,]+/);
    const total = screen.getByText('Total trim').closest('.grid')!;
    expect(total.textContent).toMatch(/\+12\.5 %/);
    expect(total.textContent).toMatch(/3\.3\/s/);
    expect(total.textContent).toMatch(/expected −[\d.]+ to [\d.]+/);
  });

  test('recorded freely no speed is expected; before anything came in it says how it begins', async () => {
    server(SIGNED_IN);
    const free = { at: 'free', state: 'capturing', goodS: 3 } as never;
    openSignedIn(<Strips live={{ ...live, traces } as never} job={job()} point={idle} status={free} />);
    const speed = (await screen.findByText('Engine speed')).closest('.grid')!;
    expect(speed.textContent).not.toMatch(/expected/);
    cleanup();
    openSignedIn(<Strips live={live} job={job()} point={idle} status={null} />);
    expect(await screen.findByText(/^No live values yet/)).toBeTruthy();
  });
});

describe('steps with a hand at the car', () => {
  const procedure = SHIPPED_PROCEDURES.find((p) => p.id === 'airflow-sensor-clean')!;
  const run = (...what: Happened[]): RunView => ({
    ...{ id: 'run1', at: '2026-05-04T08:00:00Z', by: 'x', procedure },
    events: what.map((w, i) => ({ id: `e${i}`, atMs: 1000 * i, by: 'x', what: w })),
  });
  const handle = (r: RunView) => ({ run: r, state: runState(r.procedure, r.events) }) as unknown as StepProps['handle'];
  const off = procedure.steps.find((s) => s.kind === 'take-off')!;

  test('what comes off goes with its fasteners as typed, where it is kept, and that one is hidden', async () => {
    server({});
    const done: object[] = [];
    const props = { job: job(), handle: handle(run()), step: off, live, done: (d: object) => done.push(d) };
    const { person } = open(<TakeOff {...(props as unknown as StepProps)} />);
    await person.clear(input('Screws, bolts, clips'));
    await person.type(input('Screws, bolts, clips'), '3');
    await person.clear(input(/^Long and short/));
    await person.type(input(/^Long and short/), 'long one at the back');
    await person.click(input('one is hidden'));
    await person.click(screen.getByRole('button', { name: 'It is off' }));
    expect(done).toEqual([{ taken: { count: 3, detail: 'long one at the back', hidden: true } }]);
    // What is no number of screws is not kept as one.
    await person.clear(input('Screws, bolts, clips'));
    await person.type(input('Screws, bolts, clips'), '1.5');
    await person.click(screen.getByRole('button', { name: 'It is off' }));
    expect(done[1]).toEqual({ taken: { detail: 'long one at the back', hidden: true } });
  });

  test('what goes back on stands as it came off; what never came off says so', () => {
    const taken = { item: off.item!, count: 2, detail: 'both short', hidden: true };
    const began = run({ kind: 'done', step: off.id, round: 0, taken } as unknown as Happened);
    const on = { ...off, kind: 'refit' as const };
    open(<Refit {...({ job: job(), handle: handle(began), step: on, live } as unknown as StepProps)} />);
    expect(screen.getByRole('listitem').textContent).toBe(`${off.item}2 fasteners · both short · one hidden`);
    cleanup();
    open(<Refit {...({ job: job(), handle: handle(run()), step: on, live } as unknown as StepProps)} />);
    expect(screen.getByText('Nothing of it was taken off in this run.')).toBeTruthy();
  });

  describe('a reading inside of a run', () => {
    const shown = (j: JobView, more: Partial<JobLive> = {}, r = run()) => {
      const gone: object[] = [];
      const page = openSignedIn(
        <Reading
          job={j}
          step={{ id: 'idle', kind: 'read', text: 'Idle', at: 'idle' }}
          live={{ ...live, ...more } as JobLive}
          handle={handle(r) as never}
          done={(d = {}) => gone.push(d)}
        />,
      );
      return { ...page, gone };
    };
    const reading = { id: 'x', rev: 1, phase: 'before', captureId: null, reading: { at: 'idle', mafGps: 3.1 } };

    const BAYS = { 'GET /bays': { body: [] } };
    const posted = (asked: ReturnType<typeof server>) => asked.findLast((a) => a.method === 'POST')?.body;

    test('before anything came off it is one of before; after it, one of after', async () => {
      let started: object | null = null;
      const asked = server({
        ...SIGNED_IN,
        ...BAYS,
        'POST /jobs/j1/captures': (a) => ({ body: { id: a.body.id, state: 'waiting' } }),
      });
      const setCapture = (c: object | null) => {
        started = c;
      };
      const { person } = shown(job(), { setCapture } as never);
      await person.click(await screen.findByRole('button', { name: 'Read idle' }));
      await waitFor(() => expect(started).not.toBeNull());
      expect(posted(asked)).toMatchObject({ at: 'idle', phase: 'before' });
      cleanup();
      const taken = run({ kind: 'done', step: off.id, round: 0, taken: { item: off.item! } } as unknown as Happened);
      const again = shown(job(), { setCapture } as never, taken);
      await again.person.click(await screen.findByRole('button', { name: 'Read idle' }));
      await waitFor(() => expect(posted(asked)).toMatchObject({ phase: 'after' }));
    });

    test('one taken since the run began is kept; one from before it may be taken, and its time is said', async () => {
      server({ ...SIGNED_IN, ...BAYS });
      const old = shown(job({ readings: [{ ...reading, at: '2026-05-04T07:59:00Z' }] }));
      expect((await screen.findByText(/^Idle was read at .* before this work/)).textContent).toMatch(/3\.10 g\/s/);
      expect(screen.getByRole('button', { name: 'Read it again' })).toBeTruthy();
      await old.person.click(screen.getByRole('button', { name: 'Take this one' }));
      expect(old.gone).toEqual([{ note: expect.stringMatching(/^the reading of /) }]);
      cleanup();
      const { person, gone } = shown(job({ readings: [{ ...reading, at: '2026-05-04T08:01:00Z' }] }));
      expect((await screen.findByText(/^Idle is kept/)).textContent).toMatch(/3\.10 g\/s/);
      await person.click(screen.getByRole('button', { name: 'Go on' }));
      expect(gone).toEqual([{}]);
      cleanup();
      // Of the other state of the car it is none of this step.
      shown(job({ readings: [{ ...reading, phase: 'after', at: '2026-05-04T08:01:00Z' }] }));
      await screen.findByRole('button', { name: 'Read idle' });
      expect(screen.queryByRole('button', { name: 'Go on' })).toBeNull();
    });

    test('waiting says for what and the figure, how much is steady, and can be stopped', async () => {
      const asked = server({
        ...SIGNED_IN,
        ...BAYS,
        'POST /jobs/j1/captures/c1/command': { body: {} },
      });
      const capture = {
        ...{ captureId: 'c1', at: 'idle', phase: 'before', goodS: 4, wantedS: 15, keepable: true },
        ...{ state: 'waiting', reason: 'coolant below 80 °C' },
      };
      const now = { said: ['Waiting for idle: now ', figure(2480, 'rpm', 0), '.'] };
      const { person } = shown(job(), { capture: { ...capture, sentence: now }, setCapture: () => {} } as never);
      expect((await screen.findByRole('status')).textContent).toBe('Waiting for idle: now 2,480 rpm.');
      expect(screen.getByRole('progressbar').getAttribute('value')).toBe('4');
      expect(screen.getByRole('button', { name: 'Keep it as doubtful' })).toBeTruthy();
      await person.click(screen.getByRole('button', { name: 'Stop' }));
      await waitFor(() => expect(posted(asked)).toEqual({ command: 'stop' }));
      cleanup();
      shown(job(), { capture: { ...capture, state: 'capturing', sentence: null } } as never);
      expect((await screen.findByRole('status')).textContent).toBe('Steady: 4 of 15 s');
    });

    test('without an adapter it is typed, in the state the car is in', async () => {
      const asked = server({
        ...SIGNED_IN,
        ...BAYS,
        'POST /jobs/j1/readings': (a) => ({ body: { ...reading, id: a.body.id } }),
      });
      const { person } = shown(job({ adapter: null }));
      expect(await screen.findByText(/^No adapter is chosen/)).toBeTruthy();
      await person.click(screen.getByRole('button', { name: 'Enter by hand' }));
      await person.type(await screen.findByLabelText(/^Airflow/, { selector: 'input' }), '3.4');
      await person.click(screen.getByRole('button', { name: 'Keep this reading' }));
      await waitFor(() => expect(asked.some((a) => a.method === 'POST')).toBe(true));
      expect(posted(asked)).toMatchObject({
        phase: 'before',
        reading: { at: 'idle', mafGps: 3.4 },
      });
    });
  });

  test('a figure of this vehicle needs a source; an earlier cleaning that held is one press; both can be undone', async () => {
    const asked = server({
      'PATCH /jobs/j1/entries/v1': { body: {} },
      'POST /jobs/j1/entries': (a) => ({ body: { ...a.body, rev: 1, at: '', by: 'x', undone: false } }),
    });
    const value = entry(
      'value',
      { quantity: 'Torque: airflow sensor', value: 1.3, unit: 'N·m', source: 'sheet' },
      'v1',
    );
    const { person } = open(<PartsAndFigures job={job({ entries: [value] })} live={live} />);
    expect(screen.getByText(/^Torque: airflow sensor 1\.3 N·m \(sheet\)/)).toBeTruthy();
    await person.click(screen.getByRole('button', { name: 'Undo' }));
    await waitFor(() => expect(asked[0]?.body).toEqual({ rev: 2, undone: true }));
    await person.type(input('What'), 'Fuel pressure');
    await person.type(input('Value'), '3,5');
    await person.click(screen.getByRole('button', { name: 'Keep the figure' }));
    await waitFor(() => expect(said(input('Where it comes from'))).not.toBe(''));
    await person.type(input('Where it comes from'), 'service manual');
    await person.selectOptions(input('Unit'), 'kPa');
    await person.click(screen.getByRole('button', { name: 'Keep the figure' }));
    const posted = () => asked.filter((a) => a.method === 'POST').map((a) => a.body);
    await waitFor(() => expect(posted()).toHaveLength(1));
    expect(posted()[0].data).toEqual({
      quantity: 'Fuel pressure',
      value: 3.5,
      unit: 'kPa',
      source: 'service manual',
    });
    await person.click(screen.getAllByRole('button', { name: /it held$|has held$/ })[0]!);
    await waitFor(() => expect(posted()).toHaveLength(2));
    expect(posted()[1]).toMatchObject({ kind: 'outcome', data: { held: true } });
  });
});

describe('two people at one work', () => {
  const procedure = SHIPPED_PROCEDURES.find((p) => p.id === 'airflow-sensor-clean')!;
  const look = procedure.steps.find((s) => s.answers?.some((a) => a.stopRule) && s.answers.some((a) => !a.stopRule))!;
  const [harmless, broken] = [
    look.answers!.find((a) => !a.stopRule)!.text,
    look.answers!.find((a) => a.stopRule)!.text,
  ];
  const event = (id: string, by: string, what: Happened, atMs: number) => ({ id, by, atMs, what });
  const answered = [
    event('e1', 'A. Lund', { kind: 'done', step: look.id, round: 0, answer: harmless }, 1_750_000_000_000),
    event('e2', 'M. Duarte', { kind: 'done', step: look.id, round: 0, answer: broken }, 1_750_000_060_000),
  ];
  const run = (...events: RunView['events']) =>
    ({ id: 'r1', at: '2026-05-04T09:00:00Z', by: 'A. Lund', procedure, events }) as unknown as RunView;
  /** What a press says of the run. */
  const lastSaid = async () => (await kept()).at(-1)!.events[0] as unknown as { what: Happened };

  test('both answers stand with their names; which is right is said with a reason', async () => {
    server({ ...SIGNED_IN, 'POST /jobs/j1/runs/r1/events': 'away' });
    const { person } = await openSignedIn(<RunsOnly run={run(...answered)} />);
    const box = (await screen.findByText('Two answers to one step')).closest('section')!;
    expect(box.textContent).toContain(`M. Duarte “${broken}”, A. Lund “${harmless}”; the stop holds.`);
    await person.click(within(box).getByRole('button', { name: `A. Lund: “${harmless}” is right` }));
    await person.click(within(box).getByRole('button', { name: 'Say so' }));
    await within(box).findByText('say why in a few words');
    await person.type(within(box).getByLabelText('Why'), 'it was the light');
    await person.click(within(box).getByRole('button', { name: 'Say so' }));
    await waitFor(async () =>
      expect((await lastSaid()).what).toEqual({
        ...{ kind: 'settled', dispute: 'e1', keep: 'other', reason: 'it was the light' },
      }),
    );
  });

  test('given up by one, gone on by the other: what was done is said, and it can be taken up again', async () => {
    server({ ...SIGNED_IN, 'POST /jobs/j1/runs/r1/events': 'away' });
    const [first] = procedure.steps.filter((s) => s.kind === 'do');
    const events = [
      event('e1', 'A. Lund', { kind: 'given-up', reason: 'no time' }, 1_750_000_000_000),
      event('e2', 'M. Duarte', { kind: 'done', step: first!.id, round: 0 }, 1_750_000_060_000),
    ];
    const { person } = await openSignedIn(<LastWork jobId="j1" run={run(...events)} />);
    const beside = await screen.findByRole('region', { name: 'Written down beside it' });
    expect(beside.textContent).toMatch(/after its end, M\. Duarte: done, at the step “/);
    expect(screen.getByRole('region', { name: 'Given up' }).textContent).toMatch(/given up by A\. Lund: no time/);
    await person.click(screen.getByRole('button', { name: 'Go on with it' }));
    await waitFor(async () => expect((await lastSaid()).what).toEqual({ kind: 'resumed' }));
  });
});

/** The piece alone, at a run. */
function RunsOnly({ run }: { run: RunView }) {
  return <TwoAnswers handle={useRun('j1', run)} />;
}
