import { describe, expect, test } from '@jest/globals';
import type { FinishImportRequest, NewImportRequest } from '@just-balance/contract';
import type { FoundPoint } from '@just-balance/core/capture';
import type { Mapping } from '@just-balance/core/recordingFiles';
import type { NewWrite } from '../src/data/Outbox.ts';
import { ImportSession } from '../src/sessions/ImportSession.ts';
import type { Importer, Look, ReadFile } from '../src/sessions/importProtocol.ts';

const FILE = { name: 'bench.csv', size: 10 } as File;
const mapping = (over: object = {}): Mapping =>
  ({
    layout: 'wide',
    headers: ['Time', 'RPM'],
    units: false,
    roles: [{ kind: 'time' }, { kind: 'channel', id: 'rpm' }],
    ...over,
  }) as unknown as Mapping;
const table = (m: Mapping = mapping()): Look =>
  ({ kind: 'csv', delimiter: ',', encoding: 'utf-8', rows: [], mapping: m, missing: null, asks: [] }) as Look;
const point = (at: string, flags: string[] = []): FoundPoint =>
  ({ at, fromS: 1, toS: 11, windows: 1, flags, reading: { at } }) as unknown as FoundPoint;
const READ: ReadFile = {
  startedAt: null,
  durationS: 60,
  channels: [],
  problems: ['line 4: no number'],
  problemCount: 1,
  leftOut: [{ name: 'Gear', why: 'not known' }],
  rows: 600,
  stepsBack: [],
  stepsBackCount: 0,
  found: [point('idle'), point('hold-2500', ['not quite warm'])],
  doubts: [{ channel: 'maf', text: 'reads in volts' } as unknown as ReadFile['doubts'][number]],
};

/** Answers of the reader are given by hand, in any order. */
function made(
  over: Partial<Importer> = {},
  queued: { sent: boolean; refused: string | null } | Error = { sent: true, refused: null },
) {
  const writes: NewWrite[][] = [];
  const remembered: Mapping[] = [];
  let ends = 0;
  let ids = 0;
  const importer: Importer = {
    look: async () => table(),
    read: async () => READ,
    findAgain: async () => [point('idle')],
    parts: async () => [
      { channel: 'rpm', part: 0, unit: 'rpm', quantum: 0.25, bytes: new ArrayBuffer(4) },
      { channel: 'rpm', part: 1, unit: 'rpm', quantum: 0.25, bytes: new ArrayBuffer(4) },
      { channel: 'a/b', part: 0, unit: '%', quantum: null, bytes: new ArrayBuffer(4) },
    ],
    ...over,
  };
  const session = new ImportSession({
    jobId: 'j1',
    phase: 'after',
    engine: () => ({ banks: 1, metered: true, fuel: 'petrol', turbo: false, baroKPa: 100 }),
    importer: () => importer,
    end: () => void ends++,
    remembered: async () => null,
    remember: async (m) => void remembered.push(m),
    queue: async (w) => {
      writes.push([...w]);
      if (queued instanceof Error) throw queued;
      return queued;
    },
    newId: () => `id${++ids}`,
    said: (e) => (e as Error).message,
  });
  return { session, writes, remembered, ends: () => ends };
}
const waits = <T>() => {
  let give = (_: T) => {};
  const promise = new Promise<T>((r) => {
    give = r;
  });
  return { promise, give };
};

