import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { PRACTICE_LEVELS } from '@just-balance/core/practice';
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { Route, Routes } from 'react-router';
import { Belief } from '../src/pages/practice/Moves.tsx';
import { Practice } from '../src/pages/practice/Practice.tsx';
import { PracticeBar } from '../src/practice/PracticeBar.tsx';
import { drawsNothing, EMPTY_JOB, LEAD, open, openSignedIn, refused, SIGNED_IN, server } from './page.tsx';

drawsNothing();
beforeEach(() => localStorage.clear());
afterEach(cleanup);

const CARS = [
  { id: 'breather', title: 'A breather', level: PRACTICE_LEVELS[0], story: 'It hunts when warm', points: 82 },
  { id: 'two-lungs', title: 'Two lungs', level: PRACTICE_LEVELS[1], story: 'It has no power', points: null },
];
const line = (over: object = {}) => ({
  ...{ id: 't1', job: 'j7', by: LEAD.name, at: '2026-05-04T08:00:00Z', title: 'A breather', level: PRACTICE_LEVELS[0] },
  ...{
    scenario: 'breather',
    hints: true,
    exam: null,
    minutes: 21,
    signed: null,
    total: null,
    answered: false,
    gaveUp: false,
    counts: true,
    ...over,
  },
});
function page(tries: object[] = [], more: object = {}, account: object = {}) {
  const asked = server({
    'GET /session': { body: { account: { ...LEAD, ...account }, setupNeeded: false, demo: null } },
    ...{
      'GET /practice/scenarios': { body: CARS },
      'GET /practice/attempts': { body: tries },
      'GET /bays': { body: [] },
    },
    'POST /practice/attempts': { status: 201, body: { ...line(), id: 't9', job: 'j9' } },
    ...more,
  });
  const opened = openSignedIn(
    <Routes>
      <Route path="/practice" element={<Practice />} />
      <Route path="*" element={<p>elsewhere</p>} />
    </Routes>,
    '/practice',
  );
  const begun = () =>
    waitFor(() => {
      const post = asked.find((a) => a.method === 'POST');
      expect(post).toBeDefined();
      return post!.body;
    });
  return { ...opened, asked, begun };
}

