import { afterEach, describe, expect, test } from '@jest/globals';
import type { FoundPoint } from '@just-balance/core/capture';
import { type Mapping, propose, TIME_FORMATS } from '@just-balance/core/recordingFiles';
import { cleanup, screen, within } from '@testing-library/react';
import { useState } from 'react';
import { ImportHead } from '../src/recordings/importing/ImportHead.tsx';
import { LayoutChoices, NumberQuestions } from '../src/recordings/importing/LayoutChoices.tsx';
import { MappingTable } from '../src/recordings/importing/MappingTable.tsx';
import { ClockSteps, Doubts, ReadResult } from '../src/recordings/importing/ReadResult.tsx';
import type { ImportSession, ImportState } from '../src/sessions/ImportSession.ts';
import type { LayoutSaid, Look, ReadFile } from '../src/sessions/importProtocol.ts';
import { open } from './page.tsx';

afterEach(cleanup);
// A document that is not drawn has no heights: here the box is high enough for every line, and a line has one.
Object.defineProperty(HTMLElement.prototype, 'clientHeight', { configurable: true, value: 3_000 });
Object.defineProperty(HTMLElement.prototype, 'offsetHeight', { configurable: true, value: 48 });

const ROWS = [
  ['Time', 'Engine RPM', 'MAF', 'Gear'],
  ['s', 'rpm', 'g/s', ''],
  ...Array.from({ length: 20 }, (_, i) => [String(i / 2), String(740 + i), '3.1', '2']),
];
const csv = (rows: string[][], over: Partial<Extract<Look, { kind: 'csv' }>> = {}): Extract<Look, { kind: 'csv' }> => ({
  kind: 'csv',
  delimiter: ',',
  encoding: 'utf-8',
  rows,
  ...propose(rows),
  ...over,
});
const TABLE = csv(ROWS);

describe('how a file is laid out', () => {
  function layout(look = TABLE, said: LayoutSaid = {}) {
    const changes: LayoutSaid[] = [];
    const page = open(<LayoutChoices look={look} said={said} change={(c) => changes.push(c)} />);
    const fold = document.querySelector('details');
    if (fold) fold.open = true;
    return { ...page, changes };
  }
  test('what was found is chosen, and the first lines stand beneath it', () => {
    layout();
    const value = (label: string) => (screen.getByLabelText(label) as HTMLSelectElement).value;
    expect(value('Columns are separated by')).toBe(',');
    expect(value('The columns are named in')).toBe('0');
    expect(value('The line below it holds')).toBe('units');
    expect(value('Time is written as')).toBe(TABLE.mapping.timeFormat);
    expect(document.querySelector('pre')!.textContent).toMatch(/ 1 {2}Time {2}\| {2}Engine RPM/);
    expect(document.body.textContent).toMatch(/Read as UTF-8; one moment a line\./);
  });
  test('each is said by itself; another separator makes another table, of which nothing is said yet', async () => {
    const { person, changes } = layout(TABLE, { header: 0 });
    await person.selectOptions(screen.getByLabelText('The columns are named in'), 'none');
    await person.selectOptions(screen.getByLabelText('The line below it holds'), 'figures');
    await person.selectOptions(screen.getByLabelText('Numbers are written'), ',.');
    const [format] = Object.keys(TIME_FORMATS).filter((f) => f !== TABLE.mapping.timeFormat);
    await person.selectOptions(screen.getByLabelText('Time is written as'), format!);
    await person.selectOptions(screen.getByLabelText('Columns are separated by'), ';');
    expect(changes).toEqual([
      { header: null, units: undefined },
      { header: 0, units: false },
      { header: 0, style: { decimal: ',', thousands: '.' } },
      { header: 0, timeFormat: format },
      { delimiter: ';' },
    ]);
  });
  test('without a line of names there is none below it to speak of', () => {
    layout(csv(ROWS, { mapping: { ...TABLE.mapping, header: null } }));
    expect(screen.queryByLabelText('The line below it holds')).toBeNull();
  });
  test('numbers that can be read two ways are asked about in the file’s own words', async () => {
    const point = { decimal: '.', thousands: ',' } as const;
    const comma = { decimal: ',', thousands: '.' } as const;
    const asks = [{ column: 2, cell: '1,234', styles: [comma, point] }];
    const said: unknown[] = [];
    const { person } = open(
      <NumberQuestions
        look={{ ...TABLE, asks } as never}
        answers={{ 2: comma }}
        answer={(q, s) => said.push([q.column, s])}
      />,
    );
    expect(document.body.textContent).toMatch(/MAF: “1,234” is/);
    expect(screen.getByRole('button', { name: '1.234' }).getAttribute('aria-pressed')).toBe('true');
    await person.click(screen.getByRole('button', { name: '1234' }));
    expect(said).toEqual([[2, point]]);
  });
});

