import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { JobView, ReadingView, RecordView } from '@just-balance/contract';
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { type ReactNode, useState } from 'react';
import 'fake-indexeddb/auto';
import { HandEntry } from '../src/capture/HandEntry.tsx';
import { outbox } from '../src/data/queue.ts';
import { HandRecord } from '../src/job/record/HandRecord.tsx';
import { usePhase, WhichState } from '../src/job/record/WhichState.tsx';
import { VehicleEditor } from '../src/stations/complaint/VehicleEditor.tsx';
import { usePreferences } from '../src/ui/preferences.tsx';
import { EMPTY_JOB, open, openSignedIn, refused, SIGNED_IN, said, server } from './page.tsx';

beforeEach(async () => {
  localStorage.clear();
  sessionStorage.clear();
  await outbox.useAccount('a1');
});
afterEach(cleanup);

const VEHICLE = {
  id: 'v1',
  rev: 3,
  label: 'Test car',
  fuel: 'petrol',
  metering: 'maf',
  banks: 1,
  displacementL: 2,
  cylinders: 4,
  airflowCurve: [
    { volts: 1, gps: 2 },
    { volts: 2, gps: 8 },
  ],
};
const JOB = { ...EMPTY_JOB, rev: 1, adapter: null, vehicle: VEHICLE } as unknown as JobView;
const openWithSwitch = (what: ReactNode) =>
  openSignedIn(
    <>
      <Switch />
      {what}
    </>,
  );
const input = (name: RegExp | string) => screen.getByLabelText(name) as HTMLInputElement;

/** With the switch of the page's head beside it. */
function Switch() {
  const { units, setUnits } = usePreferences();
  return (
    <button type="button" onClick={() => setUnits(units === 'metric' ? 'us' : 'metric')}>
      switch units
    </button>
  );
}

