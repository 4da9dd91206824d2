import { ConnectionError } from 'sequelize';

/**
 * Errors that say that the database cannot do it now, and would have done it at another time. MariaDB's own (Server
 * error codes of its manual) and the connector's (45xxx: its `error-code` module).
 */
const AWAY: ReadonlyMap<number, 'away' | 'full'> = new Map<number, 'away' | 'full'>([
  ...[3, 1021, 1026, 1114, 1135].map((n) => [n, 'full'] as const),
  // Too many connections, out of memory, shutting down, not in the cluster, lock waits, killed, gone.
  ...[1037, 1038, 1040, 1041, 1047, 1053, 1152, 1153, 1158, 1159, 1160, 1161].map((n) => [n, 'away'] as const),
  ...[1180, 1184, 1205, 1213, 1290, 1317, 1836, 1927, 2002, 2006, 2013].map((n) => [n, 'away'] as const),
  ...[45001, 45004, 45009, 45011, 45012, 45013, 45019, 45020, 45026, 45027, 45028].map((n) => [n, 'away'] as const),
  ...[45035, 45037, 45039, 45042, 45060, 45061].map((n) => [n, 'away'] as const),
]);
/** What the operating system says of a full disk (errno 28, ENOSPC), within MariaDB's "got error" (1030). */
const GOT_ERROR = 1030;
const NO_SPACE = /\b(28|ENOSPC|No space left)\b/;

/** Why the database could not do it now: it is away, or its disk is full; null for any other error. */
export function databaseAway(error: unknown): 'away' | 'full' | null {
  for (let e = error, depth = 0; e && depth < 4; depth++) {
    const { errno, code, original, parent, cause, message } = e as {
      errno?: unknown;
      code?: unknown;
      original?: unknown;
      parent?: unknown;
      cause?: unknown;
      message?: unknown;
    };
    if (errno === GOT_ERROR && NO_SPACE.test(String(message))) return 'full';
    const known = typeof errno === 'number' ? AWAY.get(errno) : undefined;
    if (known) return known;
    if (code === 'ECONNRESET' || code === 'ECONNREFUSED' || code === 'EPIPE' || code === 'ETIMEDOUT') return 'away';
    // Sequelize’s transaction that lost its connection says so in words alone.
    if (/connection closed|Cannot execute new commands/i.test(String(message ?? ''))) return 'away';
    e = original ?? parent ?? cause;
  }
  return error instanceof ConnectionError ? 'away' : null;
}
