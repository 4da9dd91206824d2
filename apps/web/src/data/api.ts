import {
  ACCOUNT_HEADER,
  type ApiError,
  CLOCK_HEADER,
  type Route,
  TYPED_HEADER,
  type Write,
} from '@just-balance/contract';
import { v7 as uuidv7 } from 'uuid';
import { shopClock } from './shopClock.ts';

/** The server said no, or did not answer (`status` 0). The message says what to do. */
export class ApiFailure extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly errors: { field: string; message: string }[] = [],
    readonly current: unknown = null,
  ) {
    super(message);
  }
}

const CONFLICT = 409;

/** What stands now, where a write was refused because somebody else was quicker; null for every other failure. */
export function standsNow<V extends { rev: number }>(e: unknown): V | null {
  const current = e instanceof ApiFailure && e.status === CONFLICT ? (e.current as V | null) : null;
  return typeof current?.rev === 'number' ? current : null;
}

/** So many others in a row are quicker, and a person is asked. */
export const MOST_TRIES = 4;

/** This page, by an id it gives itself: the server does not tell it of its own writes. */
export const SCREEN = uuidv7();

/** Whose page this is, as far as it knows: what it writes is theirs, whoever is signed in by then. */
let account: string | null = null;
export function writeAs(accountId: string | null): void {
  account = accountId;
}
export const writesAs = (): string | null => account;

/** The server said that somebody else is signed in on this browser now. */
const OTHER_ACCOUNT = 412;
let otherAccount = () => {};
export function onOtherAccount(f: () => void): void {
  otherAccount = f;
}

/** The server said that nobody is signed in on this browser any more: the session was ended elsewhere, or is over. */
const SIGNED_OUT = 401;
let signedOut = () => {};
export function onSignedOut(f: () => void): void {
  signedOut = f;
}
export const saySignedOut = (): void => signedOut();

const headersOf = (accountId: string | null): Record<string, string> => ({
  'x-screen': SCREEN,
  [TYPED_HEADER]: '1',
  ...(accountId === null ? {} : { [ACCOUNT_HEADER]: accountId }),
});

const TIMEOUT_MS = 20_000;

/** Columns of an import may take longer than a form. */
const UPLOAD_TIMEOUT_MS = 120_000;

interface Whole<T> {
  body: T;
  headers: Headers;
}

async function answer<T>(request: () => Promise<Response>): Promise<T> {
  return (await whole<T>(request)).body;
}

const asJson = (r: Response): Promise<unknown> => r.json().catch(() => null);

async function whole<T>(
  request: () => Promise<Response>,
  read: (r: Response) => Promise<unknown> = asJson,
): Promise<Whole<T>> {
  let response: Response;
  const sentMs = Date.now();
  try {
    response = await request();
  } catch {
    throw new ApiFailure(0, 'The server does not answer. Nothing was sent; try again.');
  }
  const { headers } = response;
  shopClock.heard(sentMs, Number(headers.get(CLOCK_HEADER) ?? Number.NaN));
  if (response.status === 204) return { body: undefined as T, headers };
  if (!response.ok) {
    const e = (await asJson(response)) as ApiError | null;
    if (response.status === OTHER_ACCOUNT) otherAccount();
    if (response.status === SIGNED_OUT) signedOut();
    throw new ApiFailure(
      response.status,
      e?.message ?? `The server answered ${response.status}.`,
      e?.errors,
      e?.current,
    );
  }
  return { body: (await read(response)) as T, headers };
}

async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  const headers = method === 'GET' || path.startsWith('/session') ? headersOf(null) : headersOf(account);
  if (body !== undefined) headers['content-type'] = 'application/json';
  if (method === 'POST') headers['idempotency-key'] = uuidv7();
  return answer(() =>
    fetch(`/api${path}`, {
      method,
      headers,
      body: body === undefined ? undefined : JSON.stringify(body),
      signal: AbortSignal.timeout(TIMEOUT_MS),
    }),
  );
}

/** A write that was put down before: JSON as text, or bytes, under the key it was given then, by who wrote it. */
export function send(
  method: string,
  path: string,
  body: string | ArrayBuffer,
  idempotencyKey: string,
  accountId: string,
): Promise<unknown> {
  return answer(() =>
    fetch(`/api${path}`, {
      method,
      headers: {
        'content-type': typeof body === 'string' ? 'application/json' : 'application/octet-stream',
        'idempotency-key': idempotencyKey,
        ...headersOf(accountId),
      },
      body,
      signal: AbortSignal.timeout(typeof body === 'string' ? TIMEOUT_MS : UPLOAD_TIMEOUT_MS),
    }),
  );
}

export const api = {
  get: <T>(route: Route<T>) => call<T>('GET', route),
  /** With the answer's headers. */
  getWhole: <T>(path: string) =>
    whole<T>(() => fetch(`/api${path}`, { headers: headersOf(null), signal: AbortSignal.timeout(TIMEOUT_MS) })),
  /** A file that the server makes, as it is. */
  file: async (path: string): Promise<Blob> => {
    const asked = () =>
      fetch(`/api${path}`, { headers: headersOf(null), signal: AbortSignal.timeout(UPLOAD_TIMEOUT_MS) });
    return (await whole<Blob>(asked, (r) => r.blob())).body;
  },
  /** A write, as the contract types it. */
  send: <B, A>({ method, path }: Write<B, A>, body: B) => call<A>(method, path, method === 'DELETE' ? undefined : body),
  /** A file as it is. */
  upload: <A>({ method, path }: Write<object, A>, body: Blob, type: string) =>
    answer<A>(() =>
      fetch(`/api${path}`, {
        method,
        headers: { 'content-type': type, ...headersOf(account) },
        body,
        signal: AbortSignal.timeout(UPLOAD_TIMEOUT_MS),
      }),
    ),
};

/** Ids are made here: a repeat of the same write changes nothing. */
export const newId = (): string => uuidv7();

/** What went wrong, as one sentence for a person. */
export function said(e: unknown): string {
  return e instanceof Error ? e.message : String(e);
}