describe('a reading by hand', () => {
  const routes = {
    ...SIGNED_IN,
    'POST /jobs/j1/readings': (a: { body: { id: string } }) => ({ status: 201, body: { id: a.body.id } }),
    'POST /jobs/j1/tests': (a: { body: { id: string } }) => ({ status: 201, body: { id: a.body.id } }),
    'PUT /jobs/j1/readings/r1': { body: { id: 'r1' } },
  };
  const keep = (person: Awaited<ReturnType<typeof openSignedIn>>['person']) =>
    person.click(screen.getByRole('button', { name: 'Keep this reading' }));

  test('everything a tool shows: units of its own, gauge pressure, volts by the curve, sensors one by one, ethanol', async () => {
    const asked = server(routes);
    const { person } = await openWithSwitch(
      <HandEntry job={{ ...JOB, ambient: { baroKPa: 98 } } as JobView} phase="before" at="idle" close={() => {}} />,
    );
    await screen.findByText('Enter by hand');
    await person.type(input('Engine speed, rpm'), '720');
    await person.selectOptions(input('Airflow (MAF): the unit it is shown in'), 'V');
    await person.type(input('Airflow (MAF), V'), '1.5');
    await person.selectOptions(input('Manifold (MAP): the unit it is shown in'), 'hPa');
    await person.selectOptions(input('Manifold pressure is counted'), 'gauge');
    await person.type(input('Manifold (MAP), hPa'), '-640');
    await person.type(input('Lambda (wide-band)'), '0,998');
    await person.type(input('Upstream sensor, V'), '0.44');
    await person.selectOptions(input('Relative throttle: its unit'), '%');
    await person.type(input('Relative throttle, %'), '2.4');
    await person.type(input('Supply (battery), V'), '14.1');
    await person.type(input('Ethanol in the fuel, %'), '21');
    await person.selectOptions(input('Fuel control'), 'closed');
    const first = within(screen.getByRole('group', { name: 'Bank 1, sensor 1, before the catalyst' }));
    await person.type(first.getByLabelText('Crossings in 10 s'), '7');
    await person.type(first.getByLabelText('Lean to rich, ms'), '60');
    await keep(person);
    await waitFor(() => expect(asked.filter((a) => a.method === 'POST')).toHaveLength(2));
    const reading = asked.find((a) => a.path.endsWith('/readings'))!.body.reading;
    // Half way between 2 and 8 g/s in the logarithm is 4; −640 hPa under 98 kPa are 34 kPa.
    expect(reading).toMatchObject({
      at: 'idle',
      rpm: 720,
      mafGps: 4,
      mapKPa: 34,
      batteryV: 14.1,
      relativeThrottlePct: 2.4,
      lambda: { bank1: 0.998 },
      o2V: { bank1: 0.44 },
      loop: 'closed',
      o2: { bank1s1: { crossingsPer10s: 7, leanToRichMs: 60 } },
    });
    expect(asked.find((a) => a.path.endsWith('/tests'))!.body.test).toEqual({
      id: 'fuel-ethanol',
      values: { pct: 21 },
    });
  });

  test('the page goes on to the next point while the answer is waited for: nothing of this reading is in the next one', async () => {
    sessionStorage.clear();
    let answer = () => {};
    const waited = new Promise<void>((resolve) => {
      answer = resolve;
    });
    server(routes);
    const real = globalThis.fetch;
    globalThis.fetch = (async (...a: Parameters<typeof fetch>) => {
      if (a[1]?.method === 'POST') await waited;
      return real(...a);
    }) as never;
    function Page() {
      const [at, setAt] = useState('idle');
      const [open, setOpen] = useState(true);
      return (
        <>
          <button type="button" onClick={() => setAt('hold-2500')}>
            next point
          </button>
          <button type="button" onClick={() => setOpen(true)}>
            again
          </button>
          {open && <HandEntry job={JOB} phase="before" at={at} close={() => setOpen(false)} />}
        </>
      );
    }
    const { person } = await openWithSwitch(<Page />);
    await screen.findByText('Enter by hand');
    await person.type(input('Engine speed, rpm'), '730');
    await keep(person);
    await person.click(screen.getByText('next point'));
    answer();
    await waitFor(() => expect(screen.queryByText('Enter by hand')).toBeNull());
    await person.click(screen.getByText('again'));
    expect([input('Engine speed, rpm').value, input('Operating point').value]).toEqual(['', 'hold-2500']);
  });

  test('volts without a curve are kept as volts, and come back as volts', async () => {
    const asked = server(routes);
    const { airflowCurve: _, ...vehicle } = JOB.vehicle;
    const bare = { ...JOB, vehicle } as JobView;
    const { person } = await openWithSwitch(<HandEntry job={bare} phase="before" at="idle" close={() => {}} />);
    await screen.findByText('Enter by hand');
    await person.selectOptions(input('Airflow (MAF): the unit it is shown in'), 'V');
    await person.type(input('Airflow (MAF), V'), '9');
    await keep(person);
    await waitFor(() => expect(said(input('Airflow (MAF), V'))).toMatch(/9 V cannot be: 0 to 6 V/));
    await person.clear(input('Airflow (MAF), V'));
    await person.type(input('Airflow (MAF), V'), '1,31');
    await keep(person);
    await waitFor(() => expect(asked.filter((a) => a.method === 'POST')).toHaveLength(1));
    const { reading } = asked.find((a) => a.method === 'POST')!.body;
    expect([reading.mafV, reading.mafGps]).toEqual([1.31, undefined]);
    cleanup();
    const kept = { id: 'r1', rev: 1, phase: 'before', source: 'hand', reading: { at: 'idle', mafV: 1.31 } };
    await openWithSwitch(
      <HandEntry job={bare} phase="before" at="idle" reading={kept as unknown as ReadingView} close={() => {}} />,
    );
    expect((await screen.findByLabelText<HTMLInputElement>('Airflow (MAF), V')).value).toBe('1.31');
    await screen.findByText(/Kept as volts/);
  });

  test('nothing entered is refused; mg a stroke without a speed says what is missing', async () => {
    const asked = server(routes);
    const { person } = await openWithSwitch(<HandEntry job={JOB} phase="before" at="idle" close={() => {}} />);
    await screen.findByText('Enter by hand');
    // Only a pressure in the manifold may be counted from the air outside.
    expect(screen.getAllByLabelText('Manifold pressure is counted')).toHaveLength(1);
    await keep(person);
    await waitFor(() => expect(said(input(/^Engine speed, rpm/))).toMatch(/nothing entered yet/));
    await person.selectOptions(input('Airflow (MAF): the unit it is shown in'), 'mg/stroke');
    await person.type(input('Airflow (MAF), mg/stroke'), '210');
    await keep(person);
    await waitFor(() => expect(said(input(/^Airflow \(MAF\), mg\/stroke/))).toMatch(/needs the engine speed/));
    expect(asked.some((a) => a.method === 'POST')).toBe(false);
    await person.type(input(/^Engine speed, rpm/), '800');
    await keep(person);
    await waitFor(() => expect(asked.some((a) => a.method === 'POST')).toBe(true));
    // 210 mg · 800/min · 4 cylinders / 2 = 5.6 g/s.
    expect(asked.find((a) => a.method === 'POST')!.body.reading.mafGps).toBeCloseTo(5.6, 3);
  });

  test('a switch in the middle of typing converts what was typed, and back again brings it back', async () => {
    server(routes);
    const { person } = await openWithSwitch(<HandEntry job={JOB} phase="before" at="idle" close={() => {}} />);
    await screen.findByText('Enter by hand');
    await person.type(input('Coolant (ECT), °C'), '91.3');
    await person.click(screen.getByText('switch units'));
    // 91.3 °C are 196.34 °F.
    await waitFor(() => expect(Number(input('Coolant (ECT), °F').value)).toBeCloseTo(196.34, 2));
    await person.click(screen.getByText('switch units'));
    await waitFor(() => expect(input('Coolant (ECT), °C').value).toBe('91.3'));
  });

  test('a kept one is put right with its revision; what the form does not show of it stays', async () => {
    const asked = server(routes);
    const kept = {
      id: 'r1',
      rev: 2,
      phase: 'before',
      source: 'hand',
      reading: { at: 'idle', rpm: 700, trims: { bank1: { stft: 1, ltft: 9, sd: 0.7, n: 30 } } },
    } as unknown as ReadingView;
    const { person } = await openWithSwitch(
      <HandEntry job={JOB} phase="before" at="idle" reading={kept} close={() => {}} />,
    );
    await screen.findByText('Put the reading right');
    expect(input('Engine speed, rpm').value).toBe('700');
    const long = input('Long-term trim (LTFT), %');
    await person.clear(long);
    await person.type(long, '6');
    await keep(person);
    await waitFor(() => expect(asked.some((a) => a.method === 'PUT')).toBe(true));
    expect(asked.find((a) => a.method === 'PUT')!.body).toMatchObject({
      rev: 2,
      reading: { at: 'idle', rpm: 700, trims: { bank1: { stft: 1, ltft: 6, sd: 0.7, n: 30 } } },
    });
  });
});

