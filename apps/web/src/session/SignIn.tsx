import { classValidatorResolver } from '@hookform/resolvers/class-validator';
import { SetupRequest, SignInRequest } from '@just-balance/contract';
import { type FieldErrors, useForm } from 'react-hook-form';
import { api } from '../shared/api.ts';
import { Logo } from '../shared/Logo.tsx';
import { Problem } from '../shared/Problem.tsx';
import { useSession } from '../shared/session.tsx';
import { useAction } from '../shared/useAction.ts';

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

function firstError<T extends object>(errors: FieldErrors<T>): string | null {
  const first = Object.values(errors)[0] as { message?: string } | undefined;
  return first?.message ?? null;
}

function Enter({ done }: { done: () => Promise<unknown> }) {
  const { busy, problem, run } = useAction();
  const { register, handleSubmit, formState } = useForm<SignInRequest>({
    resolver: classValidatorResolver(SignInRequest),
  });
  return (
    <form
      className="sheet grid gap-4 p-5"
      noValidate
      onSubmit={handleSubmit((v) =>
        run(async () => {
          await api.post('/session', v);
          await done();
        }),
      )}
    >
      <h2 className="sheet-title">Sign in</h2>
      <label className="field">
        Email
        <input type="email" autoComplete="username" {...register('email')} />
      </label>
      <label className="field">
        Password
        <input type="password" autoComplete="current-password" {...register('password')} />
      </label>
      <Problem text={problem ?? firstError(formState.errors)} />
      <button type="submit" className="press press-act press-big" disabled={busy}>
        Sign in
      </button>
    </form>
  );
}

function Setup({ done }: { done: () => Promise<unknown> }) {
  const { busy, problem, run } = useAction();
  const { register, handleSubmit, formState } = useForm<SetupRequest>({
    resolver: classValidatorResolver(SetupRequest),
  });
  return (
    <form
      className="sheet grid gap-4 p-5"
      noValidate
      onSubmit={handleSubmit((v) =>
        run(async () => {
          await api.post('/session/setup', v);
          await done();
        }),
      )}
    >
      <h2 className="m-0 text-xl font-bold">The first account</h2>
      <p className="m-0 text-soft">The console where the server was started shows a one-time token.</p>
      <label className="field">
        One-time token
        <input autoComplete="off" {...register('token')} />
      </label>
      <label className="field">
        Shop
        <input {...register('shopName')} />
      </label>
      <label className="field">
        Your name
        <input autoComplete="name" {...register('name')} />
      </label>
      <label className="field">
        Email
        <input type="email" autoComplete="username" {...register('email')} />
      </label>
      <label className="field">
        Password, at least 10 characters
        <input type="password" autoComplete="new-password" {...register('password')} />
      </label>
      <Problem text={problem ?? firstError(formState.errors)} />
      <button type="submit" className="press press-act press-big" disabled={busy}>
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
  const { busy, problem, run } = useAction();
  return (
    <section className="grid gap-3" aria-label="Demo accounts">
      <h2 className="sheet-title">This is a demo shop. Sign in as</h2>
      {accounts.map((a) => (
        <button
          key={a.email}
          type="button"
          className="press justify-between"
          disabled={busy}
          onClick={() =>
            run(async () => {
              await api.post('/session', { email: a.email, password: a.password });
              await done();
            })
          }
        >
          <span>{a.name}</span>
          <span className="figure text-[0.87rem] text-soft">{a.email}</span>
        </button>
      ))}
      <Problem text={problem} />
    </section>
  );
}
