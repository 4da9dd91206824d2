import { afterEach, expect, test } from '@jest/globals';
import { choosePort, knownPort, whyNoSerial } from '../src/link/serial.ts';

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