describe('a record by hand', () => {
  const routes = {
    'POST /jobs/j1/records/by-hand': (a: { body: { id: string } }) => ({ status: 201, body: { id: a.body.id } }),
    'PUT /jobs/j1/records/c1': { body: { id: 'c1' } },
  };
  const keep = (person: ReturnType<typeof open>['person']) =>
    person.click(screen.getByRole('button', { name: 'Keep this record' }));

  test('codes by their form, lamp, monitors, counters and the freeze frame in the units shown', async () => {
    const asked = server(routes);
    localStorage.setItem('jb-units', 'us');
    const { person } = open(<HandRecord job={JOB} phase="before" done={() => {}} />);
    await person.type(input('Stored codes'), 'p0171, FOO');
    await keep(person);
    await waitFor(() => expect(said(input(/^Stored codes/))).toMatch(/“FOO” is no code/));
    await person.clear(input(/^Stored codes/));
    await person.type(input(/^Stored codes/), 'p0171 P0300');
    await person.type(input('Permanent codes'), 'P0171');
    await person.selectOptions(input('The lamp is'), 'on');
    await person.selectOptions(input('Catalyst'), 'incomplete');
    await person.selectOptions(input('Misfire'), 'complete');
    await person.type(input('The code it was stored with'), 'p0171');
    await person.type(input('Coolant, °F'), '194');
    await person.type(input('Long-term trim, bank 1, %'), '14,1');
    await person.type(input('Warm-ups since clear'), '12');
    await person.type(input('Distance since clear, mi'), '100');
    await keep(person);
    await waitFor(() => expect(asked.some((a) => a.method === 'POST')).toBe(true));
    expect(asked.find((a) => a.method === 'POST')!.body).toMatchObject({
      stored: ['P0171', 'P0300'],
      permanent: ['P0171'],
      lampOn: true,
      monitors: { catalyst: 'incomplete', misfire: 'complete' },
      freezeFrame: [
        { name: 'freezeDtc', value: 'P0171', unit: '' },
        { name: 'ect', value: 90, unit: '°C' },
        { name: 'ltft1', value: 14.1, unit: '%' },
      ],
      warmupsSinceClear: 12,
      distanceSinceClearKm: 160.934,
    });
  });

  test('the freeze frame asks for what the standard stores, each in the reader’s unit, and gives each back by its name', async () => {
    const asked = server(routes);
    localStorage.setItem('jb-units', 'us');
    const { person } = open(<HandRecord job={JOB} phase="before" done={() => {}} />);
    const typedIn: [label: string, text: string, name: string, unit: string, metric: number][] = [
      ['Engine speed, rpm', '2500', 'rpm', 'rpm', 2500],
      ['Road speed, mph', '50', 'vss', 'km/h', 80.5],
      ['Calculated load, %', '33.3', 'load', '%', 33.3],
      ['Intake air, °F', '68', 'iat', '°C', 20],
      ['Throttle, absolute, %', '17.6', 'tp', '%', 17.6],
      ['Short-term trim, bank 1, %', '-3.1', 'stft1', '%', -3.1],
    ];
    for (const [label, text] of typedIn) await person.type(input(label), text);
    await keep(person);
    await waitFor(() => expect(asked.some((a) => a.method === 'POST')).toBe(true));
    const { freezeFrame } = asked.find((a) => a.method === 'POST')!.body;
    expect(freezeFrame.map((f: { name: string; unit: string }) => [f.name, f.unit])).toEqual(
      typedIn.map(([, , name, unit]) => [name, unit]),
    );
    for (const [i, [, , , , metric]] of typedIn.entries()) expect(freezeFrame[i].value).toBeCloseTo(metric, 0);
  });

  test('put right: as it stood, whole, with its revision', async () => {
    const asked = server(routes);
    const record = {
      id: 'c1',
      rev: 4,
      phase: 'after',
      source: 'hand',
      codes: [{ code: 'P0420', state: 'pending', kind: 'standard', text: '' }],
      lampOn: false,
      monitors: { lampOn: false, codeCount: 0, ignition: 'spark', monitors: [{ id: 'evap', state: 'incomplete' }] },
      freezeFrame: [{ name: 'sparkAdv', value: 11, unit: '°' }],
      counters: { minutesSinceClear: 30, lampDistanceKm: null },
      warmupsSinceClear: 3,
      distanceSinceClearKm: null,
    } as unknown as RecordView;
    const { person } = open(<HandRecord job={JOB} record={record} phase="before" done={() => {}} />);
    expect(input('Pending codes').value).toBe('P0420');
    await person.selectOptions(input('EVAP'), 'complete');
    await keep(person);
    await waitFor(() => expect(asked.some((a) => a.method === 'PUT')).toBe(true));
    expect(asked.find((a) => a.method === 'PUT')!.body).toMatchObject({
      rev: 4,
      phase: 'after',
      pending: ['P0420'],
      monitors: { evap: 'complete' },
      freezeFrame: [{ name: 'sparkAdv', value: 11, unit: '°' }],
      minutesSinceClear: 30,
      warmupsSinceClear: 3,
    });
  });
});

