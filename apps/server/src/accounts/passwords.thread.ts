import { hash, verify } from '@node-rs/argon2';
import { ZxcvbnFactory } from '@zxcvbn-ts/core';
import { adjacencyGraphs, dictionary } from '@zxcvbn-ts/language-common';
import { answerAside } from '../common/aside.ts';
import type { PasswordWork } from './passwords.ts';

/** argon2id (2 in the package's enumeration), OWASP's 19 MiB, 2 passes, 1 lane. */
const OPTIONS = { algorithm: 2, memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const;
/** Guesses that an attacker has at once: what falls within them is refused. [house] */
const EASY = 1_000_000;
/** What is longer is not in any list. */
const LOOKED_AT = 64;

/** Checked when no account matches, so that both answers take the same time. */
let decoy: string | null = null;
let guesser: ZxcvbnFactory | null = null;

answerAside<PasswordWork, string | boolean>(async (work) => {
  if (work.does === 'hash') return hash(work.password, OPTIONS);
  if (work.does === 'check') {
    decoy ??= await hash('nobody has this password', OPTIONS);
    const ok = await verify(work.stored ?? decoy, work.password);
    return work.stored !== null && ok;
  }
  guesser ??= new ZxcvbnFactory({ dictionary, graphs: adjacencyGraphs });
  return guesser.check(work.password.slice(0, LOOKED_AT), work.own).guesses < EASY;
});
