import { expect } from '@jest/globals';
import type { AccountView, ApiError } from '@just-balance/contract';
import { standingOf } from '@just-balance/core/standing';
import { configure, type RenderResult, render } from '@testing-library/react';
import { type UserEvent, userEvent } from '@testing-library/user-event';
import type { ReactNode } from 'react';
import { createMemoryRouter, MemoryRouter, type RouteObject, RouterProvider } from 'react-router';
import { SWRConfig, unload } from 'swr';
import { patient } from '../../../scripts/lib/patience.cjs';
import { read } from '../src/data/reads.ts';
import { Me, useSession } from '../src/data/session.tsx';
import { PreferencesProvider } from '../src/ui/preferences.tsx';

// A page's first piece of code may take seconds on a machine that builds something beside: what comes is waited for.
configure({ asyncUtilTimeout: patient(30_000) });

/** What the page asked its server. */
interface Asked {
  method: string;
  path: string;
  // biome-ignore lint/suspicious/noExplicitAny: bodies of many shapes
  body: any;
}

/** One answer: a body, a refusal, or nobody there. */
export type Answer = { status?: number; body?: unknown; headers?: Record<string, string> } | 'away';
type Route = Answer | ((asked: Asked) => Answer);

/** A server of these routes, `METHOD /path`; what it has none for fails the test. Returns what was asked, in order. */
export function server(routes: Readonly<Record<string, Route>>): Asked[] {
  const asked: Asked[] = [];
  globalThis.fetch = (async (url: string, init: { method?: string; body?: string } = {}) => {
    const path = url.replace('/api', '');
    const a: Asked = { method: init.method ?? 'GET', path, body: init.body ? JSON.parse(init.body) : undefined };
    asked.push(a);
    const route = routes[`${a.method} ${path}`];
    if (route === undefined) throw new Error(`no route: ${a.method} ${path}`);
    const answer = typeof route === 'function' ? route(a) : route;
    if (answer === 'away') throw new TypeError('Failed to fetch');
    const { status = 200, body = null, headers = {} } = answer;
    // As JSON is: nothing undefined, nothing shared.
    const json = ArrayBuffer.isView(body) ? '' : JSON.stringify(body);
    return {
      ok: status < 300,
      status,
      headers: new Map(Object.entries(headers)),
      json: async () => JSON.parse(json),
      text: async () => String(body),
      arrayBuffer: async () => (body as Uint8Array).buffer,
      blob: async () => new Blob([body as Uint8Array<ArrayBuffer>]),
    };
  }) as never;
  return asked;
}

export const refused = (status: number, message: string, more: Partial<ApiError> = {}): Answer => ({
  status,
  body: { statusCode: status, message, ...more },
});

export const LEAD: AccountView = {
  id: 'a1',
  name: 'R. Okafor',
  email: 'okafor@linden.example',
  role: 'lead',
  rights: ['look', 'work', 'judge', 'drive', 'lead'],
  shop: { id: 's1', name: 'Linden Yard', rev: 1, settings: {}, learned: {} },
};

/** Where a job with nothing in it stands. */
export const AT = standingOf(
  {
    ...{ id: 'j1', status: 'open', openedAt: '2026-05-04T08:00:00Z', openedBy: 'A. Lund', ambient: {} },
    vehicle: { label: 'Marl 2.0', fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4 },
    complaint: { symptoms: [] },
    ...{
      records: [],
      readings: [],
      tests: [],
      repairs: [],
      runs: [],
      entries: [],
      photos: [],
      diagnoses: [],
      cautions: [],
    },
  },
  null,
);

/** A job of which nothing is kept yet. */
export const EMPTY_JOB = {
  id: 'j1',
  ambient: {},
  records: [],
  readings: [],
  tests: [],
  repairs: [],
  captures: [],
  known: [],
  cautions: [],
  diagnoses: [],
  damaged: [],
  runs: [],
  entries: [],
  photos: [],
  standing: { ...AT, proof: null },
} as const;

/** What every page asks for. */
export const SIGNED_IN = {
  'GET /session': { body: { account: LEAD, setupNeeded: false, demo: null } },
} as const;

/** What stands around everything, routes included. */
const housed = (what: ReactNode) => (
  <PreferencesProvider>
    <SWRConfig value={{ fetcher: read, dedupingInterval: 0, errorRetryCount: 0 }}>
      <Me value={LEAD}>{what}</Me>
    </SWRConfig>
  </PreferencesProvider>
);

/** What stands around everything of the page. */
export const around = (what: ReactNode, path = '/') =>
  housed(<MemoryRouter initialEntries={[path]}>{what}</MemoryRouter>);

/** A canvas takes every stroke from now on and draws nothing. */
export function drawsNothing(): void {
  HTMLCanvasElement.prototype.getContext = function (this: HTMLCanvasElement) {
    const own = {
      canvas: this,
      measureText: () => ({ width: 8, actualBoundingBoxAscent: 6, actualBoundingBoxDescent: 2 }),
    };
    return new Proxy(own, { get: (o, key) => Reflect.get(o, key) ?? (() => {}), set: () => true });
  } as never;
}

/** Something of the page, with what stands around it, and the person in front of it. */
export function open(what: ReactNode, path = '/'): RenderResult & { person: UserEvent } {
  return begin(around(what, path));
}

/** Routes of a page, as the application has them. */
export function openRoutes(routes: RouteObject[], path = '/'): RenderResult & { person: UserEvent } {
  return begin(housed(<RouterProvider router={createMemoryRouter(routes, { initialEntries: [path] })} />));
}

function begin(page: ReactNode): RenderResult & { person: UserEvent } {
  window.matchMedia ??= (() => ({ matches: false })) as never;
  Element.prototype.scrollIntoView ??= () => {};
  Blob.prototype.text ??= function (this: Blob) {
    return new Promise((done) => {
      const reader = new FileReader();
      reader.onload = () => done(String(reader.result));
      reader.readAsText(this);
    });
  };
  HTMLDialogElement.prototype.showModal ??= function (this: HTMLDialogElement) {
    this.open = true;
  };
  HTMLDialogElement.prototype.close ??= function (this: HTMLDialogElement) {
    this.open = false;
    this.dispatchEvent(new Event('close'));
  };
  // A page just opened knows nothing yet, and waits for nothing that another one asked for.
  unload();
  const person = userEvent.setup();
  const result = render(page);
  return { ...result, person };
}

/** The words tied to a control as its description: where a fault of it must stand. */
export function said(control: HTMLElement): string {
  const id = control.getAttribute('aria-describedby');
  expect(control.getAttribute('aria-invalid')).toBe(id ? 'true' : 'false');
  return id ? (document.getElementById(id)?.textContent ?? '') : '';
}

/** The same for somebody who is signed in, once the page knows it. */
export function openSignedIn(what: ReactNode, path?: string): ReturnType<typeof open> {
  const Gate = () => {
    const account = useSession().session?.account;
    return account ? <Me value={account}>{what}</Me> : null;
  };
  return open(<Gate />, path);
}