describe('practice', () => {
  test('a car is begun with one press, with help unless it is switched off; its job is gone to', async () => {
    const { person, begun } = page();
    await screen.findByText('A breather');
    expect(document.body.textContent).toMatch(/“It hunts when warm”82 points at the first try/);
    await person.click(screen.getByLabelText(/^With help/));
    await person.click(screen.getByRole('button', { name: 'Work on it: A breather' }));
    expect(await begun()).toMatchObject({ scenario: 'breather', hints: false });
    await screen.findByText('elsewhere');
  });
  test('an exam is without help, whatever is switched on', async () => {
    const { person, begun } = page();
    await person.click(await screen.findByRole('button', { name: 'Begin an exam' }));
    const body = (await begun()) as { exam: string; hints: boolean };
    expect([typeof body.exam, body.hints]).toEqual(['string', false]);
  });
  test('one’s own open try comes first; somebody else’s does not', async () => {
    page([line({ by: 'B. Ortiz' }), line({ id: 't2', job: 'j8', minutes: 34 })]);
    await screen.findByText('A breather: 34 min so far');
    const step = within(screen.getAllByRole('region', { name: 'Next step' })[0]!);
    expect(step.getByRole('link', { name: 'Go on' }).getAttribute('href')).toBe('/jobs/j8');
  });
  test('one at a time: the others wait; given up on a second press, and looked at', async () => {
    const { person, asked } = page([line({ id: 't2', job: 'j8' })], {
      'POST /practice/attempts/t2/give-up': { body: { id: 't2' } },
    });
    const step = within((await screen.findAllByRole('region', { name: 'Next step' }))[0]!);
    await step.findByText(/One at a time: the others wait/);
    expect((screen.getByRole('button', { name: 'Work on it: Two lungs' }) as HTMLButtonElement).disabled).toBe(true);
    await person.click(step.getByRole('button', { name: 'Give up' }));
    expect(step.getByText('No points, and what is wrong is told.')).toBeTruthy();
    await person.click(step.getByRole('button', { name: 'Keep at it' }));
    expect(asked.some((a) => a.method === 'POST')).toBe(false);
    await person.click(step.getByRole('button', { name: 'Give up' }));
    await person.click(step.getByRole('button', { name: 'Give it up for good' }));
    await waitFor(() => expect(asked.some((a) => a.path.endsWith('/t2/give-up'))).toBe(true));
  });
  test('a car known from before does not count, nor one that was given up as a finished one with points', async () => {
    page([
      line({ id: 'a', total: 100, answered: true, counts: false }),
      line({ id: 'b', total: 0, answered: true, gaveUp: true }),
      line({ id: 'c', by: 'B. Ortiz', total: 60, answered: true }),
    ]);
    const tries = within(await screen.findByRole('region', { name: 'Tries' }));
    expect(tries.getByText('again: does not count')).toBeTruthy();
    expect(tries.getByText('given up')).toBeTruthy();
    expect(tries.getByText(/R\. Okafor: 1 finished, 0 points on average/)).toBeTruthy();
  });
  test('how each comes on: what is finished, its mean, and the last five', async () => {
    const done = (total: number, by: string) => line({ id: `${by}${total}`, by, total, answered: true });
    page([
      done(90, LEAD.name),
      done(70, LEAD.name),
      line({ id: 'x', by: 'B. Ortiz', exam: { id: 'e' }, answered: true }),
    ]);
    const tries = within(await screen.findByRole('region', { name: 'Tries' }));
    expect(tries.getByText(/R\. Okafor: 2 finished, 80 points on average, the last five 80/)).toBeTruthy();
    expect(tries.getByText(/B\. Ortiz: nothing finished/)).toBeTruthy();
    expect(tries.getAllByText('after the exam')).toHaveLength(1);
    expect(tries.getAllByRole('link', { name: 'Look back' })[0]!.getAttribute('href')).toBe('/practice/R. Okafor90');
  });
  test('a file of somebody else begins; what is no JSON, or refused, is said', async () => {
    const first = page();
    await screen.findByText('A breather');
    const box = () => document.querySelector('input[type=file]') as HTMLInputElement;
    await first.person.upload(box(), new File(['no'], 'car.json', { type: 'application/json' }));
    await screen.findByText('car.json: not JSON');
    await first.person.upload(box(), new File(['{"id":"x"}'], 'car.json', { type: 'application/json' }));
    expect(await first.begun()).toMatchObject({ file: { id: 'x' }, hints: true });
    cleanup();
    const second = page([], { 'POST /practice/attempts': refused(400, 'file.vehicle: none of the fleet') });
    await screen.findByText('A breather');
    await second.person.upload(box(), new File(['{}'], 'car.json', { type: 'application/json' }));
    await screen.findByText('file.vehicle: none of the fleet');
  });
  test('who may only look begins nothing, and is given no file with the answer in it', async () => {
    page([], {}, { rights: ['look'] });
    await screen.findByText('A breather');
    expect(screen.queryByRole('button', { name: /Work on it|Begin an exam/ })).toBeNull();
    expect(screen.queryByRole('link', { name: 'File' })).toBeNull();
  });
  test('cars that cannot be read are said to be', async () => {
    page([], { 'GET /practice/scenarios': refused(503, 'the simulated vehicle does not answer') });
    await screen.findByText('The practice cars cannot be read');
  });
});