describe('what each column is taken for', () => {
  async function table(mapping: Mapping = TABLE.mapping, rows = ROWS) {
    let now = mapping;
    function Held() {
      const [m, set] = useState(mapping);
      now = m;
      return <MappingTable mapping={m} rows={rows} change={set} />;
    }
    const page = open(<Held />);
    await screen.findAllByRole('button', { name: / read as / });
    return { ...page, now: () => now };
  }
  test('known columns stand with their channel and unit, an unknown one is left out and says why', async () => {
    await table();
    expect(screen.getByRole('button', { name: 'Engine RPM read as Engine speed' })).toBeTruthy();
    expect(screen.getByRole('button', { name: 'MAF read as Airflow' })).toBeTruthy();
    expect((screen.getByLabelText('MAF written in') as HTMLSelectElement).value).toBe('g/s');
    expect(screen.getByRole('row', { name: /^Gear/ }).textContent).toMatch(/Leave out/);
  });
  test('one is put right: found by a part of its name, chosen with Enter; another is kept under its own', async () => {
    const { person, now } = await table();
    await person.click(screen.getByRole('button', { name: /^Gear read as/ }));
    const dialog = () => within(screen.getByRole('dialog'));
    await person.type(dialog().getByLabelText('Find'), 'nothing like it');
    expect(dialog().getByText('No channel is called so.')).toBeTruthy();
    await person.clear(dialog().getByLabelText('Find'));
    await person.type(dialog().getByLabelText('Find'), 'road sp{Enter}');
    expect(now().roles[3]).toEqual({ kind: 'channel', id: 'vss', unit: 'km/h', from: 'km/h' });
    await person.click(screen.getByRole('button', { name: /^Gear read as/ }));
    await person.click(dialog().getByRole('button', { name: 'Keep under its own name' }));
    expect(now().roles[3]).toEqual({ kind: 'channel', id: 'Gear', unit: '', from: '' });
  });
  test('a unit it was written in is kept where the channel has it, and can be said', async () => {
    const { person, now } = await table();
    await person.selectOptions(screen.getByLabelText('MAF written in'), 'lb/min');
    expect(now().roles[2]).toEqual({ kind: 'channel', id: 'maf', unit: 'g/s', from: 'lb/min' });
  });
  test('two columns of one channel: the later is said to be left out', async () => {
    const roles = [...TABLE.mapping.roles];
    roles[3] = roles[1]!;
    await table({ ...TABLE.mapping, roles });
    expect(screen.getByRole('row', { name: /^Gear/ }).textContent).toMatch(/left out: the same as “Engine RPM”/);
  });
  test('many columns are searched, narrowed to what is read, and put in order by a press', async () => {
    const wide = [
      ['Time', ...Array.from({ length: 20 }, (_, i) => `Signal ${String.fromCharCode(116 - i)}`), 'Engine RPM'],
      ...Array.from({ length: 5 }, (_, r) => [String(r), ...Array.from({ length: 21 }, () => '1')]),
    ];
    const { person } = await table(propose(wide).mapping, wide);
    expect(screen.getAllByRole('row')).toHaveLength(23);
    await person.type(screen.getByLabelText('Find a column'), 'engine');
    expect(screen.getAllByRole('row')).toHaveLength(2);
    expect(screen.getByRole('status').textContent).toBe('1 of them');
    await person.clear(screen.getByLabelText('Find a column'));
    await person.selectOptions(screen.getByLabelText('Show'), 'read');
    expect(screen.getAllByRole('row').length).toBeLessThan(6);
    await person.selectOptions(screen.getByLabelText('Show'), '');
    const [byName] = screen.getAllByRole('columnheader');
    await person.click(within(byName!).getByRole('button'));
    expect(byName!.getAttribute('aria-sort')).toBe('ascending');
    const names = screen
      .getAllByRole('row')
      .slice(1)
      .map((r) => r.querySelector('td')!.textContent);
    expect(names).toEqual([...names].sort((a, b) => a!.localeCompare(b!)));
  });
  test('one value a line: a line for every name in it, kept under that name', async () => {
    const long = [
      ['time', 'name', 'value', 'unit'],
      ...['rpm', 'gear', 'rpm', 'gear', 'rpm', 'gear'].map((n, i) => [String(i), n, n === 'rpm' ? '800' : '2', '']),
    ];
    const proposed = propose(long).mapping;
    const mapping: Mapping = {
      ...proposed,
      layout: 'long',
      roles: [{ kind: 'time' }, { kind: 'name' }, { kind: 'value' }, { kind: 'unit' }],
      names: { rpm: { kind: 'channel', id: 'rpm', unit: 'rpm', from: 'rpm' }, gear: { kind: 'ignore' } },
    };
    const { person, now } = await table(mapping, long);
    expect(screen.getByRole('row', { name: /^gear/ }).textContent).toMatch(/2 · 2 · 2/);
    await person.click(screen.getByRole('button', { name: /^gear read as/ }));
    await person.click(within(screen.getByRole('dialog')).getByRole('button', { name: 'Calculated load' }));
    expect(now().names!.gear).toMatchObject({ kind: 'channel', id: 'load' });
  });
});

