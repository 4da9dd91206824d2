import { ApiFailure, said, send } from './api.ts';
import { answers, type SenderParts } from './Sender.ts';

/** One write to the server under the account that made it, and what became of it. */
export const sendOne = answers(
  (w) => send(w.method, w.path, w.body, w.idempotencyKey, w.accountId),
  (e) => ({ status: e instanceof ApiFailure ? e.status : 0, reason: said(e) }),
);

/** Timers of this browser, and a lock that all its tabs share under this name. */
export const partsOfBrowser = (lock: string): SenderParts => ({
  later(f, ms) {
    const timer = setTimeout(f, ms);
    return () => clearTimeout(timer);
  },
  alone: (f) => (navigator.locks ? navigator.locks.request(lock, f) : f()),
});