describe('the vehicle’s card', () => {
  test('whole, in the units shown; what is emptied is gone, what it has no field for stays', async () => {
    const asked = server({ ...SIGNED_IN, 'PUT /jobs/j1/vehicle': { body: VEHICLE } });
    localStorage.setItem('jb-units', 'us');
    const vehicle = { ...VEHICLE, note: 'red', limits: { fuelPressureKPa: 380 }, oddity: 1 };
    let closed = false;
    const { person } = open(
      <VehicleEditor
        job={{ ...JOB, vehicle } as unknown as JobView}
        close={() => {
          closed = true;
        }}
      />,
    );
    await person.clear(input('Note (colour, body)'));
    await person.selectOptions(input('Charged by'), 'turbo');
    await person.type(input('Ethanol it is made for, %'), '85');
    expect(Number(input('Fuel pressure at idle, psi').value)).toBeCloseTo(55.1, 1);
    await person.type(input('Tank holds, gal'), '13.2');
    await person.type(input('Relative throttle at hot idle, at most'), '2.4');
    await person.selectOptions(input('in'), '%');
    await person.type(input('Boost at full load, psi'), '14.5');
    await person.selectOptions(input('Oxygen sensors, bank 1'), '2');
    await person.click(input('The first of each bank is wide-band'));
    await person.click(screen.getByRole('button', { name: 'Keep the card' }));
    await waitFor(() => expect(closed).toBe(true));
    const { rev, vehicle: sent } = asked.find((a) => a.method === 'PUT')!.body;
    expect(rev).toBe(3);
    expect(sent).toMatchObject({
      induction: 'turbo',
      ethanolPctCalibrated: 85,
      limits: { relativeThrottleIdle: 2.4, relativeThrottleUnit: '%' },
      oddity: 1,
      airflowCurve: VEHICLE.airflowCurve,
      sensors: [
        { bank: 1, sensor: 1, wide: true },
        { bank: 1, sensor: 2, wide: false },
      ],
    });
    expect(sent).not.toHaveProperty('note');
    expect(sent.tankL).toBeCloseTo(49.97, 1);
    expect(sent.boostTarget.kPa).toBeCloseTo(99.97, 1);
    expect(sent.limits.fuelPressureKPa).toBeCloseTo(380, 0);
  });

  test('somebody else was quicker: their changes come in, one of both is asked about, only the rest is sent', async () => {
    let theirs = { ...VEHICLE, rev: 5, displacementL: 3, cylinders: 6, odometerKm: 98_001 };
    const asked = server({
      ...SIGNED_IN,
      'PUT /jobs/j1/vehicle': (a) =>
        a.body.rev === theirs.rev
          ? { body: { ...a.body.vehicle, id: 'v1', rev: theirs.rev + 1 } }
          : refused(409, 'the vehicle was changed by someone else meanwhile', { current: theirs }),
    });
    localStorage.setItem('jb-units', 'us');
    let closed = 0;
    const close = () => void closed++;
    const { person } = open(<VehicleEditor job={{ ...JOB, vehicle: VEHICLE } as unknown as JobView} close={close} />);
    await person.type(input(/plate/), 'kb 44');
    await person.click(screen.getByRole('button', { name: 'Keep the card' }));
    await waitFor(() => expect(closed).toBe(1));
    const sent = asked.filter((a) => a.method === 'PUT');
    expect(sent.map((a) => a.body.rev)).toEqual([3, 5]);
    // The kilometres as they were typed there, not as miles that were rounded here.
    const { id: _, rev: __, ...card } = theirs;
    expect(sent.at(-1)!.body.vehicle).toMatchObject({ ...card, plate: 'KB 44' });
    cleanup();

    theirs = { ...theirs, rev: 7, cylinders: 8 };
    const again = open(<VehicleEditor job={{ ...JOB, vehicle: VEHICLE } as unknown as JobView} close={close} />);
    await again.person.clear(input('Cylinders'));
    await again.person.type(input('Cylinders'), '5');
    await again.person.click(screen.getByRole('button', { name: 'Keep the card' }));
    const clash = (await screen.findByText(/^Somebody else has changed this meanwhile\. Which/)).closest('div')!;
    expect(clash.textContent).toMatch(/Cylinders: yours “5”, theirs “8”/);
    expect(input('Displacement, L').value).toBe('3');
    await again.person.click(screen.getByRole('button', { name: 'Take theirs' }));
    expect(input('Cylinders').value).toBe('8');
    await again.person.click(screen.getByRole('button', { name: 'Keep the card' }));
    await waitFor(() => expect(closed).toBe(2));
    expect(asked.filter((a) => a.method === 'PUT').at(-1)!.body).toMatchObject({ rev: 7, vehicle: { cylinders: 8 } });
  });

  test('Escape loses nothing: what was half typed is there again, over what stands by then; Cancel drops it', async () => {
    server(SIGNED_IN);
    const card = (more: object = {}) => ({ ...JOB, vehicle: { ...VEHICLE, ...more } }) as unknown as JobView;
    const first = open(<VehicleEditor job={card()} close={() => {}} />);
    await first.person.type(input(/plate/), 'KB 4');
    cleanup();
    // Meanwhile somebody else has changed the card.
    const second = open(<VehicleEditor job={card({ rev: 4, cylinders: 6 })} close={() => {}} />);
    await waitFor(() => expect(input(/plate/).value).toBe('KB 4'));
    await waitFor(() => expect(input('Cylinders').value).toBe('6'));
    await second.person.click(screen.getByRole('button', { name: 'Cancel' }));
    cleanup();
    open(<VehicleEditor job={card()} close={() => {}} />);
    expect(input(/plate/).value).toBe('');
    cleanup();
    const reading = await openWithSwitch(<HandEntry job={JOB} phase="before" at="idle" close={() => {}} />);
    await screen.findByText('Enter by hand');
    await reading.person.selectOptions(input('Airflow (MAF): the unit it is shown in'), 'kg/h');
    await reading.person.type(input('Airflow (MAF), kg/h'), '12.5');
    cleanup();
    await openWithSwitch(<HandEntry job={JOB} phase="before" at="idle" close={() => {}} />);
    await screen.findByText('Enter by hand');
    // With the unit it was typed in.
    await waitFor(() => expect(input('Airflow (MAF), kg/h').value).toBe('12.5'));
  });

  test('asked of the vehicle: what it says is filled in, what it does not say is said', async () => {
    server({
      ...SIGNED_IN,
      'POST /adapters/identify': {
        body: {
          vin: null,
          fuel: 'petrol',
          fuelName: 'petrol',
          standard: 'EOBD',
          sensors: [
            { bank: 1, sensor: 1, wide: false },
            { bank: 2, sensor: 1, wide: false },
          ],
          banks: 2,
          metering: 'both',
        },
      },
    });
    const { person } = open(
      <VehicleEditor job={{ ...JOB, adapter: 'sim:1' } as unknown as JobView} close={() => {}} />,
    );
    await person.click(screen.getByRole('button', { name: 'Read from the vehicle' }));
    await screen.findByText(/Read from the vehicle: fuel \(petrol\), oxygen sensors, two banks.*no VIN/);
    expect(input('Banks').value).toBe('2');
    expect(input('Air is metered by').value).toBe('both');
    expect(input('Oxygen sensors, bank 2').value).toBe('1');
  });
});