const FILE = { name: 'bench.csv', size: 4_200_000 } as File;
const point = (at: string, flags: string[] = []): FoundPoint =>
  ({
    ...{ at, fromS: 61, toS: 75, windows: 3, flags },
    reading: { at, trims: { bank1: { stft: 1, ltft: 6 } }, rpm: 760, mafGps: 3.1, closedLoop: true },
  }) as unknown as FoundPoint;
const READ: ReadFile = {
  startedAt: null,
  durationS: 125,
  channels: [
    { id: 'rpm', unit: 'rpm', n: 1200, min: 700, max: 3100 },
    { id: 'ect', unit: '°C', n: 120, min: 20, max: 92 },
  ],
  problems: ['line 4: no number'],
  problemCount: 3,
  leftOut: [{ name: 'Gear', why: 'not known' }],
  rows: 1200,
  stepsBack: [],
  stepsBackCount: 0,
  found: [point('idle'), point('hold-2500', ['not quite warm'])],
  doubts: [{ channel: 'map', text: 'stands above the air pressure with the engine running' } as never],
};

describe('what comes next of an import', () => {
  const state = (s: object): ImportState => ({ problem: null, ...s }) as ImportState;
  function head(s: object) {
    const asked: string[] = [];
    const session = {
      cancel: () => asked.push('cancel'),
      read: async () => void asked.push('read'),
      keep: async () => void asked.push('keep'),
    } as unknown as ImportSession;
    const page = open(
      <ImportHead
        step={state(s)}
        session={session}
        close={() => asked.push('close')}
        lookAt={(id) => asked.push(`look ${id}`)}
      />,
    );
    const press = (name: string) => page.person.click(screen.getByRole('button', { name }));
    return { ...page, press, asked };
  }
  const looked = (look: Look, more: object = {}) => ({
    ...{ at: 'looked', file: FILE, look, said: {}, answers: {}, remembered: false },
    mapping: look.kind === 'csv' ? look.mapping : null,
    ...more,
  });

  test('at first it may be left; while it works it says how far, and can be cancelled', async () => {
    const first = head({ at: 'choose' });
    await first.press('Back to Readings');
    cleanup();
    const busy = head({ at: 'busy', file: FILE, what: 'reading', share: 0.42 });
    expect(document.body.textContent).toMatch(/bench\.csv: reading, 42 %/);
    expect(document.body.textContent).toMatch(/4\.2 MB\. Nothing is kept yet\./);
    expect((screen.getByRole('progressbar') as HTMLProgressElement).value).toBe(0.42);
    await busy.press('Cancel');
    expect([first.asked, busy.asked]).toEqual([['close'], ['cancel']]);
  });
  test('what cannot be read says so; what can is read on a press', async () => {
    const no = head(looked({ kind: 'unknown', message: 'this is a picture' }));
    expect(document.body.textContent).toMatch(/bench\.csv cannot be read yet.*this is a picture\./s);
    expect(screen.queryByRole('button', { name: 'Read it' })).toBeNull();
    await no.press('Another file');
    cleanup();
    const yes = head(looked(TABLE));
    expect(document.body.textContent).toMatch(/Look over the columns: \d are known/);
    await yes.press('Read it');
    expect([no.asked, yes.asked]).toEqual([['cancel'], ['read']]);
    cleanup();
    head(looked({ kind: 'candump', lines: [] }));
    expect(document.body.textContent).toMatch(/A CAN log: what was answered in it is read/);
  });
  test('numbers that can be read two ways are answered first; without a time nothing is read', () => {
    const asks = [{ column: 2, cell: '1,2', styles: [] }];
    const may = () => !(screen.getByRole('button', { name: 'Read it' }) as HTMLButtonElement).disabled;
    head(looked({ ...TABLE, asks } as never));
    expect([may(), /Say what 1 column of numbers means/.test(document.body.textContent!)]).toEqual([false, true]);
    cleanup();
    head(looked({ ...TABLE, asks } as never, { answers: { 2: { decimal: ',', thousands: '' } } }));
    expect(may()).toBe(true);
    cleanup();
    const timeless = { ...TABLE.mapping, roles: TABLE.mapping.roles.map(() => ({ kind: 'ignore' as const })) };
    head(looked(TABLE, { mapping: timeless }));
    expect(may()).toBe(false);
    expect(document.body.textContent).toMatch(/cannot be read yet/);
  });
  test('read, it says what is kept and what was left out, with its reason', async () => {
    const { press, asked } = head({ at: 'read', file: FILE, read: READ, chosen: new Set(['idle']), right: [] });
    expect(document.body.textContent).toMatch(/Keep it, with 1 reading/);
    expect(document.body.textContent).toMatch(
      /2 channels\. Left out: Gear \(not known\)\. 3 cells or lines could not be read\./,
    );
    await press('Keep');
    await press('Do not keep it');
    expect(asked).toEqual(['keep', 'cancel']);
    cleanup();
    head({ at: 'read', file: FILE, read: { ...READ, leftOut: [], problemCount: 0 }, chosen: new Set(), right: [] });
    expect(document.body.textContent).toMatch(/Keep it as a recording.*2 channels, no column left out\./s);
  });
  test('a clock that steps back is asked about: until then nothing is kept', async () => {
    const read = { ...READ, stepsBack: [{ line: 1204, byS: 3600 }], stepsBackCount: 3 };
    const may = () => !(screen.getByRole('button', { name: 'Keep' }) as HTMLButtonElement).disabled;
    head({ at: 'read', file: FILE, read, chosen: new Set(), right: [], back: null });
    expect([may(), /Say what the clock of the log did/.test(document.body.textContent!)]).toEqual([false, true]);
    cleanup();
    head({ at: 'read', file: FILE, read, chosen: new Set(), right: [], back: 'runs-on' });
    expect(may()).toBe(true);
    cleanup();
    const said: string[] = [];
    const { person } = open(<ClockSteps read={read} back="unsorted" say={(b) => said.push(b)} />);
    expect(document.body.textContent).toMatch(/At line 1,204 it steps back by 3,600 s, and 2 more times\./);
    expect(screen.getByRole('button', { pressed: true }).textContent).toMatch(/out of order/);
    await person.click(screen.getByRole('button', { name: /was set back/ }));
    await person.click(screen.getByRole('button', { name: /second log/ }));
    expect(said).toEqual(['runs-on', 'second-log']);
    cleanup();
    open(<ClockSteps read={READ} back={null} say={() => {}} />);
    expect(document.body.textContent).not.toMatch(/clock/i);
  });
  test('many left out are counted; each stands below', () => {
    const leftOut = Array.from({ length: 9 }, (_, i) => ({ name: `Signal ${i}`, why: 'not known' }));
    head({ at: 'read', file: FILE, read: { ...READ, leftOut }, chosen: new Set(), right: [] });
    expect(document.body.textContent).toMatch(/Signal 4 \(not known\) and 4 more, listed below\./);
  });
  test('kept here is not kept there: only what the server has can be looked at', async () => {
    const there = head({ at: 'kept', name: 'bench.csv', captureId: 'c9', sent: true });
    await there.press('Look at it');
    expect(there.asked).toEqual(['look c9']);
    cleanup();
    head({ at: 'kept', name: 'bench.csv', captureId: 'c9', sent: false });
    expect(document.body.textContent).toMatch(/is kept on this device.*it goes up by itself/s);
    expect(screen.queryByRole('button', { name: 'Look at it' })).toBeNull();
  });
});

