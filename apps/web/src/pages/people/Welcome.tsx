import { InvitationRequest, WRITES } from '@just-balance/contract';
import { useState } from 'react';
import { api } from '../../data/api.ts';
import { Logo } from '../../frame/Logo.tsx';
import { Field } from '../../ui/Field.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useTypedForm } from '../../ui/useTypedForm.ts';

/** Where a one-time link leads: a password of one's own, and in. The token stands behind the # and never reaches a log. */
export function Welcome() {
  const [token] = useState(() => location.hash.slice(1));
  const { register, submit, busy, trouble, error, rest } = useTypedForm({
    dto: InvitationRequest,
    defaults: { password: '' },
    body: (t) => ({ ...t, token }),
    send: async (body) => {
      await api.send(WRITES.acceptInvitation, body);
      // A fresh page: nothing of whoever was signed in here before stays.
      location.replace('/');
    },
  });
  return (
    <main className="mx-auto grid min-h-screen max-w-md content-center gap-6 p-4">
      <div className="flex items-center gap-3">
        <Logo />
        <h1 className="m-0 text-3xl font-bold">Just Balance</h1>
      </div>
      <form className="card grid gap-4 p-5" noValidate onSubmit={submit}>
        <h2 className="card-title">Choose your password</h2>
        <p className="m-0 text-soft">Your link works once. Afterwards you sign in with your email and this password.</p>
        <Field label="Password, at least 10 characters" error={error('password')}>
          {(aria) => (
            <input className="input" type="password" autoComplete="new-password" {...register('password')} {...aria} />
          )}
        </Field>
        <Problem text={rest} trouble={trouble} />
        <button type="submit" className="btn btn-primary btn-lg" disabled={busy}>
          Set it and sign in
        </button>
      </form>
    </main>
  );
}
