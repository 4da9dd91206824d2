import { Aside } from '../common/aside.ts';

/** What the thread is asked; each is answered by itself. */
export type PasswordWork =
  | { does: 'hash'; password: string }
  /** `stored` null: nobody has this account; as much work is done all the same. */
  | { does: 'check'; password: string; stored: string | null }
  /** `own`: words about the person and the shop, which are guessed first. */
  | { does: 'guess'; password: string; own: string[] };

/** Passwords are worked on in a thread of their own, one at a time: whoever tries many holds up nothing else. */
const thread = new Aside<PasswordWork, string | boolean>(new URL('./passwords.thread.js', import.meta.url), {
  ms: 20_000,
  megabytes: 64,
  waiting: 200,
});
const ask = (work: PasswordWork) => thread.run('', work);

export async function hashPassword(password: string): Promise<string> {
  return (await ask({ does: 'hash', password })) as string;
}

/** An account that has not set one yet has no password that fits. */
export async function checkPassword(stored: string | undefined, password: string): Promise<boolean> {
  return (await ask({ does: 'check', password, stored: stored || null })) === true;
}

/** Whether it is among the first million that anybody would try. */
export async function isGuessable(password: string, own: string[]): Promise<boolean> {
  return (await ask({ does: 'guess', password, own })) === true;
}
