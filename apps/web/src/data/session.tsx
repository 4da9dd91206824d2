import { type AccountView, ROUTES } from '@just-balance/contract';
import { createContext, useContext } from 'react';
import { forgetDrafts } from './drafts.ts';
import { useRead } from './reads.ts';

export function useSession() {
  const { data, error, mutate, isLoading } = useRead(ROUTES.session, { revalidateOnFocus: true });
  return { session: data, error, refresh: mutate, loading: isLoading };
}

const SIGNED_IN = 'jb-signed-in';

/** Whether somebody was signed in on this browser when it was last known. */
export function wasSignedIn(): boolean {
  return localStorage.getItem(SIGNED_IN) === '1';
}

export function noteSignedIn(yes: boolean): void {
  if (yes) localStorage.setItem(SIGNED_IN, '1');
  else localStorage.removeItem(SIGNED_IN);
}

/** Of a session that was ended elsewhere: what was typed under it stays until its account signs in again. */
let newest: AccountView | null = null;
let leftByHand = false;

/** Somebody signs out (true): nothing of theirs stays; or is there (false). */
export function leaveAccount(leaves = true): void {
  leftByHand = leaves;
  if (leaves) forgetDrafts();
}

/** Whether what was open under an account goes with its session; asked by the gate. */
export const hasLeft = (): boolean => leftByHand;

/** The signed-in account; only below the sign-in gate. */
export function useAccount(): AccountView {
  const { session } = useSession();
  if (session?.account) newest = session.account;
  if (!newest) throw new Error('nobody is signed in');
  return newest;
}

/** Who is signed in, by name, and what they may do: given by the gate to all that stands below it. */
export const Me = createContext<Pick<AccountView, 'name' | 'rights'>>({ name: '', rights: [] });

export const useMe = () => useContext(Me);

/** Whether the signed-in account's role may do this; the server has the last word. */
export function useMay(right: string): boolean {
  return useMe().rights.includes(right);
}
