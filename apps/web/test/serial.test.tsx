import { afterEach, describe, expect, test } from '@jest/globals';
import { cleanup, screen, waitFor } from '@testing-library/react';
import { EngineUnit } from '../src/link/EngineUnit.tsx';
import { choosePort, knownPort, whyNoSerial } from '../src/link/serial.ts';
import { open, refused, server } from './page.tsx';
import 'fake-indexeddb/auto';

const put = (on: object, name: string, value: unknown) =>
  Object.defineProperty(on, name, { value, configurable: true, writable: true });
afterEach(() => {
  put(navigator, 'serial', undefined);
  put(window, 'isSecureContext', true);
});
const port = (n: number) => ({ n }) as never;

test('a page without TLS is told apart from a browser without the standard', () => {
  // Secure Contexts (W3C): a powerful feature is not given out to a page that came over plain http.
  put(window, 'isSecureContext', false);
  expect(whyNoSerial()).toMatch(/^This page came without TLS/);
  put(window, 'isSecureContext', true);
  expect(whyNoSerial()).toMatch(/^This browser has no Web Serial/);
  put(navigator, 'serial', { getPorts: async () => [] });
  expect(whyNoSerial()).toBeNull();
});

test('a port is chosen by a person; none chosen, and no standard, are said', async () => {
  await expect(choosePort()).rejects.toThrow(/^This browser has no Web Serial/);
  put(navigator, 'serial', { requestPort: async () => port(1) });
  expect(await choosePort()).toEqual({ n: 1 });
  put(navigator, 'serial', { requestPort: () => Promise.reject(new DOMException('x', 'NotFoundError')) });
  await expect(choosePort()).rejects.toThrow('No port was chosen.');
});

test('after a reload the one port chosen before is known; of two it is not guessed which', async () => {
  expect(await knownPort()).toBeNull();
  for (const [ports, known] of [
    [[], null],
    [[port(1)], { n: 1 }],
    [[port(1), port(2)], null],
  ] as const) {
    put(navigator, 'serial', { getPorts: async () => ports });
    expect(await knownPort()).toEqual(known);
  }
});

describe('which unit is the engine’s', () => {
  const LIVE = (units?: object[]) =>
    ({ link: { adapter: 'sim:1', state: 'ready', detail: '', valuesPerSecond: 9, rates: {}, units } }) as never;
  const UNITS = [
    { ecu: '7E8', parameters: 39, engine: true },
    { ecu: '7E9', parameters: 4, engine: false },
  ];
  test('one that answers alone is no question; of several a person may say which', async () => {
    const asked = server({ 'POST /jobs/j1/link/engine': () => ({ body: {} }) });
    open(<EngineUnit jobId="j1" live={LIVE(UNITS.slice(0, 1))} />);
    expect(screen.queryByLabelText('Unit read as the engine’s')).toBeNull();
    cleanup();
    open(<EngineUnit jobId="j1" live={LIVE()} />);
    expect(screen.queryByLabelText('Unit read as the engine’s')).toBeNull();
    cleanup();
    const { person } = open(<EngineUnit jobId="j1" live={LIVE(UNITS)} />);
    const choice = screen.getByLabelText('Unit read as the engine’s') as HTMLSelectElement;
    expect([choice.value, [...choice.options].map((o) => o.text)]).toEqual([
      '7E8',
      ['7E8: 39 parameters', '7E9: 4 parameters'],
    ]);
    await person.selectOptions(choice, '7E9');
    await waitFor(() => expect(asked.map((a) => a.body)).toEqual([{ unit: '7E9' }]));
  });
  test('a server that has no link says so', async () => {
    server({ 'POST /jobs/j1/link/engine': () => refused(409, 'the adapter is not connected here: connect it first') });
    const { person } = open(<EngineUnit jobId="j1" live={LIVE(UNITS)} />);
    await person.selectOptions(screen.getByLabelText('Unit read as the engine’s'), '7E9');
    expect(await screen.findByText(/not connected here/)).toBeTruthy();
  });
});