describe('the answer at a car', () => {
  const attempt = {
    ...line(),
    asks: [{ kind: 'test', what: 'smoke-intake', label: 'Smoke the intake', minutes: 15, perBank: false, done: false }],
    ...{ moves: [], answer: null, score: null, faults: null, bestPath: null, drive: null, driveAnswer: null },
  };
  const bar = (more: object = {}) => {
    const asked = server({
      ...SIGNED_IN,
      ...{ 'GET /practice/attempts': { body: [line()] }, 'GET /practice/attempts/t1': { body: attempt } },
      'POST /practice/attempts/t1/answer': { body: { ...attempt, answer: {} } },
      ...more,
    });
    const job = { ...EMPTY_JOB, id: 'j7', practice: true, vehicle: { label: 'Marl 2.0', banks: 1 } } as never;
    return { ...openSignedIn(<PracticeBar job={job} />), asked };
  };
  test('a size that is no number stands at its field and is not sent; a comma is one', async () => {
    const { person, asked } = bar();
    await person.click(await screen.findByRole('button', { name: /Name the cause|Name it/ }));
    await person.selectOptions(screen.getByLabelText('It is'), 'vac-leak');
    await person.selectOptions(screen.getByLabelText('What to do'), 'repair');
    await person.type(screen.getByLabelText(/^Size/), 'big');
    await person.click(screen.getByRole('button', { name: 'That is it' }));
    await screen.findByText('“big” is not a number');
    expect(asked.some((a) => a.method === 'POST')).toBe(false);
    await person.clear(screen.getByLabelText(/^Size/));
    await person.type(screen.getByLabelText(/^Size/), '0,4');
    await person.click(screen.getByRole('button', { name: 'That is it' }));
    await waitFor(() => expect(asked.some((a) => a.method === 'POST')).toBe(true));
    expect(asked.find((a) => a.method === 'POST')!.body).toEqual({ fault: 'vac-leak', size: 0.4, remedy: 'repair' });
  });
  test('a size is typed in the reader’s unit and kept in the fault’s own', async () => {
    localStorage.setItem('jb-units', 'us');
    const { person, asked } = bar();
    await person.click(await screen.findByRole('button', { name: /Name the cause|Name it/ }));
    await person.selectOptions(screen.getByLabelText('It is'), 'fuel-low');
    await person.selectOptions(screen.getByLabelText('What to do'), 'replace');
    await person.type(screen.getByLabelText('Size, psi'), '17');
    await person.click(screen.getByRole('button', { name: 'That is it' }));
    await waitFor(() => expect(asked.some((a) => a.method === 'POST')).toBe(true));
    // 17 psi is 117.2 kPa (NIST SP 811: 6.894757 kPa).
    expect(asked.find((a) => a.method === 'POST')!.body.size).toBeCloseTo(117.21, 1);
    localStorage.removeItem('jb-units');
  });
  test('what the car showed last stands in the bar, not what it showed first', async () => {
    const moves = [
      { kind: 'reading', what: 'idle', bank: null, minutes: 3, showed: '+14.0 %' },
      { kind: 'test', what: 'smoke-intake', bank: null, minutes: 15, showed: 'none' },
    ];
    bar({ 'GET /practice/attempts/t1': { body: { ...attempt, moves } } });
    const said = await screen.findByText(/Smoke the intake:/);
    expect(said.textContent).toBe('Smoke the intake: none');
  });
});

describe('what was believed as it went', () => {
  const move = (minutes: number, truth: number) => ({ kind: 'test', what: 'smoke-intake', bank: null, minutes, truth });
  const label = () => screen.queryByRole('img')?.getAttribute('aria-label') ?? null;
  test('is drawn over the minutes, from two moves on', () => {
    open(<Belief a={{ moves: [move(3, 0.2)] } as never} />);
    expect(label()).toBeNull();
    cleanup();
    open(<Belief a={{ moves: [move(3, 0.2), move(15, 0.9)] } as never} />);
    expect(label()).toBe('Probability of the real cause after each move: 3 minutes 20 %, 18 minutes 90 %');
  });
});