describe('what is in it', () => {
  test('points with their stretch, figure and flag, each to be taken or left; channels in the reader’s units', async () => {
    const chosen: ReadonlySet<string>[] = [];
    localStorage.setItem('jb-units', 'us');
    const { person } = open(
      <ReadResult read={READ} banks={1} chosen={new Set(['idle'])} choose={(c) => chosen.push(c)} />,
    );
    localStorage.clear();
    const [idle, hold] = screen.getAllByRole('checkbox') as HTMLInputElement[];
    expect([idle!.checked, hold!.checked]).toEqual([true, false]);
    expect(document.body.textContent).toMatch(/1:01–1:15, the steadiest of 3/);
    expect(document.body.textContent).toMatch(/not quite warm/);
    expect(document.body.textContent).toMatch(/2 channels, 2:05/);
    expect(screen.getByRole('row', { name: /^Coolant/ }).textContent).toMatch(/92|198/);
    await person.click(hold!);
    await person.click(idle!);
    expect(chosen.map((c) => [...c])).toEqual([['idle', 'hold-2500'], []]);
    expect(document.body.textContent).toMatch(/line 4: no number/);
    expect(document.body.textContent).toMatch(/and 2 more/);
  });
  test('nothing found says what a point needs', () => {
    open(<ReadResult read={{ ...READ, found: [] }} banks={1} chosen={new Set()} choose={() => {}} />);
    expect(document.body.textContent).toMatch(/None that meets its conditions/);
  });
  test('a doubted channel is used only where somebody says that it is right, and not when it is taken back', async () => {
    const said: string[][] = [];
    const { person, rerender } = open(<Doubts read={READ} right={[]} judge={(r) => said.push([...r])} />);
    await person.click(screen.getByRole('button', { name: 'It is right' }));
    cleanup();
    open(<Doubts read={READ} right={['map']} judge={(r) => said.push([...r])} />);
    await person.click(screen.getByRole('button', { name: 'It is right' }));
    expect(said).toEqual([['map'], []]);
    expect(rerender).toBeDefined();
    cleanup();
    const { container } = open(<Doubts read={{ ...READ, doubts: [] }} right={[]} judge={() => {}} />);
    expect(container.textContent).toBe('');
  });
});
