import { type ContextType, useEffect, useRef } from 'react';
import { Outlet, useNavigation } from 'react-router';
import { ApiFailure, onOtherAccount, onSignedOut, writeAs } from '../data/api.ts';
import { draftsBelongTo } from '../data/drafts.ts';
import { noteName } from '../data/names.ts';
import { uploader } from '../data/offlineRecordings.ts';
import { outbox } from '../data/queue.ts';
import { hasLeft, leaveAccount, Me, noteSignedIn, useSession } from '../data/session.tsx';
import { SignIn } from '../pages/signIn/SignIn.tsx';
import { NextStep } from '../ui/NextStep.tsx';

/** Sign-in first; then whatever was asked for. */
export function Gate() {
  const { session, error, loading, refresh } = useSession();
  const going = useNavigation().state !== 'idle';
  const accountId = session?.account?.id ?? null;
  const name = session?.account?.name ?? null;
  const known = session !== undefined;
  const opened = useRef<string | null>(null);
  // What is open under a session that has ended stays as it was.
  const held = useRef<ContextType<typeof Me>>({ name: '', rights: [] });
  if (session?.account) held.current = session.account;
  if (accountId !== null) opened.current ??= accountId;
  const other = accountId !== null && accountId !== opened.current;
  // Before any form below is drawn: in an effect it would read first what another person half typed.
  if (accountId !== null) draftsBelongTo(accountId);
  useEffect(() => {
    // What this page has read was another's: it begins anew, with nothing of it.
    if (other) location.assign('/');
  }, [other]);
  useEffect(() => {
    onOtherAccount(() => void refresh());
    onSignedOut(() => void refresh());
  }, [refresh]);
  useEffect(() => {
    if (known) noteSignedIn(accountId !== null);
  }, [known, accountId]);
  useEffect(() => {
    if (accountId !== null) leaveAccount(false);
    if (accountId !== null && name !== null) noteName(accountId, name);
    writeAs(accountId);
    void outbox.useAccount(accountId);
    void uploader.useAccount(accountId);
  }, [accountId, name]);
  if (!session) {
    if (loading) return <p className="p-6 text-soft">Opening…</p>;
    return (
      <main className="mx-auto max-w-3xl p-6">
        <NextStep
          tone="trouble"
          title="The server does not answer"
          why={error instanceof ApiFailure ? error.message : 'Is it running? Everything already kept is safe.'}
        >
          <button type="button" className="btn btn-primary" onClick={() => refresh()}>
            Try again
          </button>
        </NextStep>
      </main>
    );
  }
  if (other) return <p className="p-6 text-soft">Opening…</p>;
  // Ended elsewhere: asked for at once, and what was typed is there again when the same person is.
  if (accountId === null && (opened.current === null || hasLeft())) return <SignIn />;
  return (
    <>
      {accountId === null && <SignIn />}
      {going && (
        <progress
          className="progress progress-primary fixed inset-x-0 top-0 z-50 h-1 rounded-none"
          aria-label="Opening the page"
        />
      )}
      <div className={accountId === null ? 'hidden' : 'contents'} inert={accountId === null}>
        <Me value={held.current}>
          <Outlet />
        </Me>
      </div>
    </>
  );
}
