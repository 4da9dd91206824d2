import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { JobView } from '@just-balance/contract';
import { TEST_BY_ID } from '@just-balance/core/catalogue';
import { act, cleanup, screen, waitFor, within } from '@testing-library/react';
import type { JobLive } from '../src/data/live.tsx';
import { outbox } from '../src/data/queue.ts';
import { judge } from '../src/job/judgement/diagnosis.worker.ts';
import { BalanceStation } from '../src/stations/balance/BalanceStation.tsx';
import { OutcomePanel } from '../src/stations/balance/OutcomePanel.tsx';
import { announceUndo } from '../src/stations/balance/UndoBar.tsx';
import { EMPTY_JOB, LEAD, openSignedIn, SIGNED_IN, server } from './page.tsx';
import { workHere } from './workHere.ts';

workHere({ 'diagnosis.worker.ts': judge });
beforeEach(async () => {
  localStorage.clear();
  await outbox.useAccount('a1');
});
afterEach(cleanup);

const live = { values: {}, traces: new Map(), link: null, capture: null } as unknown as JobLive;
const VEHICLE = {
  ...{ id: 'v1', rev: 1, label: 'Marl 2.0', year: 2012, fuel: 'petrol', metering: 'maf' },
  ...{ displacementL: 2, cylinders: 4, banks: 1 },
};
const reading = (at: string, totalPct: number, more: object = {}, phase = 'before') => ({
  ...{ id: `${phase} ${at}`, rev: 1, at: '2026-05-04T08:30:00Z', by: 'x', phase, source: 'hand' },
  ...{ undone: false, doubtful: null, captureId: null },
  reading: { at, trims: { bank1: { stft: 0, ltft: totalPct } }, closedLoop: true, ectC: 90, ...more },
});
const job = (over: object = {}): JobView =>
  ({
    ...EMPTY_JOB,
    rev: 3,
    status: 'open',
    openedAt: '2026-05-04T08:00:00Z',
    openedBy: 'A. Lund',
    vehicle: VEHICLE,
    complaint: { story: 'Lamp came on', symptoms: ['lamp-only'], recentWork: [] },
    adapter: null,
    ...over,
  }) as unknown as JobView;
/** Lean at idle, right under load: what a leak after the throttle does. */
const LEAK = [
  reading('idle', 21, { rpm: 760, mafGps: 2.9, mapKPa: 36 }),
  reading('hold-2500', 6, { rpm: 2500, mafGps: 9.4 }),
];
const station = (j: JobView, path?: string) => openSignedIn(<BalanceStation job={j} live={live} />, path);
const fits = () => within(screen.getByRole('region', { name: 'What fits' }));
const trims = () => within(screen.getByRole('region', { name: 'Trim at each airflow' }));
const card = () => screen.getByRole('heading', { level: 1 });

