import { SetupRequest, SignInRequest, WRITES } from '@just-balance/contract';
import { api } from '../../data/api.ts';
import { useSession } from '../../data/session.tsx';
import { Logo } from '../../frame/Logo.tsx';
import { Field } from '../../ui/Field.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';

export function SignIn() {
  const { session, refresh } = useSession();
  return (
    <main className="mx-auto grid min-h-screen max-w-md content-center gap-6 p-4">
      <div className="flex items-center gap-3">
        <Logo />
        <h1 className="m-0 text-3xl font-bold">Just Balance</h1>
      </div>
      {session?.setupNeeded ? <Setup done={refresh} /> : <Enter done={refresh} />}
      {session?.demo && !session.setupNeeded && <Demo done={refresh} accounts={session.demo} />}
    </main>
  );
}

function Enter({ done }: { done: () => Promise<unknown> }) {
  const { register, submit, busy, trouble, error } = useTypedForm({
    dto: SignInRequest,
    defaults: { email: '', password: '' },
    body: (t) => t,
    send: async (body) => {
      await api.send(WRITES.signIn, body);
      await done();
    },
  });
  return (
    <form className="card grid gap-4 p-5" noValidate onSubmit={submit}>
      <h2 className="card-title">Sign in</h2>
      <Field label="Email" error={error('email')}>
        {(aria) => <input className="input" type="email" autoComplete="username" {...register('email')} {...aria} />}
      </Field>
      <Field label="Password" error={error('password')}>
        {(aria) => (
          <input
            className="input"
            type="password"
            autoComplete="current-password"
            {...register('password')}
            {...aria}
          />
        )}
      </Field>
      <Problem trouble={trouble} />
      <button type="submit" className="btn btn-primary btn-lg" disabled={busy}>
        Sign in
      </button>
    </form>
  );
}

function Setup({ done }: { done: () => Promise<unknown> }) {
  const { register, submit, busy, trouble, error } = useTypedForm({
    dto: SetupRequest,
    defaults: { token: '', shopName: '', name: '', email: '', password: '' },
    body: (t) => t,
    send: async (body) => {
      await api.send(WRITES.setUp, body);
      await done();
    },
  });
  const fields = [
    { name: 'token', label: 'One-time token', autoComplete: 'off' },
    { name: 'shopName', label: 'Shop', autoComplete: 'organization' },
    { name: 'name', label: 'Your name', autoComplete: 'name' },
    { name: 'email', label: 'Email', autoComplete: 'username', type: 'email' },
    { name: 'password', label: 'Password, at least 10 characters', autoComplete: 'new-password', type: 'password' },
  ] as const;
  return (
    <form className="card grid gap-4 p-5" noValidate onSubmit={submit}>
      <h2 className="m-0 text-xl font-bold">The first account</h2>
      <p className="m-0 text-soft">The console where the server was started shows a one-time token.</p>
      {fields.map((f) => (
        <Field key={f.name} label={f.label} error={error(f.name)}>
          {(aria) => (
            <input
              className="input"
              type={'type' in f ? f.type : 'text'}
              autoComplete={f.autoComplete}
              {...register(f.name)}
              {...aria}
            />
          )}
        </Field>
      ))}
      <Problem trouble={trouble} />
      <button type="submit" className="btn btn-primary btn-lg" disabled={busy}>
        Create the shop
      </button>
    </form>
  );
}

function Demo({
  accounts,
  done,
}: {
  accounts: { email: string; password: string; name: string }[];
  done: () => Promise<unknown>;
}) {
  const { busy, trouble, run } = useAction();
  return (
    <section className="grid gap-3" aria-label="Demo accounts">
      <h2 className="card-title">This is a demo shop. Sign in as</h2>
      {accounts.map((a) => (
        <button
          key={a.email}
          type="button"
          className="btn justify-between"
          disabled={busy}
          onClick={() =>
            run(async () => {
              await api.send(WRITES.signIn, { email: a.email, password: a.password });
              await done();
            })
          }
        >
          <span>{a.name}</span>
          <span className="figure text-[0.87rem] text-soft">{a.email}</span>
        </button>
      ))}
      <Problem trouble={trouble} />
    </section>
  );
}
