/**
 * Keeps the page alive without the server. Files with a hash in their name are taken from the cache; the page itself and
 * what was last read from the API come from the server first, from the cache when it does not answer. Writes are never
 * cached: the page keeps those itself. Says `x-jb-kept` on answers that are not fresh. What is kept is of one account, and
 * goes with it.
 */
const PAGE = 'jb-page';
const API = 'jb-api';
/** Reads worth having without the server. */
const KEPT = [
  /^\/api\/session$/,
  /^\/api\/jobs$/,
  /^\/api\/jobs\/[^/]+$/,
  /^\/api\/jobs\/[^/]+\/(records|readings|tests|repairs|captures|known|cautions|diagnosis|damaged|runs|entries|photos)$/,
  /^\/api\/shop\/settings$/,
  /^\/api\/adapters$/,
  /^\/api\/procedures$/,
  /^\/api\/service\/outcomes$/,
];
/** Pictures small enough to be kept, seen once. */
const SMALL_PICTURE = /^\/api\/jobs\/[^/]+\/photos\/[^/]+\?small=1$/;
/** Answers kept: thirteen make a job. */
const KEPT_ANSWERS = 800;
/** Looked after at most this often. */
const THIN_MS = 60_000;
/** What has not changed is written again only after so long: most reads of a page say what the last one said. */
const SAME_MS = 600_000;
/** By address: the ETag of what is kept, and when it was written. Lost when this worker rests; then all is written once. */
const written = new Map();

async function fill() {
  const cache = await caches.open(PAGE);
  const response = await fetch('/manifest.json', { cache: 'no-cache' });
  if (!response.ok) return;
  const manifest = await response.text();
  // Nearly always the same build as last time: everything is here.
  if ((await (await cache.match('/manifest.json'))?.text()) === manifest) return;
  const files = new Set();
  for (const entry of Object.values(JSON.parse(manifest))) {
    for (const f of [entry.file, ...(entry.css ?? []), ...(entry.assets ?? [])]) files.add(`/${f}`);
  }
  await cache.add('/');
  for (const f of files) if (!(await cache.match(f))) await cache.add(f).catch(() => {});
  for (const r of await cache.keys()) {
    const { pathname } = new URL(r.url);
    if (pathname.startsWith('/assets/') && !files.has(pathname)) await cache.delete(r);
  }
  const missing = (await Promise.all([...files].map((f) => cache.match(f)))).some((hit) => !hit);
  if (!missing) await cache.put('/manifest.json', new Response(manifest));
}

self.addEventListener('install', (e) => {
  // Where the browser can: files of the app come from the cache without waking this worker for each of them.
  e.addRoutes?.([{ condition: { urlPattern: { pathname: '/assets/*' } }, source: { cacheName: PAGE } }])?.catch(
    () => {},
  );
  e.waitUntil(fill().then(() => self.skipWaiting()));
});

self.addEventListener('activate', (e) => {
  e.waitUntil(self.clients.claim());
});

/** Where the account whose answers are kept is written down: this worker forgets between two requests. */
const WHO = '/jb-who';
/** Undefined until it has been looked up; null: nobody's. */
let who;

async function whose() {
  if (who === undefined) {
    const noted = (await (await caches.open(API)).match(WHO))?.text();
    who = (await noted) ?? null;
  }
  return who;
}

let changing = Promise.resolve();

/** Another account, or none: what was read for the one before goes, before anything is kept for the next. */
function nowFor(account) {
  changing = changing.then(() => change(account)).catch(() => {});
  return changing;
}

async function change(account) {
  if ((await whose()) === account) return;
  who = account;
  written.clear();
  await caches.delete(API);
  if (account !== null) await (await caches.open(API)).put(WHO, new Response(account));
}

/** Signing in and out: whoever it is then, nothing is kept until it is known. */
async function changeOfSession(request) {
  const response = await fetch(request);
  if (response.ok) await nowFor(null);
  return response;
}

async function accountIn(response) {
  const session = await response
    .clone()
    .json()
    .catch(() => null);
  return session?.account?.id ?? null;
}

async function freshOrKept(request, name, key, event) {
  try {
    const response = await fetch(request);
    if (name === API) {
      if (response.status === 401) await nowFor(null);
      else if (response.ok) {
        const session = key === '/api/session';
        if (session) await nowFor(await accountIn(response));
        // An answer that was asked for before somebody else signed in is not kept among theirs.
        else if (response.headers.get('x-account') !== (await whose())) return response;
        if (session && who === null) return response;
      }
    }
    if (response.ok) {
      if (isNew(key, response)) event.waitUntil(write(name, key, response.clone()));
      return response;
    }
    // A proxy before a server that is down.
    if (response.status < 502 || response.status > 504) return response;
    return (await kept(name, key)) ?? response;
  } catch (e) {
    const hit = await kept(name, key);
    if (hit) return hit;
    throw e;
  }
}

/** Whether an answer is to be written: it says something else, or what is kept is old. */
function isNew(key, response) {
  const tag = response.headers.get('etag');
  const before = written.get(key);
  return !tag || before?.tag !== tag || Date.now() - before.at >= SAME_MS;
}

async function write(name, key, response) {
  const tag = response.headers.get('etag');
  // Opened now: the cache of before may have gone with its account.
  const cache = await caches.open(name);
  const by = response.headers.get('x-account');
  if (name === API && by !== null && by !== (await whose())) return;
  await cache.put(key, response);
  if (tag) written.set(key, { tag, at: Date.now() });
  else written.delete(key);
  await (name === API ? thin(cache) : fill().catch(() => {}));
}

async function kept(name, key) {
  const hit = await (await caches.open(name)).match(key);
  if (!hit) return null;
  const headers = new Headers(hit.headers);
  headers.set('x-jb-kept', '1');
  return new Response(hit.body, { status: hit.status, headers });
}

let thinnedAt = 0;

async function thin(cache) {
  if (Date.now() - thinnedAt < THIN_MS) return;
  thinnedAt = Date.now();
  const keys = (await cache.keys()).filter((k) => new URL(k.url).pathname !== WHO);
  for (const k of keys.slice(0, Math.max(0, keys.length - KEPT_ANSWERS))) {
    const { pathname, search } = new URL(k.url);
    written.delete(pathname + search);
    await cache.delete(k);
  }
}

async function keptOrFresh(request) {
  const cache = await caches.open(PAGE);
  const hit = await cache.match(request);
  if (hit) return hit;
  const response = await fetch(request);
  if (response.ok) await cache.put(request, response.clone());
  return response;
}

self.addEventListener('fetch', (e) => {
  const { request } = e;
  const url = new URL(request.url);
  if (url.origin !== self.location.origin) return;
  if (request.method !== 'GET') {
    if (/^\/api\/session(\/|$)/.test(url.pathname)) e.respondWith(changeOfSession(request));
    return;
  }
  if (request.mode === 'navigate') e.respondWith(freshOrKept(request, PAGE, '/', e));
  else if (url.pathname.startsWith('/assets/')) e.respondWith(keptOrFresh(request));
  else if (KEPT.some((k) => k.test(url.pathname)) || SMALL_PICTURE.test(url.pathname + url.search))
    e.respondWith(freshOrKept(request, API, url.pathname + url.search, e));
});
