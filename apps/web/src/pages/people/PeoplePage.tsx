import { NewPersonRequest, type PersonView, ROLE_NAMES, ROUTES, type RoleName, WRITES } from '@just-balance/contract';
import { format } from 'date-fns';
import { useState } from 'react';
import { api, newId } from '../../data/api.ts';
import { useRead } from '../../data/reads.ts';
import { useAccount } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { Field } from '../../ui/Field.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';
import { useTypedForm } from '../../ui/useTypedForm.ts';

const ROLES: Readonly<Record<RoleName, { label: string; may: string }>> = {
  lead: { label: 'Lead', may: 'everything, people and settings included' },
  technician: { label: 'Technician', may: 'all work on jobs, repairs and better figures included' },
  learner: { label: 'Learner', may: 'readings, tests, captures and practice; no repairs, no better figures' },
  'read-only': { label: 'Reads only', may: 'looks at everything, changes nothing' },
};

/** Who works here, what they may do, and how they get in. */
export function PeoplePage() {
  const account = useAccount();
  const { data: people, error, mutate } = useRead(ROUTES.people);
  const [link, setLink] = useState<{ name: string; url: string; until: string } | null>(null);
  const { busy, trouble, run } = useAction();
  const give = (p: PersonView) =>
    run(async () => {
      const given = await api.send(WRITES.linkForPerson(p.id), {});
      setLink({
        name: p.name,
        url: `${location.origin}/welcome#${given.token}`,
        until: format(new Date(given.expiresAt), 'd MMM yyyy, HH:mm'),
      });
      await mutate();
    });
  const change = (p: PersonView, body: object) =>
    run(async () => {
      await api.send(WRITES.changePerson(p.id), { rev: p.rev, ...body });
      await mutate();
    });
  const signOut = (p: PersonView) =>
    run(async () => {
      await api.send(WRITES.signPersonOut(p.id), {});
      await mutate();
    });
  return (
    <Frame title={account.shop.name} subtitle="people" side={<HouseNav current="people" />}>
      {error ? (
        <NextStep tone="trouble" title="The list of people could not be read" why={String(error.message)} />
      ) : (
        <NextStep
          title={people?.length === 1 ? 'You are the only one here: add the next person' : 'Who works here'}
          why="Nobody is deleted: work keeps its name. A person gets in by a one-time link, good for three days; it sets their password."
        />
      )}
      <Problem trouble={trouble} />
      {link && (
        <section className="card grid gap-2 border-2 border-act p-4" aria-label="One-time link" role="status">
          <p className="m-0">
            The link for <span className="font-[650]">{link.name}</span>, shown this once. It works once, until{' '}
            {link.until}. Whoever has it can sign in as them: hand it over yourself.
          </p>
          <label className="field">
            One-time link
            <input className="input figure" readOnly value={link.url} onFocus={(e) => e.target.select()} />
          </label>
          <div className="flex flex-wrap gap-3">
            <button
              type="button"
              className="btn btn-primary"
              onClick={() => void navigator.clipboard?.writeText(link.url)}
            >
              Copy
            </button>
            <button type="button" className="btn" onClick={() => setLink(null)}>
              Handed over
            </button>
          </div>
        </section>
      )}
      <ul className="card m-0 list-none p-2" aria-label="People">
        {people?.map((p) => (
          <li
            key={p.id}
            className="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule px-3 py-3 last:border-b-0"
          >
            <div className="min-w-52 flex-1">
              <div className={`text-[1.1rem] font-[650] ${p.disabled ? 'text-soft line-through' : ''}`}>{p.name}</div>
              <div className="figure text-[0.9rem] text-soft">{p.email}</div>
              <div className="text-[0.9rem] text-soft">
                {p.disabled
                  ? 'shut out'
                  : p.sessions > 0
                    ? `signed in on ${p.sessions} ${p.sessions === 1 ? 'browser' : 'browsers'}`
                    : p.hasPassword
                      ? 'not signed in'
                      : p.linkWaits
                        ? 'has a link, no password yet'
                        : 'cannot get in yet: give a link'}
                {!p.known && ` · the role “${p.role}” is not known here and may do nothing`}
              </div>
            </div>
            <label className="field w-44">
              <span className="sr-only">Role of {p.name}</span>
              <select
                className="select"
                value={p.role}
                disabled={busy || p.disabled}
                onChange={(e) => void change(p, { role: e.target.value })}
              >
                {!p.known && <option value={p.role}>{p.role}</option>}
                {ROLE_NAMES.map((r) => (
                  <option key={r} value={r}>
                    {ROLES[r].label}
                  </option>
                ))}
              </select>
            </label>
            {p.id !== account.id && (
              <button type="button" className="btn" disabled={busy || p.disabled} onClick={() => give(p)}>
                {p.hasPassword ? 'Link for a new password' : 'Give a link'}
              </button>
            )}
            {p.sessions > 0 && p.id !== account.id && (
              <button type="button" className="btn" disabled={busy} onClick={() => signOut(p)}>
                Sign out
              </button>
            )}
            {p.id !== account.id && (
              <button
                type="button"
                className="btn"
                disabled={busy}
                onClick={() => void change(p, { disabled: !p.disabled })}
              >
                {p.disabled ? 'Let in again' : 'Shut out'}
              </button>
            )}
          </li>
        ))}
      </ul>
      <NewPerson
        added={async () => {
          await mutate();
        }}
      />
      <section className="card grid gap-2 p-4" aria-labelledby="roles">
        <h2 id="roles" className="card-title">
          Who may do what
        </h2>
        <dl className="m-0 grid gap-x-4 gap-y-1 sm:grid-cols-[140px_1fr]">
          {ROLE_NAMES.map((r) => (
            <div key={r} className="contents">
              <dt className="font-[650]">{ROLES[r].label}</dt>
              <dd className="m-0 text-soft">{ROLES[r].may}</dd>
            </div>
          ))}
        </dl>
      </section>
    </Frame>
  );
}

function NewPerson({ added }: { added: () => Promise<void> }) {
  const { register, submit, reset, busy, trouble, error } = useTypedForm({
    dto: NewPersonRequest,
    defaults: { name: '', email: '', role: 'technician' as RoleName },
    body: (t) => ({ ...t, id: newId() }),
    send: async (body) => {
      await api.send(WRITES.addPerson, body);
      reset();
      await added();
    },
  });
  return (
    <form className="card grid gap-3 p-4" noValidate onSubmit={submit}>
      <h2 className="card-title">Add a person</h2>
      <div className="grid items-start gap-3 md:grid-cols-[1fr_1fr_180px_auto]">
        <Field label="Name" error={error('name')}>
          {(aria) => <input className="input" autoComplete="off" {...register('name')} {...aria} />}
        </Field>
        <Field label="Email" error={error('email')}>
          {(aria) => <input className="input" type="email" autoComplete="off" {...register('email')} {...aria} />}
        </Field>
        <Field label="Role" error={error('role')}>
          {(aria) => (
            <select className="select" {...register('role')} {...aria}>
              {ROLE_NAMES.map((r) => (
                <option key={r} value={r}>
                  {ROLES[r].label}
                </option>
              ))}
            </select>
          )}
        </Field>
        <button type="submit" className="btn btn-primary md:mt-[23px]" disabled={busy}>
          Add
        </button>
      </div>
      <Problem trouble={trouble} />
    </form>
  );
}
