import { useEffect } from 'react';
import { Navigate, Route, Routes } from 'react-router';
import { Board } from './board/Board.tsx';
import { NewJob } from './board/NewJob.tsx';
import { ShopPage } from './board/ShopPage.tsx';
import { CalculatorsPage } from './calculators/CalculatorsPage.tsx';
import { JobPage } from './JobPage.tsx';
import { outbox } from './offline/queue.ts';
import { AccountPage } from './people/AccountPage.tsx';
import { PeoplePage } from './people/PeoplePage.tsx';
import { Welcome } from './people/Welcome.tsx';
import { Practice } from './practice/Practice.tsx';
import { SignIn } from './session/SignIn.tsx';
import { ApiFailure } from './shared/api.ts';
import { NextStep } from './shared/NextStep.tsx';
import { useSession } from './shared/session.tsx';

/** Sign-in first; then the board, a job, or practice. */
export function App() {
  const { session, error, loading, refresh } = useSession();
  const accountId = session?.account?.id ?? null;
  useEffect(() => {
    void outbox.useAccount(accountId);
  }, [accountId]);
  if (!session) {
    if (loading) return <p className="p-6 text-soft">Opening…</p>;
    return (
      <main className="mx-auto max-w-3xl p-6">
        <NextStep
          tone="trouble"
          title="The server does not answer"
          why={error instanceof ApiFailure ? error.message : 'Is it running? Everything already kept is safe.'}
        >
          <button type="button" className="press press-act" onClick={() => refresh()}>
            Try again
          </button>
        </NextStep>
      </main>
    );
  }
  // A one-time link works whoever is signed in on this browser.
  if (location.pathname === '/welcome') return <Welcome />;
  if (!session.account) return <SignIn />;
  return (
    <Routes>
      <Route path="/" element={<Board />} />
      <Route path="/new" element={<NewJob />} />
      <Route path="/practice" element={<Practice />} />
      <Route path="/calculators" element={<CalculatorsPage />} />
      <Route path="/shop" element={<ShopPage />} />
      <Route path="/people" element={<PeoplePage />} />
      <Route path="/account" element={<AccountPage />} />
      <Route path="/jobs/:jobId/:station?" element={<JobPage />} />
      <Route path="*" element={<Navigate to="/" replace />} />
    </Routes>
  );
}
