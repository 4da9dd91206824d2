import { createHash, randomBytes } from 'node:crypto';
import type { IncomingMessage } from 'node:http';
import { Injectable } from '@nestjs/common';
import { parse } from 'cookie';
import { Op } from 'sequelize';
import type { Actor } from '../common/request.ts';
import { Account, Session } from '../database/models.ts';

export const COOKIE = 'jb_session';
/** A working day and the night after it. [house] */
export const SESSION_MS = 16 * 3600 * 1000;

const digest = (token: string) => createHash('sha256').update(token).digest('hex');

/** Cookie sessions kept in the database by the hash of their token. */
@Injectable()
export class Sessions {
  async open(accountId: string): Promise<{ token: string; expiresAt: Date }> {
    const token = randomBytes(32).toString('base64url');
    const expiresAt = new Date(Date.now() + SESSION_MS);
    await Session.destroy({ where: { expiresAt: { [Op.lt]: new Date() } } });
    await Session.create({ id: digest(token), accountId, expiresAt });
    return { token, expiresAt };
  }

  async close(sessionId: string): Promise<void> {
    await Session.destroy({ where: { id: sessionId } });
  }

  /** Who sent this request; null when nobody is signed in. */
  async actorOf(req: IncomingMessage): Promise<Actor | null> {
    const token = parse(req.headers.cookie ?? '')[COOKIE];
    if (!token) return null;
    const session = await Session.findOne({ where: { id: digest(token), expiresAt: { [Op.gt]: new Date() } } });
    const account = session && (await Account.findByPk(session.accountId));
    if (!session || !account) return null;
    return {
      accountId: account.id,
      shopId: account.shopId,
      name: account.name,
      role: account.role,
      sessionId: session.id,
    };
  }

  async alive(sessionId: string): Promise<boolean> {
    return (await Session.count({ where: { id: sessionId, expiresAt: { [Op.gt]: new Date() } } })) > 0;
  }
}
