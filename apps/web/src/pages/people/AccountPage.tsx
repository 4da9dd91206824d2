import { PasswordRequest, ROUTES, WRITES } from '@just-balance/contract';
import { formatDistanceToNowStrict } from 'date-fns';
import { useState } from 'react';
import { api } from '../../data/api.ts';
import { useRead } from '../../data/reads.ts';
import { useAccount } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { Field } from '../../ui/Field.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';

/** What a browser calls itself, in two words. */
function deviceName(agent: string): string {
  const system = /\((?:[^;)]*; )?([^;)]+)/.exec(agent)?.[1] ?? '';
  const browser = /(Firefox|Edg|Chrome|Safari)\/[\d.]+/.exec(agent)?.[1] ?? agent.split(' ')[0] ?? '';
  return [browser === 'Edg' ? 'Edge' : browser, system].filter(Boolean).join(', ') || 'a program';
}

/** The signed-in person's own password, and where they are signed in. */
export function AccountPage() {
  const account = useAccount();
  const { data: sessions, mutate } = useRead(ROUTES.ownSessions);
  const { busy, trouble, run } = useAction();
  const end = (which: typeof WRITES.signOutElsewhere) =>
    run(async () => {
      await api.send(which, {});
      await mutate();
    });
  const others = sessions?.filter((s) => !s.current).length ?? 0;
  return (
    <Frame title={account.name} subtitle={`${account.email} · ${account.role}`} side={<HouseNav current={null} />}>
      <NextStep
        title="Password and sessions"
        why={others === 0 ? 'You are signed in on this browser only.' : `You are signed in on ${others} more.`}
      >
        <button
          type="button"
          className="btn btn-lg"
          disabled={busy || others === 0}
          onClick={() => end(WRITES.signOutElsewhere)}
        >
          Sign out everywhere else
        </button>
      </NextStep>
      <Problem trouble={trouble} />
      <ul className="card m-0 list-none p-2" aria-label="Sessions">
        {sessions?.map((s) => (
          <li key={s.id} className="flex flex-wrap items-center gap-4 border-b border-rule px-3 py-3 last:border-b-0">
            <div className="flex-1">
              <div className="font-[650]">{deviceName(s.device)}</div>
              <div className="text-[0.9rem] text-soft">
                since {formatDistanceToNowStrict(new Date(s.since))}, last seen{' '}
                {formatDistanceToNowStrict(new Date(s.seen))} ago
              </div>
            </div>
            {s.current ? (
              <span className="badge badge-success">this browser</span>
            ) : (
              <button type="button" className="btn" disabled={busy} onClick={() => end(WRITES.signOutOne(s.id))}>
                Sign out
              </button>
            )}
          </li>
        ))}
      </ul>
      <NewPassword changed={() => mutate()} />
    </Frame>
  );
}

function NewPassword({ changed }: { changed: () => Promise<unknown> }) {
  const [done, setDone] = useState(false);
  const { register, submit, reset, busy, trouble, error } = useTypedForm({
    dto: PasswordRequest,
    defaults: { current: '', next: '' },
    body: (t) => t,
    send: async (body) => {
      setDone(false);
      await api.send(WRITES.changePassword, body);
      reset();
      setDone(true);
      await changed();
    },
  });
  return (
    <form className="card grid max-w-md gap-3 p-4" noValidate onSubmit={submit}>
      <h2 className="card-title">Another password</h2>
      <Field label="Present password" error={error('current')}>
        {(aria) => (
          <input className="input" type="password" autoComplete="current-password" {...register('current')} {...aria} />
        )}
      </Field>
      <Field label="New password, at least 10 characters" error={error('next')}>
        {(aria) => (
          <input className="input" type="password" autoComplete="new-password" {...register('next')} {...aria} />
        )}
      </Field>
      <Problem trouble={trouble} />
      <span role="status" className="text-soft">
        {done ? 'Changed. Every other browser of yours is signed out.' : ''}
      </span>
      <button type="submit" className="btn btn-primary btn-lg" disabled={busy}>
        Change it
      </button>
    </form>
  );
}