describe('of which state of the car it is', () => {
  const Now = ({ job }: { job: JobView }) => (
    <>
      <WhichState job={job} />
      <output aria-label="Phase">{usePhase(job)}</output>
    </>
  );
  const repair = { id: 'p1', rev: 1, at: '2026-05-04T08:00:00Z', by: 'x', undone: false, text: 'Duct refitted' };
  const phase = () => screen.getByLabelText('Phase').textContent;
  test('as it came in until something was repaired; then after it, unless a person says else', async () => {
    open(<Now job={JOB} />);
    expect(phase()).toBe('before');
    expect(screen.queryByRole('group', { name: 'Which state of the car' })).toBeNull();
    cleanup();
    open(<Now job={{ ...JOB, repairs: [{ ...repair, undone: true }] } as unknown as JobView} />);
    expect(phase()).toBe('before');
    cleanup();
    const { person } = open(<Now job={{ ...JOB, repairs: [repair] } as unknown as JobView} />);
    expect(phase()).toBe('after');
    await person.click(screen.getByRole('button', { name: 'As it came in' }));
    expect(phase()).toBe('before');
    await screen.findByText(/kept as the car was before the repair/);
    await person.click(screen.getByRole('button', { name: 'After the repair' }));
    expect(phase()).toBe('after');
  });
});