describe('a log on its way in', () => {
  test('whose clock steps back: nothing is kept before it is said what that was, and the file is read again with it', async () => {
    const asked: (Mapping | null)[] = [];
    const { session, writes, remembered } = made({
      read: async (_f, _l, m) => {
        asked.push(m);
        return { ...READ, stepsBack: [{ line: 9, byS: 3600 }], stepsBackCount: 1 };
      },
    });
    await session.open(FILE);
    await session.read();
    expect(session.state()).toMatchObject({ at: 'read', back: null });
    await session.keep();
    expect(writes).toEqual([]);
    await session.clock('second-log');
    expect(asked.map((m) => m?.back)).toEqual([undefined, 'second-log']);
    expect(session.state()).toMatchObject({ at: 'read', back: 'second-log' });
    // The next log of these headers may have another reason.
    expect(remembered.every((m) => m.back === undefined)).toBe(true);
    await session.keep();
    expect(writes).toHaveLength(1);
  });
  test('looked at, corrected, read with the corrections, kept as one: begun, every column, finished', async () => {
    let asked: Mapping | null = null;
    const { session, writes, remembered, ends } = made({
      read: async (_f, _l, m) => {
        asked = m;
        return READ;
      },
    });
    await session.open(FILE);
    expect(session.state()).toMatchObject({ at: 'looked', remembered: false, problem: null });
    session.take(mapping({ roles: [{ kind: 'time' }, { kind: 'ignore', why: 'said so' }] }));
    session.answer(1, 'comma' as never);
    await session.read();
    expect(asked).toMatchObject({ roles: [{ kind: 'time' }, { kind: 'ignore' }], numbers: { 1: 'comma' } });
    expect(remembered).toHaveLength(1);
    expect(session.state()).toMatchObject({ at: 'read', chosen: new Set(['idle', 'hold-2500']), right: [] });
    session.choose(new Set(['hold-2500']));
    await session.keep();
    expect(session.state()).toEqual({ at: 'kept', name: 'bench.csv', captureId: 'id1', sent: true, problem: null });
    expect(ends()).toBe(1);
    const [all] = writes;
    expect(all!.map((w) => [w.method, w.path])).toEqual([
      ['POST', '/jobs/j1/imports'],
      ['PUT', '/jobs/j1/imports/id1/columns/rpm?part=0&unit=rpm&quantum=0.25'],
      ['PUT', '/jobs/j1/imports/id1/columns/rpm?part=1&unit=rpm&quantum=0.25'],
      ['PUT', '/jobs/j1/imports/id1/columns/a%2Fb?part=0&unit=%25'],
      ['POST', '/jobs/j1/imports/id1/finish'],
    ]);
    const begin = JSON.parse(all![0]!.body as string) as NewImportRequest;
    expect(begin).toEqual({
      id: 'id1',
      phase: 'after',
      name: 'bench.csv',
      summary: { rows: 600, problemCount: 1, problems: ['line 4: no number'], leftOut: ['Gear: not known'] },
    });
    const finish = JSON.parse(all![4]!.body as string) as FinishImportRequest;
    expect(finish.parts).toEqual({ rpm: 2, 'a/b': 1 });
    // Both points are marked in the recording; the one that was chosen is a reading, with its flag.
    expect(finish.marks.map((m) => m.at)).toEqual(['idle', 'hold-2500']);
    expect(finish.readings).toEqual([{ id: 'id2', doubtful: 'not quite warm', reading: { at: 'hold-2500' } }]);
  });

  test('what was said of the columns stands while they are the same, and goes with others', async () => {
    const { session } = made();
    await session.open(FILE);
    const mine = mapping({ roles: [{ kind: 'time' }, { kind: 'ignore', why: 'said so' }] });
    session.take(mine);
    await session.layOut({ delimiter: ';' } as never);
    expect(session.state()).toMatchObject({ said: { delimiter: ';' }, mapping: { roles: mine.roles } });
    const other = made({
      look: async (_f, l) => table(l?.delimiter ? mapping({ headers: ['Time', 'Load'] }) : mapping()),
    });
    await other.session.open(FILE);
    other.session.take(mine);
    await other.session.layOut({ delimiter: ';' } as never);
    expect(other.session.state()).toMatchObject({ mapping: { roles: mapping().roles } });
  });

  test('a channel that is right after all: points are looked for again, and all of them chosen', async () => {
    const { session } = made();
    await session.open(FILE);
    await session.read();
    await session.judge(['maf']);
    expect(session.state()).toMatchObject({
      right: ['maf'],
      chosen: new Set(['idle']),
      read: { found: [{ at: 'idle' }] },
    });
  });

  test('cancelled while it reads: the reader ends, and its answer changes nothing', async () => {
    const slow = waits<ReadFile>();
    const { session, ends } = made({ read: () => slow.promise });
    await session.open(FILE);
    const reading = session.read();
    expect(session.state()).toMatchObject({ at: 'busy', what: 'reading' });
    session.cancel();
    slow.give(READ);
    await reading;
    expect([session.state().at, ends()]).toEqual(['choose', 1]);
  });

  test('a file opened over another: the later one stands, whichever is looked at first', async () => {
    const slow = waits<Look>();
    const { session } = made({ look: async (f) => (f === FILE ? slow.promise : table()) });
    const first = session.open(FILE);
    await session.open({ name: 'second.csv' } as File);
    slow.give(table());
    await first;
    expect(session.state()).toMatchObject({ at: 'looked', file: { name: 'second.csv' } });
  });

  test('progress of what was cancelled is not shown', async () => {
    let say: (step: 'reading', share: number) => void = () => {};
    const { session } = made({
      read: (_f, _l, _m, _e, progress) => {
        say = progress;
        return new Promise(() => {});
      },
    });
    await session.open(FILE);
    void session.read();
    say('reading', 0.5);
    expect(session.state()).toMatchObject({ at: 'busy', share: 0.5 });
    session.cancel();
    say('reading', 0.9);
    expect(session.state()).toEqual({ at: 'choose', problem: null });
  });
});

describe('what goes wrong stands where it went wrong', () => {
  test('a file that cannot be looked at: chosen again, with the reason', async () => {
    const { session } = made({ look: async () => Promise.reject(new Error('it is a picture')) });
    await session.open(FILE);
    expect(session.state()).toEqual({ at: 'choose', problem: 'bench.csv: it is a picture' });
  });
  test('a reading that fails: the columns as they were said, and the reason', async () => {
    const { session } = made({ read: async () => Promise.reject(new Error('line 9 has no end')) });
    await session.open(FILE);
    session.take(mapping({ roles: [{ kind: 'time' }, { kind: 'time' }] }));
    await session.read();
    expect(session.state()).toMatchObject({
      at: 'looked',
      mapping: { roles: [{ kind: 'time' }, { kind: 'time' }] },
      problem: 'bench.csv: line 9 has no end',
    });
  });
  test.each([
    ['refused', { sent: false, refused: 'the job is closed' }],
    ['not to be put down', new Error('the job is closed')],
  ] as const)('%s: nothing is kept, what was chosen stays chosen', async (_, queued) => {
    const { session } = made({}, queued);
    await session.open(FILE);
    await session.read();
    session.choose(new Set(['idle']));
    await session.keep();
    expect(session.state()).toMatchObject({
      at: 'read',
      chosen: new Set(['idle']),
      problem: 'bench.csv: the job is closed',
    });
    await session.judge([]);
    expect(session.state().problem).toBeNull();
  });
  test('away from the server it is kept on this device, and says so', async () => {
    const { session } = made({}, { sent: false, refused: null });
    await session.open(FILE);
    await session.read();
    await session.keep();
    expect(session.state()).toMatchObject({ at: 'kept', sent: false });
  });
  test('nothing is read, judged or kept out of turn', async () => {
    const { session, writes } = made();
    await session.read();
    await session.judge(['maf']);
    await session.keep();
    session.choose(new Set(['idle']));
    expect([session.state(), writes]).toEqual([{ at: 'choose', problem: null }, []]);
  });
});
