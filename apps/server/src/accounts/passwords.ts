import { hash, verify } from '@node-rs/argon2';

/** argon2id (2 in the package's enumeration), OWASP's 19 MiB, 2 passes, 1 lane. */
const OPTIONS = { algorithm: 2, memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const;
/** Checked when no account matches, so that both answers take the same time. */
let decoy: string | null = null;

export function hashPassword(password: string): Promise<string> {
  return hash(password, OPTIONS);
}

export async function checkPassword(stored: string | undefined, password: string): Promise<boolean> {
  decoy ??= await hashPassword('nobody has this password');
  // An account that has not set one yet has no password that fits.
  const ok = await verify(stored || decoy, password);
  return !!stored && ok;
}