describe('what fits', () => {
  test('nothing is weighed before there is a reading; a look needs none', async () => {
    const asked = server({ ...SIGNED_IN, 'POST /jobs/j1/tests': { status: 201, body: { id: 't', rev: 1 } } });
    const { person } = station(job());
    await screen.findByText('Readings first');
    await person.type(await screen.findByLabelText('Find a test'), 'visual intake');
    await person.click((await screen.findAllByRole('listitem'))[0]!.querySelector('button')!);
    const record = within(await screen.findByRole('region', { name: /^Record: / }));
    await person.click(record.getByRole('button', { name: 'Could not tell' }));
    await waitFor(() => expect(asked.some((a) => a.path === '/jobs/j1/tests')).toBe(true));
    expect(asked.find((a) => a.method === 'POST')!.body.test).toMatchObject({ outcome: 'inconclusive' });
  });

  test('a leak leads; each cause has its chance, its size and its reasons; one chosen is drawn and explained', async () => {
    server(SIGNED_IN);
    const { person } = station(job({ readings: LEAK }));
    await screen.findByRole('region', { name: 'What fits' });
    const causes = fits().getAllByRole('button');
    expect(causes[0]!.textContent).toMatch(/leak/i);
    expect(causes[0]!.getAttribute('aria-pressed')).toBe('true');
    expect(causes[0]!.textContent).toMatch(/g\/s.*\d+ for, \d+ against/);
    expect(trims().getByRole('heading', { level: 2 }).textContent).toBe('Lean ▶, most at low airflow');
    // Each cause is named or counted, once, however many are named.
    const counted = () => {
      const [, others] = /(\d+) others/.exec(screen.getByRole('region', { name: 'What fits' }).textContent!)!;
      return (
        fits().getAllByRole('button', { pressed: true }).length +
        fits().getAllByRole('button', { pressed: false }).length +
        Number(others)
      );
    };
    const all = counted();
    await person.click(fits().getByRole('button', { name: /show/ }));
    expect(fits().getAllByRole('button').length).toBeGreaterThan(causes.length);
    expect(counted()).toBe(all);
    await person.click(fits().getByRole('button', { name: /fewer/ }));
    expect(counted()).toBe(all);
    // A typed figure keeps its unit beside it, in the figure face.
    const inFace = [...document.querySelectorAll('li > span > .figure')].map((f) => f.textContent!);
    expect(inFace.some((f) => /^[\d.–]+ (g\/s|mm)$/.test(f))).toBe(true);
    const second = causes[1]!.textContent!.match(/^[^\d(]+/)![0].slice(0, 12);
    await person.click(causes[1]!);
    expect(causes[1]!.getAttribute('aria-pressed')).toBe('true');
    expect(document.body.textContent).toContain(`dotted: ${second.charAt(0).toLowerCase()}`);
  });

  test('what moved since the judgement before stands beside each chance', async () => {
    server(SIGNED_IN);
    const output = { causes: [{ fault: 'vac-leak', probability: 0.02 }] };
    station(job({ readings: LEAK, diagnoses: [{ id: 'd', at: '2026-05-04T09:00:00Z', coreVersion: 'x', output }] }));
    await screen.findByRole('region', { name: 'What fits' });
    expect(
      fits().getAllByText(/^was$/).length + (fits().getAllByRole('button')[0]!.textContent!.match(/was/g) ?? []).length,
    ).toBeGreaterThan(0);
    expect(document.body.textContent).toMatch(/Weighed here just now; the judgement kept with the job is of 4 May/);
  });

  test('the next test is named with its minutes; all tests are found, and another one taken', async () => {
    server(SIGNED_IN);
    const { person } = station(job({ readings: LEAK }));
    await screen.findByRole('region', { name: 'What fits' });
    expect(document.body.textContent).toMatch(/Next test · \d+ min/);
    await person.click(screen.getByRole('button', { name: 'All tests' }));
    const gauge = await screen.findByRole('button', { name: /Vacuum gauge/ });
    await person.click(gauge);
    expect(screen.getByRole('region', { name: 'Record: Vacuum gauge' })).toBeTruthy();
    expect(card().textContent).toBe('Vacuum gauge');
    expect(document.body.textContent).toMatch(/Chosen test · \d+ min/);
    // Let go again, it is the one that was said to come next.
    await person.click(screen.getByRole('button', { name: 'Not this one' }));
    expect(card().textContent).not.toBe('Vacuum gauge');
  });

  test('a practice car without help is not weighed for anybody', async () => {
    server({ ...SIGNED_IN, 'GET /practice/attempts': { body: [] } });
    station(job({ readings: LEAK, practice: true }));
    await screen.findByText('Without help: weigh it yourself');
    expect(screen.queryByRole('region', { name: 'What fits' })).toBeNull();
    expect(screen.getByText('Measured beside expected')).toBeTruthy();
  });

  test('a diesel has no trims to draw', async () => {
    server(SIGNED_IN);
    const vehicle = { ...VEHICLE, fuel: 'diesel', induction: 'turbo' };
    station(job({ vehicle, readings: [reading('idle', 0, { trims: undefined, mafGps: 8, mapKPa: 101, rpm: 800 })] }));
    await screen.findByRole('region', { name: 'What fits' });
    expect(screen.queryByRole('region', { name: 'Trim at each airflow' })).toBeNull();
    expect(document.body.textContent).not.toMatch(/Lean ▶/);
  });
});

describe('after the repair', () => {
  const repaired = {
    readings: [...LEAK, reading('idle', 2, { rpm: 740, mafGps: 3.4 }, 'after')],
    repairs: [
      {
        ...{ id: 'r', rev: 1, at: '2026-05-04T08:45:00Z', by: 'x', undone: false, text: 'Hose replaced' },
        ...{ fault: 'vac-leak', part: null, adaptation: 'relearn', guessed: false },
      },
    ],
  };
  test('the readings after it are judged by themselves, and say so', async () => {
    server(SIGNED_IN);
    station(job(repaired), '/?after');
    await screen.findByText(/Judged: the readings after the repair/);
    await screen.findByRole('region', { name: 'What fits' });
    expect(fits().getAllByRole('button')[0]!.textContent).toMatch(/All in order/);
    expect(screen.getByRole('link', { name: 'The first readings' })).toBeTruthy();
  });
  test('without that word it is the first ones', async () => {
    server(SIGNED_IN);
    station(job(repaired));
    await screen.findByRole('region', { name: 'What fits' });
    expect(screen.queryByText(/Judged: the readings after the repair/)).toBeNull();
    expect(fits().getAllByRole('button')[0]!.textContent).toMatch(/leak/i);
  });
});

describe('what if', () => {
  test('another size reads otherwise; other readings rank otherwise; nothing of it is kept', async () => {
    const asked = server(SIGNED_IN);
    const { person } = station(job({ readings: LEAK }));
    await screen.findByRole('region', { name: 'What fits' });
    const slider = (await trims().findByRole('slider')) as HTMLInputElement;
    await person.click(screen.getByRole('button', { name: 'What if…' }));
    const play = within(await screen.findByRole('region', { name: 'What if' }));
    expect(slider.getAttribute('aria-valuetext')).toMatch(/g\/s/);
    const idle = () => play.getByRole('row', { name: /^Idle/ }).textContent!;
    await waitFor(() => expect(idle()).toMatch(/measured \+21\.0/));
    const before = idle();
    const { fireEvent } = await import('@testing-library/react');
    fireEvent.change(slider, { target: { value: '190' } });
    await waitFor(() => expect(idle()).not.toBe(before));
    // The dotted line moves with it, and back again.
    const drawn = () => trims().getByRole('row', { name: /^Idle/ }).textContent!;
    await waitFor(() => expect(drawn()).not.toMatch(/\+22\.0 %/));
    await person.click(trims().getByRole('button', { name: 'As judged' }));
    await waitFor(() => expect(idle()).toBe(before));
    expect(drawn()).toMatch(/\+22\.0 %/);
    expect(trims().queryByRole('button', { name: 'As judged' })).toBeNull();
    const other = play.getByLabelText('Idle, %') as HTMLInputElement;
    await person.clear(other);
    await person.type(other, '0');
    // Right at idle, the leak leads no more.
    const ranking = within((await play.findByText('Would be')).closest('table')!);
    await waitFor(() => expect(ranking.getAllByRole('row')[1]!.textContent).not.toMatch(/leak/i));
    // What leads as it was measured: beside what it would be stands the chance it has in the list.
    const leads = fits().getAllByRole('button')[0]!.textContent!;
    for (const r of ranking.getAllByRole('row').slice(1)) {
      const [name, , is] = within(r)
        .getAllByRole('cell')
        .map((c) => c.textContent!);
      if (leads.includes(name!)) expect(leads).toContain(is!);
      else expect(leads).not.toMatch(new RegExp(`${name}.*${is}`));
    }
    await person.click(play.getByRole('button', { name: 'Back to what was measured' }));
    await waitFor(() => expect(play.queryByText('Would be')).toBeNull());
    expect(asked.filter((a) => a.method !== 'GET')).toEqual([]);
  });
});

test('what was looked at stands below, one test as well as ten', async () => {
  server(SIGNED_IN);
  const one = {
    ...{ id: 't1', rev: 1, at: '2026-05-04T09:00:00Z', undone: false, by: 'A. Lund', phase: 'before' },
    test: { id: 'smoke', outcome: 'none' },
  };
  station(job({ readings: LEAK, tests: [one] }));
  const row = await screen.findByRole('row', { name: /as it came in/ });
  expect(within(row).getByRole('button', { name: 'Undo' })).toBeTruthy();
  cleanup();
  station(job({ readings: LEAK }));
  await screen.findByRole('region', { name: 'What fits' });
  expect(screen.queryByRole('row', { name: /as it came in/ })).toBeNull();
});

describe('a result is recorded', () => {
  const panel = (id: string, over: object = {}, more: object = {}) => {
    const asked = server({ ...SIGNED_IN, 'POST /jobs/j1/tests': { status: 201, body: { id: 't', rev: 1 } } });
    let recorded = 0;
    const page = openSignedIn(
      <OutcomePanel
        job={job(over)}
        row={TEST_BY_ID.get(id)!}
        likelyBank={2}
        recorded={() => {
          recorded++;
        }}
        {...more}
      />,
    );
    const sent = async () => {
      await waitFor(() => expect(recorded).toBe(1));
      return asked.find((a) => a.method === 'POST')!.body;
    };
    return { ...page, asked, sent, recorded: () => recorded };
  };

  test('the outcome is pressed, and that is all', async () => {
    const { person, sent } = panel('smoke-intake');
    await person.click(await screen.findByRole('button', { name: 'no smoke anywhere' }));
    expect(await sent()).toMatchObject({ phase: 'before', test: { id: 'smoke-intake', outcome: 'none' } });
  });

  test('several findings at once, those that cannot stand together put each other out', async () => {
    const { person, sent } = panel('smoke-intake');
    await person.click(await screen.findByRole('button', { name: 'More than one' }));
    const outcomes = screen.getAllByRole('button', { pressed: false }).slice(0, 3);
    expect((screen.getByRole('button', { name: 'Record' }) as HTMLButtonElement).disabled).toBe(true);
    await person.click(outcomes[0]!);
    await person.click(outcomes[1]!);
    expect(outcomes[0]!.getAttribute('aria-pressed')).toBe('false');
    await person.click(outcomes[2]!);
    await person.click(screen.getByRole('button', { name: 'Record these 2' }));
    expect((await sent()).test.outcome).toHaveLength(2);
  });

  test('a test of one bank names it; the likelier one is chosen already', async () => {
    const perBank = [...TEST_BY_ID.values()].find((t) => t.perBank && !t.measure && !t.reading)!;
    const { person, sent } = panel(perBank.id, { vehicle: { ...VEHICLE, banks: 2, cylinders: 6 } });
    expect((await screen.findByRole('button', { name: 'Bank 2' })).getAttribute('aria-pressed')).toBe('true');
    await person.click(screen.getByRole('button', { name: 'Bank 1' }));
    await person.click(screen.getByRole('button', { name: 'No access' }));
    expect((await sent()).test).toMatchObject({ bank: 1, outcome: 'not-accessible' });
  });

  test('figures are asked for in the units shown; an odd one is asked about and can be kept; words are refused', async () => {
    const { person, sent, recorded } = panel('fuel-pressure');
    const load = (await screen.findByLabelText(/^Under load, kPa/)) as HTMLInputElement;
    await person.click(screen.getByRole('button', { name: 'Record' }));
    expect(document.body.textContent).toMatch(/enter at least one figure/);
    await person.type(load, 'high');
    await person.click(screen.getByRole('button', { name: 'Record' }));
    expect(document.body.textContent).toMatch(/“high” is not a number/);
    await person.clear(load);
    await person.type(load, '2');
    await person.click(screen.getByRole('button', { name: 'Record' }));
    expect(document.body.textContent).toMatch(/is outside .* Right as it stands\?/);
    expect(recorded()).toBe(0);
    await person.click(screen.getByRole('button', { name: 'Keep it' }));
    expect((await sent()).test.values).toEqual({ loadKPa: 2 });
  });

  test('a part swapped in is named; a result after a repair says so', async () => {
    const repairs = [{ id: 'r', at: '2026-05-04T08:45:00Z', undone: false, fault: null, part: null }];
    const { person, sent } = panel('known-good-swap', { repairs }, { part: 'map-sensor' });
    await person.click(await screen.findByRole('button', { name: 'Before the repair' }));
    const [first] = screen.getByLabelText('Part that was swapped in').querySelectorAll('option');
    await person.selectOptions(screen.getByLabelText('Part that was swapped in'), first!.value);
    await person.click(screen.getByRole('button', { name: 'cured' }));
    expect(await sent()).toMatchObject({ phase: 'before', test: { part: first!.value, outcome: 'fixed' } });
  });

  test('cylinders are named where a test finds them', async () => {
    const { person, sent } = panel('injector-balance');
    await person.click(await screen.findByRole('button', { name: '3' }));
    await person.click(screen.getByRole('button', { name: '1' }));
    await person.click(screen.getByRole('button', { name: '3' }));
    await person.click(screen.getByRole('button', { name: '4' }));
    await person.click(screen.getByRole('button', { name: 'Could not tell' }));
    expect((await sent()).test.cylinders).toEqual([1, 4]);
  });

  test('what the server refuses is said, and nothing is recorded', async () => {
    const refused = { status: 409, body: { statusCode: 409, message: 'the job is closed' } };
    server({ ...SIGNED_IN, 'POST /jobs/j1/tests': refused });
    let recorded = 0;
    const { person } = openSignedIn(
      <OutcomePanel
        job={job()}
        row={TEST_BY_ID.get('smoke-intake')!}
        likelyBank={1}
        recorded={() => void recorded++}
      />,
    );
    await person.click(await screen.findByRole('button', { name: 'Could not tell' }));
    await screen.findByText('the job is closed');
    expect(recorded).toBe(0);
  });
});

describe('measured beside expected', () => {
  test('each figure beside its band, and what is outside is said; a better figure is kept with its source', async () => {
    const asked = server({ ...SIGNED_IN, 'POST /jobs/j1/known': { status: 201, body: { id: 'k', rev: 1 } } });
    const { person } = station(job({ readings: LEAK }));
    const rows = within(await screen.findByRole('region', { name: 'Measured beside expected' }));
    expect(rows.getByRole('row', { name: /^Airflow, idle/ }).textContent).toMatch(/2\.9.*physics/);
    await person.click(rows.getByRole('button', { name: 'Airflow, idle: enter a better figure' }));
    await person.type(rows.getByLabelText(/^From/), '3');
    await person.type(rows.getByLabelText(/^To/), '3.6');
    await person.type(rows.getByLabelText(/source|where/i), 'service data, group 3');
    await person.click(rows.getByRole('button', { name: /Keep/ }));
    await waitFor(() => expect(asked.some((a) => a.path === '/jobs/j1/known')).toBe(true));
    expect(asked.find((a) => a.path === '/jobs/j1/known')!.body).toMatchObject({
      at: 'idle',
      quantity: 'airflow',
      low: 3,
      high: 3.6,
      source: 'service data, group 3',
    });
  });
  test('a figure that was entered can be taken back by whoever sees it', async () => {
    const known = [
      {
        ...{ id: 'k1', rev: 2, layer: 'entered', at: 'idle', quantity: 'airflow', low: 3, high: 3.6 },
        ...{ source: 'service data', by: LEAD.name, undone: false },
      },
    ];
    const asked = server({ ...SIGNED_IN, 'PATCH /jobs/j1/known/k1': { body: { id: 'k1', rev: 3 } } });
    const { person } = station(job({ readings: LEAK, known }));
    await person.click(await screen.findByRole('button', { name: 'Take back' }));
    await waitFor(() => expect(asked.find((a) => a.method === 'PATCH')?.body).toEqual({ rev: 2, undone: true }));
  });
});

describe('the dock at the foot', () => {
  test('the next step stands in it, its caution in sight before and after it was understood', async () => {
    const asked = server({ ...SIGNED_IN, 'POST /jobs/j1/cautions': { status: 201, body: { id: 'c', rev: 1 } } });
    const { person } = station(job({ readings: LEAK }));
    await screen.findByRole('region', { name: 'What fits' });
    const dock = within(screen.getByRole('region', { name: 'Next step' }));
    expect(dock.getByRole('heading', { level: 1 })).toBeTruthy();
    const cautions = () => dock.getByRole('region', { name: 'Cautions' }).textContent!;
    const text = cautions().replace('Understood', '');
    await person.click(dock.getByRole('button', { name: 'Understood' }));
    await waitFor(() => expect(asked.filter((a) => a.method === 'POST').length).toBe(2));
    const ids = asked.filter((a) => a.method === 'POST').map((a) => a.body.caution);
    cleanup();
    const cautionsKnown = ids.map((caution, i) => ({ id: `c${i}`, caution, at: '', by: '' }));
    station(job({ readings: LEAK, cautions: cautionsKnown }));
    await screen.findByRole('region', { name: 'What fits' });
    const again = within(screen.getByRole('region', { name: 'Cautions' }));
    expect(screen.getByRole('region', { name: 'Cautions' }).textContent).toBe(text);
    expect(again.queryByRole('button')).toBeNull();
  });

  test('right after an answer a second tap of the same press is no answer to the next test', async () => {
    const asked = server({ ...SIGNED_IN, 'POST /jobs/j1/tests': { status: 201, body: { id: 't', rev: 1 } } });
    const { person } = station(job({ readings: LEAK }));
    await screen.findByRole('region', { name: 'What fits' });
    await person.click(screen.getByRole('button', { name: 'All tests' }));
    await person.click(await screen.findByRole('button', { name: /Vacuum gauge/ }));
    const inert = () => screen.getByRole('region', { name: /^Record/, hidden: true }).closest('[inert]');
    expect(inert()).not.toBeNull();
    await waitFor(() => expect(inert()).toBeNull(), { timeout: 2000 });
    await person.click(screen.getByRole('button', { name: 'Could not tell' }));
    await waitFor(() => expect(card().textContent).not.toBe('Vacuum gauge'));
    expect(inert()).not.toBeNull();
    expect(asked.filter((a) => a.path === '/jobs/j1/tests')).toHaveLength(1);
  });

  test('a result just recorded is taken back with one press, with its revision', async () => {
    const result = { id: 't1', rev: 1, at: '2026-05-04T08:30:00Z', by: 'x', undone: false, phase: 'before' };
    const tests = [{ ...result, test: { id: 'vacuum-gauge', outcome: 'inconclusive' } }];
    const undone = { ...tests[0], rev: 2, undone: true };
    const asked = server({ ...SIGNED_IN, 'PATCH /jobs/j1/tests/t1': { body: undone } });
    const { person } = station(job({ readings: LEAK, tests }));
    await screen.findByRole('region', { name: 'What fits' });
    act(() => announceUndo('t1'));
    const bar = within(await screen.findByText('Recorded.'));
    await person.click(bar.getByRole('button', { name: 'Undo' }));
    await waitFor(() => expect(asked.find((a) => a.method === 'PATCH')?.body).toEqual({ rev: 1, undone: true }));
    await waitFor(() => expect(screen.queryByText('Recorded.')).toBeNull());
  });

  test('what a figure is worked out with opens above the pictures, and shuts again', async () => {
    server(SIGNED_IN);
    const { person } = station(job({ readings: LEAK }));
    await screen.findByRole('region', { name: 'What fits' });
    await person.click(screen.getByRole('button', { name: 'All tests' }));
    await person.click(await screen.findByRole('button', { name: /Pull once to full load/ }));
    const opener = screen.getByRole('button', { name: 'Work it out' });
    await person.click(opener);
    expect(opener.getAttribute('aria-expanded')).toBe('true');
    const fields = screen.getAllByRole('textbox').length;
    await person.click(opener);
    expect(screen.getAllByRole('textbox').length).toBeLessThan(fields);
  });
});

test('figures out of band stand under the chart, the others are counted', async () => {
  server(SIGNED_IN);
  station(job({ readings: LEAK }));
  await screen.findByRole('region', { name: 'What fits' });
  const list = within(trims().getByRole('list', { name: 'Figures out of band' }));
  const [first, ...rest] = list.getAllByRole('listitem').map((l) => l.textContent);
  expect(first).toMatch(/^Airflow, idle 2\.9, expected 3\.5–4\.3 g\/s$/);
  expect(rest).toEqual(['3 more not out of band']);
  const rows = within(screen.getByRole('region', { name: 'Measured beside expected' })).getAllByRole('row');
  expect(rows[1]!.textContent).toMatch(/^Airflow, idle/);
});

describe('an engine of two banks', () => {
  const V6 = { ...VEHICLE, cylinders: 6, banks: 2, displacementL: 3 };
  const both = (at: string, one: number, two: number, more: object) =>
    reading(at, 0, {
      trims: { bank1: { stft: 0, ltft: one }, bank2: { stft: 0, ltft: two } },
      ...more,
    });
  const sided = [
    both('idle', 24, 2, { rpm: 700, mafGps: 4.1, mapKPa: 34 }),
    both('hold-2500', 7, 1, { rpm: 2500, mafGps: 13.5 }),
  ];
  test('the bank that is off is named: of the mixture, of its shape, of the cause', async () => {
    server(SIGNED_IN);
    station(job({ vehicle: V6, readings: sided }));
    await screen.findByRole('region', { name: 'What fits' });
    const text = screen.getByRole('region', { name: 'What fits' }).textContent!;
    expect(trims().getByRole('heading', { level: 2 }).textContent).toBe('Lean ▶ on bank 1, most at low airflow');
    expect(text).toMatch(/Rule of thumb: bank 1: fades/);
    expect(fits().getAllByRole('button')[0]!.textContent).toMatch(/bank 1/);
    expect(document.body.textContent).toMatch(/● bank 1 {3}◇ bank 2/);
  });
  test('both alike are both: no bank is named', async () => {
    server(SIGNED_IN);
    const alike = [
      both('idle', 22, 22, { rpm: 700, mafGps: 4.1, mapKPa: 34 }),
      both('hold-2500', 7, 7, { rpm: 2500, mafGps: 13.5 }),
    ];
    station(job({ vehicle: V6, readings: alike }));
    await screen.findByRole('region', { name: 'What fits' });
    const text = screen.getByRole('region', { name: 'What fits' }).textContent!;
    expect(trims().getByRole('heading', { level: 2 }).textContent).toBe('Lean ▶ on both banks, most at low airflow');
    expect(text).toMatch(/Rule of thumb: both banks: /);
  });
  test('what if: each bank has its own column, from the size the judgement found', async () => {
    server(SIGNED_IN);
    const { person } = station(job({ vehicle: V6, readings: sided }));
    await screen.findByRole('region', { name: 'What fits' });
    const size = fits()
      .getAllByRole('button')[0]!
      .textContent!.match(/([\d.]+ g\/s)/)![1]!;
    const slider = await trims().findByRole('slider');
    await person.click(screen.getByRole('button', { name: 'What if…' }));
    const play = within(await screen.findByRole('region', { name: 'What if' }));
    expect(slider.getAttribute('aria-valuetext')).toContain(size);
    await waitFor(() =>
      expect(play.getByRole('row', { name: /^Idle/ }).textContent).toMatch(/measured \+24\.0.*measured \+2\.0/),
    );
    const [, one, two] = within(play.getByRole('row', { name: /^Idle/ })).getAllByRole('cell');
    const trim = (cell: HTMLElement) => Number(cell.textContent!.replace('−', '-').match(/[-+]?[\d.]+/)![0]);
    expect(trim(one!)).toBeGreaterThan(trim(two!) + 5);
  });
});
