/** Who has signed in on this device, by account: so that the next person sees whose entries wait on it. */
const KEY = 'jb-names';

function names(): Record<string, string> {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? '{}') as Record<string, string>;
  } catch {
    return {};
  }
}

export function noteName(accountId: string, name: string): void {
  try {
    localStorage.setItem(KEY, JSON.stringify({ ...names(), [accountId]: name }));
  } catch {}
}

/** Their names; of one that is not known here, nothing. */
export function namesOf(ids: readonly string[]): string[] {
  const known = names();
  return [...new Set(ids.flatMap((id) => known[id] ?? []))];
}
