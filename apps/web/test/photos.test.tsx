import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { JobView } from '@just-balance/contract';
import { cleanup, screen, waitFor } from '@testing-library/react';
import type { JobLive } from '../src/data/live.tsx';
import { outbox } from '../src/data/queue.ts';
import { PhotosOf } from '../src/photos/PhotosOf.tsx';
import { Pictures } from '../src/stations/service/Pictures.tsx';
import { type Answer, EMPTY_JOB, openSignedIn, refused, SIGNED_IN, server } from './page.tsx';

beforeEach(async () => {
  await outbox.useAccount('a1');
});
afterEach(cleanup);

const photo = (id: string, over: object = {}) => ({
  ...{ id, rev: 4, at: '2026-05-04T08:20:00Z', by: 'x', undone: false, run: null, step: 'hoses', label: 'The hoses' },
  ...{ good: false, width: 1600, height: 1200, bytes: 200_000, ...over },
});
const job = (photos: object[]): JobView =>
  ({ ...EMPTY_JOB, photos, vehicle: { label: 'Marl 2.0', fuel: 'petrol' } }) as unknown as JobView;
const live = { values: {}, traces: new Map(), link: null, capture: null } as unknown as JobLive;

describe('pictures of one thing', () => {
  const of = (photos: object[], answer: Answer = { body: { id: 'p1', rev: 5 } }) => {
    const asked = server({ ...SIGNED_IN, 'PATCH /jobs/j1/photos/p1': answer });
    return { ...openSignedIn(<PhotosOf job={job(photos)} step="hoses" label="The hoses" />), asked };
  };
  test('only those that belong to it and were not taken back; each opens whole', async () => {
    of([photo('p1'), photo('p2', { step: 'filter' }), photo('p3', { undone: true })]);
    const [only, ...others] = await screen.findAllByRole('link');
    expect(only!.getAttribute('href')).toBe('/api/jobs/j1/photos/p1');
    expect(others).toEqual([]);
  });
  test('one is taken back with its revision', async () => {
    const { person, asked } = of([photo('p1')]);
    await person.click(await screen.findByRole('button', { name: 'Remove' }));
    await waitFor(() => expect(asked.find((a) => a.method === 'PATCH')?.body).toEqual({ rev: 4, undone: true }));
  });
  test('what is refused is said', async () => {
    const { person } = of([photo('p1')], refused(409, 'the job is closed'));
    await person.click(await screen.findByRole('button', { name: 'Remove' }));
    await screen.findByText('the job is closed');
  });
  test('with none there is a way to take one', async () => {
    of([]);
    expect(await screen.findByRole('button', { name: 'Picture' })).toBeTruthy();
    expect(screen.queryByRole('link')).toBeNull();
  });
});

describe('all pictures of a job', () => {
  const pictures = (photos: object[], good: object[] = [], more: object = {}) => {
    const asked = server({
      ...{ ...SIGNED_IN, 'GET /photos/good': { body: good } },
      'PATCH /jobs/j1/photos/p1': { body: photo('p1', { rev: 5 }) },
      ...more,
    });
    const page = openSignedIn(<Pictures job={job(photos)} live={live} />);
    const patched = async () => {
      await waitFor(() => expect(asked.some((a) => a.method === 'PATCH')).toBe(true));
      return asked.find((a) => a.method === 'PATCH')!.body;
    };
    return { ...page, patched };
  };
  const tile = (name: RegExp) => screen.findByRole('button', { name });

  test('one pressed is enlarged, and kept as a good part or taken out, with its revision', async () => {
    const { person, patched } = pictures([photo('p1'), photo('p2', { undone: true })]);
    await person.click(await tile(/The hoses/));
    expect(screen.getByLabelText(/Enlarge/)).toBeTruthy();
    await person.click(screen.getByRole('button', { name: /Keep as a good part/ }));
    expect(await patched()).toEqual({ rev: 4, good: true });
    cleanup();
    const out = pictures([photo('p1', { good: true })]);
    await out.person.click(await tile(/The hoses/));
    expect(screen.getByRole('button', { name: /No longer a good part/ })).toBeTruthy();
    await out.person.click(screen.getByRole('button', { name: 'Take it out' }));
    expect(await out.patched()).toEqual({ rev: 4, undone: true });
  });
  test('a change that is refused is said, and the picture stays', async () => {
    const { person } = pictures([photo('p1')], [], {
      'PATCH /jobs/j1/photos/p1': refused(409, 'somebody was quicker'),
    });
    await person.click(await tile(/The hoses/));
    await person.click(screen.getByRole('button', { name: 'Take it out' }));
    await screen.findByText('somebody was quicker');
    expect(await tile(/The hoses/)).toBeTruthy();
  });
  test('two pressed lie one over the other, the border moved by keys', async () => {
    const { person } = pictures([photo('p1', { label: 'before' }), photo('p2', { label: 'after' })]);
    await person.click(await tile(/before/));
    await person.click(await tile(/after/));
    const border = screen.getByRole('slider', { name: 'Border between before and after' }) as HTMLInputElement;
    expect(border.value).toBe('50');
  });
  test('good parts of the shop’s other jobs stand apart; with none of its own the page says how they come', async () => {
    pictures([], [{ ...photo('g1', { label: 'a clean element', good: true }), jobId: 'j9' }]);
    await screen.findByText('Good parts of this shop');
    expect(document.body.textContent).toMatch(/No picture yet: steps ask for them/);
  });
});
