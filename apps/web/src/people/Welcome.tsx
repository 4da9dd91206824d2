import { classValidatorResolver } from '@hookform/resolvers/class-validator';
import { InvitationRequest } from '@just-balance/contract';
import { useState } from 'react';
import { useForm } from 'react-hook-form';
import { api } from '../shared/api.ts';
import { Logo } from '../shared/Logo.tsx';
import { Problem } from '../shared/Problem.tsx';
import { useAction } from '../shared/useAction.ts';

/** Where a one-time link leads: a password of one's own, and in. The token stands behind the # and never reaches a log. */
export function Welcome() {
  const [token] = useState(() => location.hash.slice(1));
  const { busy, problem, run } = useAction();
  const { register, handleSubmit, formState } = useForm<InvitationRequest>({
    resolver: classValidatorResolver(InvitationRequest),
    defaultValues: { token, password: '' },
  });
  const wrong = Object.values(formState.errors)[0]?.message ?? null;
  return (
    <main className="mx-auto grid min-h-screen max-w-md content-center gap-6 p-4">
      <div className="flex items-center gap-3">
        <Logo />
        <h1 className="m-0 text-3xl font-bold">Just Balance</h1>
      </div>
      <form
        className="sheet grid gap-4 p-5"
        noValidate
        onSubmit={handleSubmit((v) =>
          run(async () => {
            await api.post('/session/invitation', v);
            // A fresh page: nothing of whoever was signed in here before stays.
            location.replace('/');
          }),
        )}
      >
        <h2 className="sheet-title">Choose your password</h2>
        <p className="m-0 text-soft">Your link works once. Afterwards you sign in with your email and this password.</p>
        <label className="field">
          Password, at least 10 characters
          <input type="password" autoComplete="new-password" {...register('password')} />
        </label>
        <Problem text={problem ?? wrong} />
        <button type="submit" className="press press-act press-big" disabled={busy}>
          Set it and sign in
        </button>
      </form>
    </main>
  );
}
