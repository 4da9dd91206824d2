import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import type { JobView, RunView } from '@just-balance/contract';
import { type Happened, SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { act, cleanup, screen, waitFor, within } from '@testing-library/react';
import 'fake-indexeddb/auto';
import { wordsOf } from '@just-balance/core/units';
import { useLocation } from 'react-router';
import type { JobLive } from '../src/data/live.tsx';
import { outbox } from '../src/data/queue.ts';
import { leaveAccount } from '../src/data/session.tsx';
import { clock, TimerBar } from '../src/job/frame/TimerBar.tsx';
import { SensorMap } from '../src/job/vehicle/SensorMap.tsx';
import { TestList } from '../src/job/work/TestList.tsx';
import { OwnTexts } from '../src/pages/shop/OwnTexts.tsx';
import { RunSession } from '../src/sessions/RunSession.ts';
import { ByHand } from '../src/stations/service/ByHand.tsx';
import { CleanOrReplacePanel } from '../src/stations/service/CleanOrReplacePanel.tsx';
import { MishapForm } from '../src/stations/service/MishapForm.tsx';
import { OffTheCar } from '../src/stations/service/OffTheCar.tsx';
import { PartsAndFigures } from '../src/stations/service/PartsAndFigures.tsx';
import { PinFinder } from '../src/stations/service/PinFinder.tsx';
import { RunScreen } from '../src/stations/service/RunScreen.tsx';
import { ServiceStation } from '../src/stations/service/ServiceStation.tsx';
import { StepBody } from '../src/stations/service/StepBody.tsx';
import { firstWords, StepList } from '../src/stations/service/StepList.tsx';
import { type RunHandle, useRun } from '../src/stations/service/useRun.ts';
import { troubleOf } from '../src/ui/useAction.ts';
import { around, EMPTY_JOB, open, openSignedIn, refused, SIGNED_IN, said, server } from './page.tsx';

beforeEach(async () => {
  window.scrollTo = () => {};
  localStorage.clear();
  sessionStorage.clear();
  await outbox.useAccount('a1');
});
afterEach(cleanup);

const live = { values: {}, traces: new Map(), link: null, capture: null } as unknown as JobLive;
const JOB = {
  ...EMPTY_JOB,
  vehicle: { fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4, banks: 1 },
} as unknown as JobView;
const input = (name: RegExp | string) => screen.getByLabelText(name) as HTMLInputElement;
const entry = (a: { body: { id: string; kind: string; data: object } }) => ({
  body: { id: a.body.id, rev: 1, at: '', by: 'R. Okafor', undone: false, kind: a.body.kind, data: a.body.data },
});
const procedure = (id: string) => SHIPPED_PROCEDURES.find((p) => p.id === id)!;
function running(id: string, ...what: Happened[]): RunView {
  const events = what.map((w, i) => ({ id: `e${i}`, atMs: 1000 * i, by: 'x', what: w }));
  return { id: 'run1', at: '2026-05-04T08:00:00Z', by: 'x', procedure: procedure(id), events };
}
function handleOf(run: RunView): RunHandle & { said: Happened[] } {
  const said: Happened[] = [];
  const session = new RunSession(run, {
    jobId: 'j1',
    queue: async (writes) => {
      for (const { body } of writes)
        said.push(...(JSON.parse(body as string) as { events: { what: Happened }[] }).events.map((e) => e.what));
    },
    newId: () => 'new',
    nowMs: () => Date.now(),
    troubleOf,
  });
  return { ...session.now(), session, say: session.say, said };
}

describe('pins', () => {
  test('kept readings are seen and changed: what is kept then stands beside the first', async () => {
    const data = {
      connector: 'airflow sensor',
      pins: ['1', '2', '3'],
      batteryV: 12.6,
      running: true,
      readings: [
        { red: '1', black: 'battery-', volts: 12.45, signed: false },
        { red: '2', black: 'battery-', volts: 0.03, signed: false },
      ],
    };
    const kept = {
      id: 'k1',
      rev: 1,
      at: '2026-05-04T09:12:33.120Z',
      by: 'R. Okafor',
      undone: false,
      kind: 'pins',
      data,
    };
    const asked = server({ 'POST /jobs/j1/entries': entry as never });
    const { person } = open(<PinFinder job={{ ...JOB, entries: [kept as never] }} live={live} />);
    expect(screen.getByLabelText('Kept pair readings').textContent).toMatch(
      /airflow sensor, 2 pair readings, by R. Okafor/,
    );
    await person.click(screen.getByRole('button', { name: 'Look at them' }));
    expect([input('Connector').value, input('Pins').value, input('Battery, V').value]).toEqual([
      'airflow sensor',
      '3',
      '12.6',
    ]);
    expect(screen.getByLabelText('Pair readings').textContent).toMatch(
      /pin 1 against battery − 12.45 V.*pin 2 against/s,
    );
    expect(screen.getByRole('rowheader', { name: '1' }).closest('tr')!.textContent).toMatch(/12\.4\d.*supply/);
    await person.click(screen.getByRole('button', { name: 'Remove reading 2' }));
    await person.click(screen.getByRole('button', { name: 'Keep these readings' }));
    await waitFor(() => expect(asked.filter((a) => a.method === 'POST')).toHaveLength(1));
    expect(asked.find((a) => a.method === 'POST')!.body.data).toMatchObject({
      connector: 'airflow sensor',
      running: true,
      readings: [{ red: '1', volts: 12.45 }],
    });
  });
  test('a pin that readings only bound says between what it lies', async () => {
    const readings = [
      { red: '1', black: '2', volts: 12.4, signed: false },
      { red: '2', black: 'battery-', volts: 0.02, signed: false },
    ];
    const data = { connector: 'x', pins: ['1', '2', '3'], batteryV: 12.6, running: false, readings };
    const kept = { id: 'k1', rev: 1, at: '2026-05-04T09:12:33.120Z', by: 'x', undone: false, kind: 'pins', data };
    server({});
    const { person } = open(<PinFinder job={{ ...JOB, entries: [kept as never] }} live={live} />);
    await person.click(screen.getByRole('button', { name: 'Look at them' }));
    const row = (pin: string) => screen.getByRole('rowheader', { name: pin }).closest('tr')!;
    const volts = (pin: string) => row(pin).querySelectorAll('td')[0]!.textContent!;
    expect(volts('2')).toBe('0.02−0.02 to 0.06');
    expect(volts('3')).toBe('—');
  });
  test('pairs typed as the meter shows them become volts and roles; what to read next is named; all of it is kept', async () => {
    const asked = server({ 'POST /jobs/j1/entries': entry as never });
    const { person } = open(<PinFinder job={JOB} live={live} />);
    await person.clear(input('Pins'));
    await person.type(input('Pins'), '3');
    expect(screen.getByRole('status').textContent).toMatch(/^Read next: red on pin 1, black on battery −/);
    const add = async (red: string, black: string, volts: string) => {
      await person.selectOptions(input('Red lead'), red);
      await person.selectOptions(input('Black lead'), black);
      await person.type(input('Shows, V'), volts);
      await person.click(screen.getByRole('button', { name: 'Add' }));
    };
    await add('pin 1', 'battery −', '12,45');
    await add('pin 2', 'battery −', '0.03');
    // Its minus sign forgotten.
    await add('pin 3', 'pin 1', '7.4');
    const row = (pin: string) => screen.getByRole('rowheader', { name: pin }).closest('tr')!.textContent;
    expect(row('1')).toMatch(/12\.4\d.*supply/);
    expect(row('2')).toMatch(/0\.03.*ground/);
    expect(row('3')).toMatch(/5\.0\d.*reference/);
    await waitFor(() =>
      expect(screen.getByRole('status').textContent).toMatch(
        /Read right, two settle all of them: this one, then red on pin 2, black on pin 3\.$/,
      ),
    );
    await person.type(input('Connector'), 'airflow sensor');
    await person.click(screen.getByRole('button', { name: 'Keep these readings' }));
    await waitFor(() => expect(asked.filter((a) => a.method === 'POST')).toHaveLength(1));
    expect(asked.find((a) => a.method === 'POST')!.body).toMatchObject({
      kind: 'pins',
      data: {
        connector: 'airflow sensor',
        pins: ['1', '2', '3'],
        running: false,
        readings: [{ volts: 12.45 }, {}, {}],
      },
    });
    await person.click(screen.getByRole('button', { name: 'Remove reading 3' }));
    expect(row('3')).toMatch(/not read yet/);
  });
});

describe('clean or replace', () => {
  test('the sum follows every term; a decision is kept with it', async () => {
    const asked = server({
      ...SIGNED_IN,
      'GET /service/outcomes': { body: [{ part: 'airflow-sensor', held: 6, failed: 0 }] },
      'POST /jobs/j1/entries': entry as never,
    });
    const { person } = openSignedIn(<CleanOrReplacePanel job={JOB} live={live} />);
    await screen.findByText(/6 of 6 of this shop’s cleanings held/);
    expect(screen.getByText('Cleaning is the cheaper way.')).toBeTruthy();
    await person.clear(input(/^Price of the part/));
    await person.type(input(/^Price of the part/), '15');
    expect(screen.getByText('Replacing is the cheaper way.')).toBeTruthy();
    await person.clear(input(/^Solvent/));
    await person.type(input(/^Solvent/), 'much');
    expect(screen.getByText(/Every term is a number/)).toBeTruthy();
    expect(said(input(/^Solvent/))).toBe('a number of 0 or more');
    await person.clear(input(/^Solvent/));
    await person.type(input(/^Solvent/), '8');
    await person.click(screen.getByRole('button', { name: 'Decide: replace' }));
    await waitFor(() => expect(asked.some((a) => a.method === 'POST')).toBe(true));
    const { body } = asked.find((a) => a.method === 'POST')!;
    expect(body).toMatchObject({
      kind: 'decision',
      data: { part: 'airflow-sensor', chosen: 'replace', terms: { partPrice: 15, solvent: 8 } },
    });
    expect(body.data.terms.chance).toBeCloseTo(9 / 11, 9);
  });

  test('what was cleaned here already is what the sum is of, whatever is likely by now', async () => {
    server({ ...SIGNED_IN, 'GET /service/outcomes': { body: [] } });
    const likely = { id: 'd1', output: { causes: [{ fault: 'throttle-fouled', probability: 0.7 }] } };
    const cleaned = { id: 'r1', undone: false, text: 'Wire cleaned', work: 'cleaned', part: 'airflow sensor' };
    const of = (repairs: object[]) => ({ ...JOB, diagnoses: [likely], repairs }) as unknown as typeof JOB;
    openSignedIn(<CleanOrReplacePanel job={of([])} live={live} />);
    await screen.findByText(/Cleaning is the cheaper way|Replacing is the cheaper way/);
    const pressed = () => screen.getAllByRole('button', { pressed: true }).map((b) => b.textContent);
    expect(pressed()).toContain('Throttle body');
    cleanup();
    openSignedIn(<CleanOrReplacePanel job={of([{ ...cleaned, at: '2026-05-04T09:00:00Z', run: null }])} live={live} />);
    await screen.findByText(/Cleaned before/);
    expect(pressed()).toContain('Airflow sensor');
  });

  test('a stop rule leaves no choice', async () => {
    server({ ...SIGNED_IN, 'GET /service/outcomes': { body: [{ part: 'airflow-sensor', held: 0, failed: 2 }] } });
    const stopped = running('airflow-sensor-clean', { kind: 'stop', rule: 'the housing is cracked' });
    openSignedIn(<CleanOrReplacePanel job={{ ...JOB, runs: [stopped] }} live={live} />);
    await screen.findByText(/0 of 2 of this shop’s cleanings held/);
    expect(screen.getByText('Replace: a stop rule applies.')).toBeTruthy();
    expect((screen.getByRole('button', { name: 'Decide: clean' }) as HTMLButtonElement).disabled).toBe(true);
  });
});

describe('steps', () => {
  const body = (run: RunView, step: string, more: Partial<JobLive> = {}, job: Partial<JobView> = {}) => {
    const handle = handleOf(run);
    const done: object[] = [];
    const s = run.procedure.steps.find((x) => x.id === step)!;
    const { person } = open(
      <StepBody
        job={{ ...JOB, ...job }}
        live={{ ...live, ...more }}
        handle={handle}
        step={s}
        done={(d = {}) => done.push(d)}
      />,
    );
    return { handle, done, person };
  };

  test('nothing before its caution; acknowledged, the answers are there', async () => {
    const { handle, person } = body(running('airflow-sensor-clean'), 'cold');
    expect(screen.queryByRole('button', { name: 'cool' })).toBeNull();
    await person.click(screen.getByRole('button', { name: 'Understood' }));
    expect(handle.said).toEqual([{ kind: 'caution', caution: 'hot-parts', step: 'cold' }]);
    cleanup();
    const known = running('airflow-sensor-clean', { kind: 'caution', caution: 'hot-parts', step: 'cold' });
    const { done, person: again } = body(known, 'cold');
    await again.click(screen.getByRole('button', { name: 'cool' }));
    expect(done).toEqual([{ answer: 'cool' }]);
  });

  test('a measured value is judged as it is typed, and may come from the link', async () => {
    const { done, person } = body(running('throttle-relearn'), 'hot', { values: { ect: 91.4 } });
    expect(screen.getByLabelText('Conditions from the link').textContent).toMatch(/Coolant91 °C90 to 110, holds/);
    await person.type(input('Coolant temperature, °C'), '86,5');
    expect(screen.getByText('below its limit')).toBeTruthy();
    await person.click(screen.getByRole('button', { name: 'Read it from the adapter' }));
    expect(screen.getByText('within its limits')).toBeTruthy();
    await person.click(screen.getByRole('button', { name: 'Keep it' }));
    expect(done).toEqual([{ value: 91.4 }]);
  });

  test('OL of a meter is more than it shows, and what follows from it is said before it is kept', async () => {
    const { done, person } = body(running('oxygen-sensor-remove-clean'), 'heater');
    const heater = input('Heater resistance, ohm');
    await person.type(heater, '6');
    expect(screen.getByText('within its limits')).toBeTruthy();
    expect(screen.queryByText('ends the work as planned')).toBeNull();
    await person.clear(heater);
    await person.type(heater, 'o.l.');
    expect(screen.getByText('above its limit')).toBeTruthy();
    expect(screen.getByText('ends the work as planned')).toBeTruthy();
    await person.click(screen.getByRole('button', { name: 'Keep it' }));
    expect(done).toEqual([{ value: 99_999 }]);
    await person.clear(heater);
    await person.type(heater, 'dead');
    await person.click(screen.getByRole('button', { name: 'Keep it' }));
    expect(said(heater)).toBe('“dead” is not a number; OL of a meter is taken too');
    expect(done).toHaveLength(1);
  });

  test('the vehicle’s own limits win, in the reader’s unit, and stay with the vehicle', async () => {
    const asked = server({ 'POST /jobs/j1/entries': entry as never });
    localStorage.setItem('jb-units', 'us');
    const gauge = running('fuel-pressure-and-volume', { kind: 'caution', caution: 'running-engine', step: 'idle' });
    const card = { vehicle: { ...JOB.vehicle, limits: { fuelPressureKPa: 400, fuelPressureReference: 'fixed' } } };
    const { done, person } = body(gauge, 'idle', {}, card as unknown as Partial<JobView>);
    // 400 kPa ± 8 %, by NIST SP 811 1 psi = 6.894757 kPa.
    expect(document.body.textContent).toContain('53.4 to 62.7 psi');
    expect(screen.getByText('of this vehicle')).toBeTruthy();
    await person.type(input('Fuel pressure at idle, psi'), '50');
    expect(screen.getByText('below its limit')).toBeTruthy();
    const [least, most] = [input('At least, psi'), input('At most, psi')];
    await person.clear(least);
    await person.type(least, '45');
    await person.clear(most);
    await person.type(most, '40');
    await person.clear(input('Where they come from'));
    await person.click(screen.getByRole('button', { name: 'Keep it' }));
    await screen.findByText('below the least');
    await screen.findByText('say where the limits come from');
    expect(done).toEqual([]);
    await person.clear(most);
    await person.type(input('Where they come from'), 'service manual');
    expect(screen.getByText('within its limits')).toBeTruthy();
    await person.click(screen.getByRole('button', { name: 'Keep it' }));
    await waitFor(() => expect(done).toHaveLength(1));
    const { value, limits } = done[0] as { value: number; limits: { low: number; whose: string } };
    expect([value, limits.low].map((v) => v.toFixed(2))).toEqual(['344.74', '310.26']);
    expect(limits.whose).toBe('service manual');
    await waitFor(() => expect(asked.some((a) => a.method === 'POST')).toBe(true));
    expect(asked.find((a) => a.method === 'POST')!.body.data).toEqual({
      quantity: 'At least: fuel pressure at idle',
      value: limits.low,
      unit: 'kPa',
      source: 'service manual',
    });
  });

  test('a look that was made at Balance stands there as its answer; it may show something else now', async () => {
    const seenAt = { rev: 1, at: '2026-05-04T07:12:00Z', by: 'R. Okafor', undone: false, phase: 'before' as const };
    const tests = [{ id: 't1', ...seenAt, test: { id: 'maf-inspect', outcome: 'dirty' } }];
    const { done, person } = body(running('airflow-sensor-clean'), 'look', {}, { tests });
    const known = within(screen.getByRole('region', { name: 'Seen already' }));
    expect(known.getByText(/at Balance, R\. Okafor/)).toBeTruthy();
    await person.click(known.getByRole('button', { name: 'It is still so' }));
    const [first] = done as { answer: string; from: string }[];
    expect(first!.from).toBe('t1');
    expect(screen.queryByRole('button', { name: first!.answer })).toBeNull();
    const other = within(screen.getByRole('group')).getAllByRole('button')[0]!;
    await person.click(other);
    expect(done[1]).toEqual({ answer: other.firstChild!.textContent });
    cleanup();
    // After a repair it is another car.
    const repairs = [{ id: 'p1', rev: 1, at: '2026-05-04T07:30:00Z', by: 'x', undone: false, text: 'Duct refitted' }];
    body(running('airflow-sensor-clean'), 'look', {}, { tests, repairs } as unknown as Partial<JobView>);
    expect(screen.queryByRole('region', { name: 'Seen already' })).toBeNull();
  });

  test('a bank that the engine has not got is no answer', () => {
    const smoke = () => running('smoke-test', { kind: 'caution', caution: 'solvents-fuel', step: 'look' });
    body(smoke(), 'look', {}, { vehicle: { ...JOB.vehicle, banks: 1 } });
    expect(screen.queryByRole('button', { name: /bank 2/ })).toBeNull();
    cleanup();
    body(smoke(), 'look', {}, { vehicle: { ...JOB.vehicle, banks: 2 } });
    expect(screen.getByRole('button', { name: 'at the intake gasket, bank 2' })).toBeTruthy();
  });

  test('what was found in a work stands among the tests, and is undone at its step', () => {
    const test = { id: 'smoke-intake', outcome: 'duct' };
    const at = { at: '2026-05-04T09:12:33.120Z', undone: false, phase: 'before' as const, by: 'R. Okafor' };
    const rows = [
      { id: 't1', rev: 1, ...at, test },
      { id: 'r1:look', rev: 0, ...at, test, found: { run: 'r1', work: 'Smoke test of the intake', step: 'look' } },
    ];
    open(<TestList job={{ ...JOB, tests: rows }} />);
    const [found, entered] = screen.getAllByRole('row').slice(1);
    expect(found!.textContent).toMatch(/at the duct.*found in the work: Smoke test of the intake.*undone at its step/s);
    expect(within(found!).queryByRole('button')).toBeNull();
    expect(within(entered!).getByRole('button', { name: 'Undo' })).toBeTruthy();
  });

  test('tightening: generic and said so, in three units; another figure only with its source', async () => {
    const asked = server({ 'POST /jobs/j1/entries': entry as never });
    const { done, person } = body(running('airflow-sensor-clean'), 'tight');
    expect(screen.getByText('generic')).toBeTruthy();
    await person.type(input('This vehicle’s figure, N·m'), '3');
    // NIST SP 811: 3 N·m is 2.213 lbf·ft, 26.55 lbf·in.
    expect(document.body.textContent).toMatch(/2\.2 lbf·ft · 27 lbf·in/);
    const tight = screen.getByRole('button', { name: 'Tight' });
    await person.click(tight);
    expect((await screen.findByRole('alert')).textContent).toBe('say where the figure comes from');
    expect(done).toEqual([]);
    await person.type(input(/^Where it comes from/), 'service manual');
    await person.clear(input('This vehicle’s figure, N·m'));
    await person.type(input('This vehicle’s figure, N·m'), '2001');
    await person.click(tight);
    await screen.findByText('“2001” is no torque; at most 2000 N·m');
    await person.clear(input('This vehicle’s figure, N·m'));
    await person.type(input('This vehicle’s figure, N·m'), '3');
    await person.click(tight);
    await waitFor(() => expect(done).toEqual([{ torqueNm: 3, torqueSource: 'service manual' }]));
    // It stays with the vehicle.
    await waitFor(() => expect(asked.some((a) => a.method === 'POST')).toBe(true));
    expect(asked.find((a) => a.method === 'POST')!.body.data).toEqual({
      quantity: 'Torque: airflow sensor',
      value: 3,
      unit: 'N·m',
      source: 'service manual',
    });
  });

  test('a torque that the screw cannot take is asked about, with the unit in which it could', async () => {
    server({ 'POST /jobs/j1/entries': entry as never });
    const sensor = procedure('throttle-body-clean');
    const tighten = sensor.steps.find((s) => s.kind === 'torque')!;
    const { done, person } = body(running('throttle-body-clean'), tighten.id);
    const usual = tighten.torqueNm!;
    const inches = String(Math.round(usual / 0.112985));
    await person.type(input('This vehicle’s figure, N·m'), inches);
    await person.type(input(/^Where it comes from/), 'service manual');
    expect(screen.getByRole('alert').textContent).toMatch(/^That is \d+ times what such a screw usually takes/);
    await person.click(screen.getByRole('button', { name: 'Tight' }));
    expect(said(input('This vehicle’s figure, N·m'))).toMatch(/^is it meant so/);
    expect(done).toEqual([]);
    await person.click(screen.getByRole('button', { name: `It is ${inches} lbf·in` }));
    expect(input('This vehicle’s figure, lbf·in').value).toBe(inches);
    expect(screen.queryByText(/^That is/)).toBeNull();
    await person.click(screen.getByRole('button', { name: 'Tight' }));
    await waitFor(() => expect(done).toHaveLength(1));
    expect((done[0] as { torqueNm: number }).torqueNm).toBeCloseTo(usual, 1);
    cleanup();
    localStorage.setItem('jb-torque', 'N·m');
    const again = body(running('throttle-body-clean'), tighten.id);
    await again.person.type(input('This vehicle’s figure, N·m'), String(usual * 6));
    await again.person.type(input(/^Where it comes from/), 'service manual');
    await again.person.click(screen.getByRole('button', { name: 'It is meant so' }));
    await again.person.click(screen.getByRole('button', { name: 'Tight' }));
    await waitFor(() => expect(again.done).toEqual([{ torqueNm: usual * 6, torqueSource: 'service manual' }]));
  });

  test('a torque that was entered for this vehicle stands in its step, with its source', async () => {
    const data = { quantity: 'Torque: airflow sensor', value: 1.3, unit: 'N·m', source: 'maker’s sheet' };
    const entries = [{ id: 'v1', rev: 1, at: '', by: 'x', undone: false, kind: 'value', data }] as JobView['entries'];
    const { done, person } = body(running('airflow-sensor-clean'), 'tight', {}, { entries });
    expect(input('This vehicle’s figure, N·m').value).toBe('1.3');
    expect(document.body.textContent).toMatch(/Entered for this vehicle: 1\.3 N·m \(maker’s sheet\)/);
    await person.click(screen.getByRole('button', { name: 'Tight' }));
    expect(done).toEqual([{ torqueNm: 1.3, torqueSource: 'maker’s sheet' }]);
    expect(await outbox.waiting()).toEqual([]);
  });

  test('all went back on, or fewer: how many is said', async () => {
    const sensor = procedure('airflow-sensor-clean');
    const off = sensor.steps.find((x) => x.kind === 'take-off' && x.count)!;
    const refit = sensor.steps.find((x) => x.kind === 'refit' && (x.item === off.item || x.item === off.id))!;
    const began = running('airflow-sensor-clean', { kind: 'done', step: off.id, round: 0 });
    const { done, person } = body(
      { ...began, procedure: { ...sensor, steps: [off, { ...refit, caution: undefined }] } } as RunView,
      refit.id,
    );
    await person.click(screen.getByRole('button', { name: 'Fewer went back on' }));
    const back = input(`Back on, of ${off.count}`);
    await person.type(back, String(off.count));
    expect(said(back)).toBe(`0 to ${off.count! - 1}`);
    // The other button still says what it would write down.
    expect(document.body.textContent).toContain(`Done means: all ${off.count} fasteners are back on.`);
    await person.clear(back);
    await person.type(back, String(off.count! - 1));
    await person.click(screen.getByRole('button', { name: 'On, with 1 missing' }));
    expect(done).toEqual([{ back: off.count! - 1 }]);
  });

  test('something broke or fell: what and where, and that it is still in there until it is out', async () => {
    const handle = handleOf(running('airflow-sensor-clean'));
    let closed = 0;
    const { person } = open(<MishapForm handle={handle} close={() => closed++} />);
    await person.click(screen.getByRole('button', { name: 'Write it down' }));
    await screen.findByText('say what');
    expect(screen.getByText(/^Do not start the engine/)).toBeTruthy();
    await person.type(input('What'), 'a clip broke');
    await person.type(input('Where it is now'), 'in the airbox');
    await person.click(input(/^It is out of the engine bay/));
    expect(screen.queryByText(/^Do not start the engine/)).toBeNull();
    await person.click(screen.getByRole('button', { name: 'Write it down' }));
    await waitFor(() => expect(closed).toBe(1));
    expect(handle.said).toEqual([
      { kind: 'mishap', step: handle.state.current!.id, what: 'a clip broke', where: 'in the airbox', out: true },
    ]);
    cleanup();
    const fell: Happened = { kind: 'mishap', step: 'cold', what: 'a screw fell', where: 'under the duct', out: false };
    const open_ = handleOf(running('airflow-sensor-clean', fell));
    const list = open(<OffTheCar job={JOB} handle={open_} />);
    expect(screen.getByLabelText('What broke or fell').textContent).toMatch(
      /a screw fell, under the duct.*still in there/,
    );
    await list.person.click(screen.getByRole('button', { name: 'It is out' }));
    expect(open_.said).toEqual([{ kind: 'mishap-out', mishap: 'e0' }]);
  });

  const laid = running('airflow-sensor-clean', { kind: 'caution', caution: 'hot-parts', step: 'cold' });
  const words = wordsOf(laid.procedure.steps.find((s) => s.id === 'lay')!.text, 'own').slice(0, 120);
  const photo = { rev: 1, at: '', by: 'x', undone: false, width: 40, height: 30, label: words, step: 'lay' };

  test('the picture place of a step is there before its picture is', () => {
    body(laid, 'lay');
    expect(screen.getByRole('button', { name: /Picture of this/ })).toBeTruthy();
    cleanup();
    // A step that asks for a picture has its own button.
    body(laid, 'flow-side');
    expect(screen.queryByLabelText('Pictures of this step')).toBeNull();
  });

  test('at its step: the picture of this car, and a good part as the shop has seen it', async () => {
    server({ 'GET /photos/good': { body: [{ ...photo, id: 'g1', jobId: 'j9', run: 'r9', good: true }] } });
    const photos = [{ ...photo, id: 'p1', run: 'run1', good: false }] as unknown as JobView['photos'];
    body(laid, 'lay', {}, { photos });
    expect(await screen.findByText('a good one, from this shop')).toBeTruthy();
    expect(screen.getByText('this car, at this step')).toBeTruthy();
    const shown = screen.getAllByRole('img').map((i) => i.getAttribute('src'));
    expect(shown).toEqual(['/api/jobs/j9/photos/g1?small=1', '/api/jobs/j1/photos/p1?small=1']);
  });

  test('a timer not waited for needs a reason', async () => {
    const { handle, done, person } = body(running('airflow-sensor-clean'), 'dry');
    await person.click(screen.getByRole('button', { name: 'Start 25 min' }));
    expect(handle.said).toEqual([{ kind: 'timer', step: 'dry', round: 0 }]);
    await person.click(screen.getByRole('button', { name: 'Do without' }));
    const keep = screen.getByRole('button', { name: 'Keep it' });
    // The box was asked for: typing goes on in it.
    expect(document.activeElement).toBe(input('Why without'));
    await person.type(input('Why without'), ' ');
    await person.click(keep);
    expect((await screen.findByRole('alert')).textContent).toBe('say why in a few words');
    expect(done).toEqual([]);
    await person.type(input('Why without'), 'dry by the magnifier');
    await person.click(keep);
    expect(done).toEqual([{ reason: 'dry by the magnifier' }]);
  });

  test('the list shows what is through, what was left out and why, and where one is', () => {
    const run = running(
      'crankcase-valve-and-hose',
      { kind: 'skipped', step: 'route', round: 0, reason: 'no light' },
      { kind: 'done', step: 'off', round: 0 },
    );
    const { state } = handleOf(run);
    open(<StepList procedure={run.procedure} state={state} shown={null} look={() => {}} />);
    const items = within(screen.getByRole('navigation', { name: 'Steps' })).getAllByRole('listitem');
    expect(items[0]!.textContent).toMatch(/left out: no light/);
    expect(items[1]!.textContent).toMatch(/, done/);
    expect(items[2]!.querySelector('[aria-current="step"]')).not.toBeNull();
    expect(firstWords('Undo both screws, one of them often hidden, and ease it out. Then lay it down.')).toMatch(
      /…$|out$/,
    );
  });

  test('what is half typed stays when another tablet goes on; a skip asked for another step does not', async () => {
    const caution: Happened = { kind: 'caution', caution: 'hot-parts', step: 'route' };
    const first = running('crankcase-valve-and-hose', caution);
    const later = running('crankcase-valve-and-hose', caution, {
      kind: 'skipped',
      step: 'route',
      round: 0,
      reason: 'seen',
    });
    let run = first;
    const Screen = () => <RunScreen job={JOB} live={live} handle={useRun('j1', run)} />;
    const { person, rerender, container } = open(<Screen />);
    const again = (now = later) => {
      run = now;
      rerender(around(<Screen />));
    };
    await person.click(screen.getByRole('button', { name: 'Park it' }));
    await person.type(input('What it waits for'), 'end of day');
    again();
    expect(container.textContent).toMatch(/Clamps back, hose and valve off/);
    expect(input('What it waits for').value).toBe('end of day');
    await person.click(screen.getByRole('button', { name: 'Not yet' }));
    again(first);
    await person.click(screen.getByRole('button', { name: 'Skip' }));
    again();
    expect(screen.queryByLabelText('Why this step is left out')).toBeNull();
  });

  test('at the end of a run that a rule stopped, the way on with the new part is still there', async () => {
    server(SIGNED_IN);
    const stopped = handleOf(running('airflow-sensor-clean', { kind: 'stop', rule: 'the housing is cracked' }));
    const { useSession } = await import('../src/data/session.tsx');
    function Gate() {
      return useSession().session ? <RunScreen job={JOB} live={live} handle={stopped} /> : null;
    }
    open(<Gate />);
    await screen.findByText('Stopped: Replace the sensor.');
    expect(screen.getByRole('button', { name: 'Replace the airflow sensor' })).toBeTruthy();
  });

  test('a running timer is shown at every station', () => {
    const now = Date.now();
    const run = running('airflow-sensor-clean');
    const events = [
      { id: 'e1', atMs: now - 60_500, by: 'x', what: { kind: 'timer', step: 'dry', round: 0 } as Happened },
    ];
    open(<TimerBar job={{ ...JOB, runs: [{ ...run, events }] }} heardOnly={false} />);
    expect(screen.getByRole('link').textContent).toMatch(/^2(3:5\d|4:00)/);
    expect([clock(59), clock(61), clock(3725)]).toEqual(['0:59', '1:01', '1:02:05']);
  });
});

describe('which sensor', () => {
  test('a V with three sensors and one catalyst; the one a code means is said', () => {
    const sensors = [
      { bank: 1, sensor: 1, wide: true },
      { bank: 2, sensor: 1, wide: true },
      { bank: 1, sensor: 2, wide: false },
    ];
    const record = { sensors, codes: [{ code: 'P0153', state: 'stored' }] };
    const v6 = { ...JOB.vehicle, cylinders: 6, banks: 2 as const };
    open(<SensorMap job={{ ...JOB, vehicle: v6, records: [record] } as unknown as JobView} />);
    const words = screen.getByRole('img').getAttribute('aria-label');
    expect(words).toMatch(/Bank 2: sensor 1 before the catalyst, meant by a code\./);
    expect(words).toMatch(/One sensor after the common catalyst/);
    expect(document.body.textContent).toMatch(/From the vehicle/);
  });
  test.each([
    [4, 1],
    [6, 1],
    [6, 2],
    [8, 2],
  ])('%p cylinders on %p banks: nothing of the drawing lies outside of it', (cylinders, banks) => {
    const vehicle = { ...JOB.vehicle, cylinders, banks: banks as 1 | 2 };
    open(<SensorMap job={{ ...JOB, vehicle } as unknown as JobView} />);
    const svg = screen.getByRole('img');
    const [left, top, width, height] = svg.getAttribute('viewBox')!.split(' ').map(Number) as number[];
    const number = (e: Element, name: string) => Number(e.getAttribute(name));
    const boxes = [
      ...[...svg.querySelectorAll('circle')].map((c) => {
        const r = number(c, 'r') + 1.5;
        return [number(c, 'cx') - r, number(c, 'cy') - r, number(c, 'cx') + r, number(c, 'cy') + r];
      }),
      ...[...svg.querySelectorAll('rect')].map((c) => {
        // Turned by an eighth it is as wide as its diagonal.
        const more = c.hasAttribute('transform') ? number(c, 'width') * 0.21 + 1.5 : 1.5;
        const [x, y] = [number(c, 'x'), number(c, 'y')];
        return [x - more, y - more, x + number(c, 'width') + more, y + number(c, 'height') + more];
      }),
      ...[...svg.querySelectorAll('text')].map((c) => [
        number(c, 'x'),
        number(c, 'y') - 13,
        number(c, 'x'),
        number(c, 'y') + 4,
      ]),
    ];
    expect(boxes.length).toBeGreaterThan(6);
    for (const [a, b, c, d] of boxes) {
      expect(a).toBeGreaterThanOrEqual(left!);
      expect(b).toBeGreaterThanOrEqual(top!);
      expect(c).toBeLessThanOrEqual(left! + width!);
      expect(d).toBeLessThanOrEqual(top! + height!);
    }
  });
});

describe('whose hands are on a work', () => {
  const at = (name: string, where: string | null) => ({ name, at: where });
  const shown = (present: { name: string; at: string | null }[], ...what: Happened[]) => {
    const run = running('airflow-sensor-clean', ...what);
    const handle = handleOf({ ...run, events: run.events.map((e) => ({ ...e, by: 'B. Ortiz' })) });
    const opened = open(<RunScreen job={JOB} live={{ ...live, present } as never} handle={handle} />);
    return { ...opened, handle };
  };
  const bar = () => screen.queryByLabelText('Who has this work in hand');

  test('somebody else at it is named with the step, and can be taken over from', async () => {
    const { person, handle } = shown([at('R. Okafor', 'Service: x'), at('B. Ortiz', 'Service: Unplug it.')]);
    expect(bar()!.textContent).toMatch(/^B\. Ortiz is at this work: Unplug it\./);
    await person.click(within(bar()!).getByRole('button', { name: 'Take over' }));
    expect(handle.said).toEqual([{ kind: 'took-over' }]);
  });

  test('nobody else at it, or somebody at another station: nothing is asked', () => {
    shown([at('R. Okafor', 'Service: Unplug it.'), at('B. Ortiz', 'Balance'), at('I. Sato', null)]);
    expect(bar()).toBeNull();
  });

  test('taken over by another: said at once, keys do nothing here until it is taken back', async () => {
    const cold: Happened = { kind: 'done', step: 'cold', round: 0, answer: 'cool' };
    const { person, handle } = shown([], cold, { kind: 'took-over' });
    expect(bar()!.getAttribute('role')).toBe('alert');
    // On another day it says which.
    expect(bar()!.textContent).toMatch(/B\. Ortiz took this work over at \d+ \w{3}, \d\d:\d\d\./);
    await person.keyboard('{ArrowLeft}');
    expect(handle.said).toEqual([]);
    // Hands go on all the same: a button is a button.
    await person.click(screen.getByRole('button', { name: 'Back' }));
    expect(handle.said).toEqual([{ kind: 'reopened', step: 'cold' }]);
  });
});

describe('a repair by hand', () => {
  const diagnosis = {
    id: 'd1',
    at: '',
    coreVersion: '1',
    output: {
      causes: [
        { fault: 'fuel-low', probability: 0.23 },
        { fault: 'maf-dirty', probability: 0.2 },
      ],
    },
  };
  const job = { ...JOB, diagnoses: [diagnosis] } as unknown as JobView;
  const sent = (asked: { method: string; body: object }[]) => asked.find((a) => a.method === 'POST')?.body;
  test('carries no cause that nobody said, whatever leads; one that is said goes along', async () => {
    const repair = (a: { body: object }) => ({ body: { rev: 1, at: '', by: 'x', undone: false, ...a.body } });
    const asked = server({ 'POST /jobs/j1/repairs': repair as never });
    const { person } = open(<ByHand job={job} live={live} />);
    await person.click(screen.getByRole('button', { name: 'Keep the repair' }));
    await screen.findByText('say which');
    await person.click(screen.getByLabelText('replaced'));
    await person.click(screen.getByRole('button', { name: 'Keep the repair' }));
    await screen.findByText('which part');
    expect(asked).toEqual([]);
    await person.click(screen.getByLabelText('maintenance'));
    expect(screen.queryByLabelText('What it was for')).toBeNull();
    await person.type(input('Part'), 'fuel filter');
    await person.click(screen.getByRole('button', { name: 'Keep the repair' }));
    await waitFor(() =>
      expect(sent(asked)).toMatchObject({ text: 'Maintenance: fuel filter', work: 'maintenance', part: 'fuel filter' }),
    );
    expect(sent(asked)).not.toHaveProperty('fault');
    // The form is a new one once it is kept.
    await waitFor(() => expect(input('Part').value).toBe(''));
    asked.length = 0;
    await person.click(screen.getByLabelText('cleaned'));
    await person.type(input('Part'), 'airflow sensor');
    await person.type(input('In a few words'), 'by the dedicated cleaner');
    await person.selectOptions(input('What it was for'), 'maf-dirty');
    await person.click(screen.getByRole('button', { name: 'Keep the repair' }));
    await waitFor(() =>
      expect(sent(asked)).toMatchObject({
        text: 'Airflow sensor cleaned: by the dedicated cleaner',
        work: 'cleaned',
        part: 'airflow sensor',
        fault: 'maf-dirty',
      }),
    );
  });
});

describe('the dock', () => {
  const screenOf = (run: RunView) => {
    let now = run;
    const Screen = () => <RunScreen job={JOB} live={live} handle={useRun('j1', now)} />;
    const { person, rerender } = open(<Screen />);
    const go = (to: RunView) => {
      now = to;
      rerender(around(<Screen />));
    };
    return { person, go };
  };
  const dock = () => within(screen.getByRole('region', { name: 'Go on' }));
  const caution: Happened = { kind: 'caution', caution: 'hot-parts', step: 'route' };

  test('one large button says what it means: the caution first, then the step; what guards it stands in the step', async () => {
    const { go } = screenOf(running('crankcase-valve-and-hose'));
    expect(await dock().findByRole('button', { name: 'Understood' })).toBeTruthy();
    expect(dock().queryByText('Take the picture')).toBeNull();
    expect(screen.getByRole('region', { name: 'Caution' }).textContent).toMatch(/[a-z]{4}/);
    go(running('crankcase-valve-and-hose', caution));
    expect(await dock().findByText('Take the picture')).toBeTruthy();
    go(running('crankcase-valve-and-hose', caution, { kind: 'skipped', step: 'route', round: 0, reason: 'seen' }));
    expect(await dock().findByRole('button', { name: 'It is off' })).toBeTruthy();
  });

  test('after a step the second tap of the same press skips nothing', async () => {
    jest.useFakeTimers({ advanceTimers: true });
    try {
      const { go } = screenOf(running('crankcase-valve-and-hose', caution));
      const large = async (name: string) => (await dock().findByText(name)).closest('div')!;
      expect((await large('Take the picture')).hasAttribute('inert')).toBe(false);
      go(running('crankcase-valve-and-hose', caution, { kind: 'skipped', step: 'route', round: 0, reason: 'seen' }));
      expect((await large('It is off')).hasAttribute('inert')).toBe(true);
      act(() => jest.advanceTimersByTime(700));
      expect((await large('It is off')).hasAttribute('inert')).toBe(false);
    } finally {
      jest.useRealTimers();
    }
  });

  test('what comes off is counted into the tray by press', async () => {
    const run = running('airflow-sensor-clean');
    const out = { ...run.procedure.steps.find((x) => x.id === 'out')!, caution: undefined };
    const done: object[] = [];
    const { person } = open(
      <StepBody job={JOB} live={live} handle={handleOf(run)} step={out} done={(d = {}) => done.push(d)} />,
    );
    const count = input('Screws, bolts, clips');
    const before = Number(count.value);
    await person.click(screen.getByRole('button', { name: 'One more' }));
    await person.click(screen.getByRole('button', { name: 'One more' }));
    await person.click(screen.getByRole('button', { name: 'One fewer' }));
    expect(count.value).toBe(String(before + 1));
    await person.click(screen.getByRole('button', { name: 'It is off' }));
    expect(done[0]).toMatchObject({ taken: { count: before + 1 } });
  });
});

describe('the short form', () => {
  const id = 'airflow-sensor-clean';
  const screenOf = (run: RunView) => {
    const handle = handleOf(run);
    const { person } = open(<RunScreen job={JOB} live={live} handle={handle} />);
    return { handle, person };
  };
  test('five lines, all open at once: one press for all that is only done, its cautions first', async () => {
    const { handle, person } = screenOf(running(id));
    await person.click(screen.getByRole('button', { name: 'Short form' }));
    const lines = within(screen.getByRole('list', { name: 'The work in short' })).getAllByRole('listitem');
    expect(lines.length).toBeLessThanOrEqual(5);
    expect(screen.queryByRole('navigation', { name: 'Steps' })).toBeNull();
    const first = within(lines[0]!);
    expect((first.queryByRole('button', { name: /is done$|^Done$/ }) as HTMLButtonElement | null)?.disabled).not.toBe(
      false,
    );
    await person.click(first.getByRole('button', { name: 'Understood' }));
    expect(handle.said.every((w) => w.kind === 'caution')).toBe(true);
    expect(handle.said.length).toBeGreaterThan(0);
    cleanup();
    // The choice stays with the tablet.
    const all = procedure(id).steps.flatMap((s) => s.caution ?? []);
    const known = [...new Set(all)].map((caution): Happened => ({ kind: 'caution', caution, step: 'cold' }));
    const again = screenOf(running(id, ...known));
    const open_ = within(screen.getByRole('list', { name: 'The work in short' })).getAllByRole('listitem');
    const done = open_.map((l) => within(l).queryByRole('button', { name: /^Done$|is done$/ })).find((b) => b)!;
    await again.person.click(done);
    const kinds = again.handle.said.map((w) => w.kind);
    expect(kinds.every((k) => k === 'done' || k === 'skipped')).toBe(true);
    expect(
      again.handle.said.filter((w) => w.kind === 'skipped').every((w) => 'reason' in w && w.reason === 'short form'),
    ).toBe(true);
    await again.person.click(screen.getByRole('button', { name: 'Step by step' }));
    await again.person.click(screen.getByRole('button', { name: 'List of steps' }));
    expect(screen.getByRole('navigation', { name: 'Steps' })).toBeTruthy();
  });
  test('each open question of a line keeps its buttons beside it, and none goes to the dock', () => {
    localStorage.setItem('jb-short-works', 'on');
    const known = [...new Set(procedure(id).steps.flatMap((s) => s.caution ?? []))];
    screenOf(running(id, ...known.map((caution): Happened => ({ kind: 'caution', caution, step: 'cold' }))));
    const list = screen.getByRole('list', { name: 'The work in short' });
    expect(within(list).getAllByRole('button', { name: /^Start \d+ min$/ }).length).toBeGreaterThan(0);
    const dock = within(screen.getByRole('region', { name: 'Go on' }));
    expect(dock.queryByRole('button', { name: /^Start/ })).toBeNull();
    expect(dock.queryByText('Say what it is, above.')).toBeNull();
  });

  test('a question of a line is answered in it; what is left out has one reason', async () => {
    localStorage.setItem('jb-short-works', 'on');
    const known = [...new Set(procedure(id).steps.flatMap((s) => s.caution ?? []))];
    const { handle, person } = screenOf(
      running(id, ...known.map((caution): Happened => ({ kind: 'caution', caution, step: 'cold' }))),
    );
    await person.click(screen.getByRole('button', { name: 'cool' }));
    expect(handle.said).toEqual([{ kind: 'done', step: 'cold', round: 0, answer: 'cool' }]);
    const lines = within(screen.getByRole('list', { name: 'The work in short' })).getAllByRole('listitem');
    const last = within(lines.at(-1)!);
    await person.click(last.getByRole('button', { name: 'Leave out' }));
    await person.type(last.getByRole('textbox', { name: /^Why all that is open/ }), 'no time today');
    await person.click(last.getByRole('button', { name: 'Leave it out' }));
    const left = handle.said.slice(1);
    expect(left.length).toBeGreaterThan(0);
    for (const w of left) expect(w).toMatchObject({ kind: 'skipped', reason: 'no time today' });
  });
});

describe('nothing typed is lost', () => {
  const job = { ...JOB, runs: [] } as unknown as JobView;
  test('by another tab or a page loaded anew; kept, or left to another person, it is gone', async () => {
    server({ 'POST /jobs/j1/repairs': { body: {} } });
    const first = open(<ByHand job={job} live={live} />);
    await first.person.type(input('In a few words'), 'duct refitted');
    cleanup();
    // Of another job it is not.
    open(<ByHand job={{ ...job, id: 'j2' }} live={live} />);
    expect(input('In a few words').value).toBe('');
    cleanup();
    const { person } = open(<ByHand job={job} live={live} />);
    expect(input('In a few words').value).toBe('duct refitted');
    await person.click(screen.getByLabelText('repaired'));
    await person.click(screen.getByRole('button', { name: 'Keep the repair' }));
    await waitFor(() => expect(input('In a few words').value).toBe(''));
    cleanup();
    open(<ByHand job={job} live={live} />);
    expect(input('In a few words').value).toBe('');
    await person.type(input('In a few words'), 'of one person');
    cleanup();
    leaveAccount();
    open(<ByHand job={job} live={live} />);
    expect(input('In a few words').value).toBe('');
  });

  test('what comes off, a figure and pairs of pins too', async () => {
    const sensor = running('airflow-sensor-clean');
    const off = sensor.procedure.steps.find((s) => s.kind === 'take-off')!;
    const step = (s: typeof off) => (
      <StepBody job={JOB} live={live} handle={handleOf(sensor)} step={{ ...s, caution: undefined }} done={() => {}} />
    );
    const first = open(step(off));
    await first.person.type(input(/^Long and short/), ' in the blue tray');
    cleanup();
    open(step(off));
    expect(input(/^Long and short/).value).toMatch(/in the blue tray$/);
    cleanup();
    const pins = open(<PinFinder job={JOB} live={live} />);
    await pins.person.click(screen.getByRole('button', { name: /^pin 3/ }));
    await pins.person.click(screen.getByRole('button', { name: /^battery −/ }));
    await pins.person.keyboard('5.02');
    await pins.person.click(screen.getByRole('button', { name: 'Add' }));
    expect(screen.getByLabelText('Pair readings').textContent).toMatch(/pin 3 against battery − 5\.02 V/);
    cleanup();
    open(<PinFinder job={JOB} live={live} />);
    expect(screen.getByLabelText('Pair readings').textContent).toMatch(/pin 3 against battery − 5\.02 V/);
  });

  test('the tab that stands open is in the address', async () => {
    server({ 'GET /procedures': { body: [] }, 'GET /service/outcomes': { body: [] }, ...SIGNED_IN });
    const Where = () => {
      const { pathname, search } = useLocation();
      return <output aria-label="Address">{pathname + search}</output>;
    };
    const station = (
      <>
        <ServiceStation job={{ ...job, complaint: { symptoms: [] } } as unknown as JobView} live={live} />
        <Where />
      </>
    );
    const { person } = openSignedIn(station, '/jobs/j1/service');
    await person.click(await screen.findByRole('tab', { name: 'By hand' }));
    await screen.findByLabelText('In a few words');
    expect(screen.getByLabelText('Address').textContent).toBe('/jobs/j1/service?view=by-hand');
    cleanup();
    openSignedIn(station, '/jobs/j1/service?view=pins');
    await screen.findByLabelText('Red lead');
  });
});

describe('parts and figures', () => {
  test('a part without a name stands at its field; a copy is said to prove little', async () => {
    const asked = server({ 'POST /jobs/j1/entries': entry as never });
    const part = { name: 'airflow sensor', make: 'copy', oldKept: false };
    const row = { id: 'x1', rev: 1, at: '', by: 'A. Lund', undone: false, kind: 'part', data: part };
    const { person } = open(<PartsAndFigures job={{ ...JOB, entries: [row] } as unknown as JobView} live={live} />);
    expect(document.body.textContent).toMatch(/copy: weak evidence against it/);
    await person.click(screen.getByRole('button', { name: 'Keep the part' }));
    await waitFor(() => expect(said(input(/^Part/))).not.toBe(''));
    expect(asked).toEqual([]);
    await person.type(input(/^Part/), 'throttle body');
    await person.type(input(/^Price/), '212,50');
    await person.click(screen.getByRole('button', { name: 'Keep the part' }));
    await waitFor(() => expect(asked.some((a) => a.method === 'POST')).toBe(true));
    expect(asked.find((a) => a.method === 'POST')!.body.data).toEqual({
      name: 'throttle body',
      make: 'original',
      oldKept: true,
      price: 212.5,
    });
  });
});

describe('procedures of the shop', () => {
  test('a copy gets an id of its own; faults come with their lines; kept, it says its source', async () => {
    let tries = 0;
    const own = { ...procedure('purge-valve'), id: 'our-purge-valve' };
    const kept = { id: 'p1', rev: 1, at: '', by: 'x', undone: false, copiedFrom: 'purge-valve', procedure: own };
    const asked = server({
      ...SIGNED_IN,
      'GET /procedures': () => ({ body: tries > 1 ? [kept] : [] }),
      'GET /procedures/ours/purge-valve?kind=service': {
        body: 'format: just-balance/procedure\nid: purge-valve\ntitle: Purge valve\n',
      },
      'POST /procedures/file': () => {
        tries += 1;
        const errors = [
          { line: 3, field: 'title', message: 'too short' },
          { line: 9, field: 'steps[2].kind', message: 'is none' },
        ];
        return tries === 1 ? refused(400, 'line 3, title: too short', { errors }) : { body: kept };
      },
    });
    const { useSession } = await import('../src/data/session.tsx');
    function Gate() {
      return useSession().session ? <OwnTexts kind="service" /> : null;
    }
    const { person } = open(<Gate />);
    await person.click(await screen.findByRole('button', { name: 'Copy: Purge valve' }));
    const text = (await screen.findByLabelText('Copied from purge-valve')) as HTMLTextAreaElement;
    expect(text.value).toMatch(/^id: our-purge-valve$/m);
    await person.click(screen.getByRole('button', { name: 'Keep the procedure' }));
    await screen.findByText(/line 9, steps\[2\]\.kind: is none/);
    await person.click(screen.getByRole('button', { name: 'Keep the procedure' }));
    await screen.findByText('Purge valve: kept.');
    await screen.findByText(/copied from purge-valve · version 1/);
    expect(asked.filter((a) => a.method === 'POST').at(-1)!.body).toMatchObject({ copiedFrom: 'purge-valve' });
  });

  test('a second copy has an id of its own; of one that is there a person says what becomes of it; versions hold again', async () => {
    const own = { ...procedure('purge-valve'), id: 'our-purge-valve' };
    const P1 = '11111111-1111-4111-8111-111111111111';
    let rev = 3;
    const now = () => ({
      id: P1,
      rev,
      at: '',
      by: 'A. Lund',
      undone: false,
      copiedFrom: 'purge-valve',
      procedure: own,
    });
    const asked = server({
      ...SIGNED_IN,
      'GET /procedures': () => ({ body: [now()] }),
      'GET /procedures/ours/purge-valve?kind=service': { body: 'format: x\nid: purge-valve\ntitle: Purge valve\n' },
      [`GET /procedures/${P1}/file`]: { body: 'format: x\nid: our-purge-valve\ntitle: Theirs\n' },
      [`GET /procedures/${P1}/versions?rev=3`]: {
        body: [
          { rev: 3, by: 'A. Lund', title: 'Purge valve' },
          { rev: 2, by: 'R. Okafor', title: 'Purge valve, long' },
        ],
      },
      [`POST /procedures/${P1}/take-back`]: () => {
        rev = 4;
        return { body: now() };
      },
      'POST /procedures/file': (a) =>
        a.body.id === P1 && a.body.rev === 3
          ? { body: now() }
          : /our-purge-valve-2/.test(a.body.text)
            ? { body: { ...now(), id: a.body.id } }
            : refused(409, 'the shop has a procedure "our-purge-valve" already', { current: now() }),
    });
    const { person } = await openSignedIn(<OwnTexts kind="service" />);
    const copied = async () => {
      await person.click(await screen.findByRole('button', { name: 'Copy: Purge valve' }));
      return (await screen.findByLabelText('Copied from purge-valve')) as HTMLTextAreaElement;
    };
    const text = await copied();
    expect(text.value).toMatch(/^id: our-purge-valve-2$/m);
    // Somebody writes the other's id into it.
    await person.clear(text);
    await person.type(text, 'id: our-purge-valve');
    const keep = () => person.click(screen.getByRole('button', { name: 'Keep the procedure' }));
    await keep();
    await screen.findByText(/already/);
    await person.click(await screen.findByRole('button', { name: 'Show version 3, by A. Lund' }));
    expect(((await screen.findByLabelText('Version 3')) as HTMLTextAreaElement).value).toMatch(/title: Theirs/);
    await person.click(screen.getByRole('button', { name: 'Mine under an id of its own' }));
    expect(text.value).toBe('id: our-purge-valve-2');
    await keep();
    await screen.findByText('Purge valve: kept.');
    const again = await copied();
    await person.clear(again);
    await person.type(again, 'id: our-purge-valve');
    await keep();
    await person.click(await screen.findByRole('button', { name: /^Mine as version 4 of/ }));
    await keep();
    await waitFor(() =>
      expect(asked.filter((a) => a.path === '/procedures/file').at(-1)!.body).toMatchObject({ id: P1, rev: 3 }),
    );
    await person.click(screen.getByText('Earlier versions'));
    await person.click(await screen.findByRole('button', { name: 'Let version 2 hold again' }));
    await waitFor(() =>
      expect(asked.find((a) => a.path === `/procedures/${P1}/take-back`)!.body).toEqual({ rev: 3, version: 2 }),
    );
    await screen.findByText(/version 4 · A\. Lund/);
  });
});
