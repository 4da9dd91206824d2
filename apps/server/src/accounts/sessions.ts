import { createHash, randomBytes } from 'node:crypto';
import type { IncomingMessage } from 'node:http';
import type { OwnSessionView } from '@just-balance/contract';
import { Inject, Injectable } from '@nestjs/common';
import { parse } from 'cookie';
import { Op, QueryTypes } from 'sequelize';
import type { Actor } from '../common/request.ts';
import { CONFIG, type ServerConfig } from '../config.ts';
import { type Account, KnownDevice, Session } from '../rows/accounts.ts';

const COOKIE = 'jb_session';
/** Tells a browser that has signed in before from one that has not; opens nothing by itself. */
const DEVICE_COOKIE = 'jb_device';
/** A cookie of this name comes over TLS and from this host alone, by the browser's own word (RFC 6265bis, 4.1.3.2). */
const OWN_HOST = '__Host-';
/** A working day and the night after it. [house] */
export const SESSION_MS = 16 * 3600 * 1000;
export const DEVICE_MS = 400 * 86_400_000;
/** Written down at most this often, ms. */
const SEEN_EVERY_MS = 60_000;

export const digest = (token: string) => createHash('sha256').update(token).digest('hex');
export const newToken = () => randomBytes(32).toString('base64url');

/** Cookie sessions kept in the database by the hash of their token. */
@Injectable()
export class Sessions {
  private readonly seen = new Map<string, number>();
  /** Whether browsers reach this server over TLS. */
  readonly secure: boolean;
  readonly cookie: string;
  readonly deviceCookie: string;

  constructor(@Inject(CONFIG) { behindTls, tls }: Pick<ServerConfig, 'behindTls' | 'tls'>) {
    this.secure = behindTls || tls !== null;
    this.cookie = (this.secure ? OWN_HOST : '') + COOKIE;
    this.deviceCookie = (this.secure ? OWN_HOST : '') + DEVICE_COOKIE;
  }

  async open(accountId: string, device: string): Promise<string> {
    const token = newToken();
    await Session.destroy({ where: { expiresAt: { [Op.lt]: new Date() } } });
    await Session.create({
      id: digest(token),
      accountId,
      device: device.slice(0, 200),
      seenAt: new Date(),
      expiresAt: new Date(Date.now() + SESSION_MS),
    });
    return token;
  }

  async close(sessionId: string): Promise<void> {
    await Session.destroy({ where: { id: sessionId } });
  }

  /** All sessions of an account but `except`; returns which. */
  async closeAll(accountId: string, except: string | null): Promise<string[]> {
    const where = { accountId, ...(except ? { id: { [Op.ne]: except } } : {}) };
    const ids = (await Session.findAll({ where })).map((s) => s.id);
    await Session.destroy({ where });
    return ids;
  }

  async listOf(who: Actor): Promise<OwnSessionView[]> {
    const rows = await Session.findAll({
      where: { accountId: who.accountId, expiresAt: { [Op.gt]: new Date() } },
      order: [['createdAt', 'DESC']],
    });
    return rows.map((s) => ({
      id: s.id,
      device: s.device,
      since: s.createdAt.toISOString(),
      seen: (s.seenAt ?? s.createdAt).toISOString(),
      current: s.id === who.sessionId,
    }));
  }

  /** The id of the session that a request carries a cookie of, whether it is alive or not. */
  idOf(req: IncomingMessage): string | null {
    const token = cookiesOf(req)[this.cookie];
    return token ? digest(token) : null;
  }

  /** Who sent this request; null when nobody is signed in, or the account was disabled meanwhile. One query. */
  async actorOf(req: IncomingMessage): Promise<Actor | null> {
    const id = this.idOf(req);
    if (!id) return null;
    // By hand: every request passes here, and a row of each model costs more than the rest of the answer together.
    const [account] = await Session.sequelize!.query<Pick<Account, 'id' | 'shopId' | 'name' | 'role'>>(
      `SELECT a.id, a.shopId, a.name, a.role FROM session s JOIN account a ON a.id = s.accountId
       WHERE s.id = ? AND s.expiresAt > ? AND a.disabledAt IS NULL`,
      { replacements: [id, new Date()], type: QueryTypes.SELECT },
    );
    if (!account) return null;
    this.markSeen(id);
    const screen = req.headers['x-screen'];
    return {
      accountId: account.id,
      shopId: account.shopId,
      name: account.name,
      role: account.role,
      sessionId: id,
      screen: typeof screen === 'string' ? screen.slice(0, 36) : null,
      lookedAt: null,
    };
  }

  private markSeen(id: string): void {
    const now = Date.now();
    if (now - (this.seen.get(id) ?? 0) < SEEN_EVERY_MS) return;
    if (this.seen.size > 10_000) this.seen.clear();
    this.seen.set(id, now);
    void Session.update({ seenAt: new Date(now) }, { where: { id } }).catch(() => {});
  }

  /** Those of the given sessions that still stand, each with the role of its account as it is now. */
  async alive(sessionIds: readonly string[]): Promise<Map<string, string>> {
    if (sessionIds.length === 0) return new Map();
    const rows = await Session.sequelize!.query<{ id: string; role: string }>(
      `SELECT s.id, a.role FROM session s JOIN account a ON a.id = s.accountId
       WHERE s.id IN (?) AND s.expiresAt > ? AND a.disabledAt IS NULL`,
      { replacements: [[...sessionIds], new Date()], type: QueryTypes.SELECT },
    );
    return new Map(rows.map((r) => [r.id, r.role]));
  }

  /** The browser's own token where this account has signed in from it before. */
  async knownDevice(req: IncomingMessage, accountId: string): Promise<boolean> {
    const token = cookiesOf(req)[this.deviceCookie];
    return !!token && (await KnownDevice.count({ where: { id: digest(token), accountId } })) > 0;
  }

  /** Remember this browser for the account; returns the token its cookie carries. */
  async rememberDevice(req: IncomingMessage, accountId: string): Promise<string> {
    const token = cookiesOf(req)[this.deviceCookie] ?? newToken();
    await KnownDevice.upsert({ id: digest(token), accountId });
    return token;
  }

  async forgetDevices(accountId: string): Promise<void> {
    await KnownDevice.destroy({ where: { accountId } });
  }

  /** What tells this browser from others; empty where it carries no mark. */
  deviceOf(req: IncomingMessage): string {
    return digest(cookiesOf(req)[this.deviceCookie] ?? '');
  }
}

/** Cookies of a request; a header that cannot be read is none. */
function cookiesOf(req: IncomingMessage): Record<string, string | undefined> {
  try {
    return parse(req.headers.cookie ?? '');
  } catch {
    return {};
  }
}
