import { useCallback, useState } from 'react';

/** What is half typed outlives its form: a tab of a station, Escape, a page loaded anew. It ends with the browser's tab. */
const PREFIX = 'jb-typed ';

/** What was half typed under a name; null where nothing was. */
export function draftOf<T>(key: string): T | null {
  try {
    const text = sessionStorage.getItem(PREFIX + key);
    return text === null ? null : (JSON.parse(text) as T);
  } catch {
    return null;
  }
}

/** Keep it, or with null forget it. A full store keeps less, and stops nobody. */
export function keepDraft(key: string, value: unknown): void {
  try {
    if (value === null) sessionStorage.removeItem(PREFIX + key);
    else sessionStorage.setItem(PREFIX + key, JSON.stringify(value));
  } catch {}
}

/** Whose they are: of another account nothing is found. */
const OWNER = 'jb-typed-by';

/** Somebody is there: what another person half typed in this tab goes. */
export function draftsBelongTo(accountId: string): void {
  if (sessionStorage.getItem(OWNER) !== accountId) forgetDrafts();
  sessionStorage.setItem(OWNER, accountId);
}

/** The next person at this tablet finds none of it. */
export function forgetDrafts(): void {
  for (const key of Object.keys(sessionStorage)) if (key.startsWith(PREFIX)) sessionStorage.removeItem(key);
}

/** A state that is kept as a draft; `forget` once it is on record. */
export function useDraft<T>(key: string, first: T): [T, (value: T) => void, () => void] {
  const [value, setValue] = useState<T>(() => draftOf<T>(key) ?? first);
  const set = useCallback(
    (next: T) => {
      setValue(next);
      keepDraft(key, next);
    },
    [key],
  );
  return [value, set, useCallback(() => keepDraft(key, null), [key])];
}
