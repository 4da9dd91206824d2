import type { NewPersonRequest, PersonPatchRequest, PersonView, SetupRequest } from '@just-balance/contract';
import { ConflictException, ForbiddenException, Injectable } from '@nestjs/common';
import { Op, type Transaction, UniqueConstraintError } from 'sequelize';
import { v7 as uuidv7 } from 'uuid';
import { badFields, conflict, notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { Work } from '../database/work.ts';
import { Live } from '../live/live.service.ts';
import { Account, Invitation, Session } from '../rows/accounts.ts';
import { Shop, ShopChange } from '../rows/shop.ts';
import { Attempts } from './attempts.ts';
import { noteAccount } from './history.ts';
import { checkPassword, hashPassword, isGuessable } from './passwords.ts';
import { ROLES } from './rights.ts';
import { digest, newToken, Sessions } from './sessions.ts';

/** How long a one-time link may lie. [house] */
const LINK_MS = 3 * 86_400_000;

/** The people of a shop: who they are, what they may do, how they get in. Nobody is deleted: work keeps its name. */
@Injectable()
export class People {
  constructor(
    private readonly work: Work,
    private readonly sessions: Sessions,
    private readonly attempts: Attempts,
    private readonly live: Live,
  ) {}

  /** The shop and its first lead. Throws 403 when another was quicker. */
  async first(body: SetupRequest): Promise<Account> {
    await mustBeHard('password', body.password, [body.name, body.email, body.shopName]);
    const passwordHash = await hashPassword(body.password);
    return this.work.run(async (transaction) => {
      if (await Account.findOne({ attributes: ['id'], transaction, lock: true }))
        throw new ForbiddenException({ statusCode: 403, message: 'there is an account already: sign in' });
      const shop = await Shop.create({ id: uuidv7(), name: body.shopName, settings: {}, rev: 1 }, { transaction });
      return Account.create(
        { id: uuidv7(), shopId: shop.id, email: body.email.toLowerCase(), name: body.name, role: 'lead', passwordHash },
        { transaction },
      );
    });
  }

  async list(who: Actor): Promise<PersonView[]> {
    const accounts = await Account.findAll({ where: { shopId: who.shopId }, order: [['name', 'ASC']] });
    const now = new Date();
    const open = await Session.findAll({
      where: { accountId: accounts.map((a) => a.id), expiresAt: { [Op.gt]: now } },
      attributes: ['accountId'],
    });
    const links = await Invitation.findAll({
      where: { accountId: accounts.map((a) => a.id), expiresAt: { [Op.gt]: now } },
      attributes: ['accountId'],
    });
    return accounts.map((a) => ({
      ...personView(a),
      sessions: open.filter((s) => s.accountId === a.id).length,
      linkWaits: links.some((l) => l.accountId === a.id),
    }));
  }

  private async noted(who: Actor, what: string, name: string, transaction: Transaction): Promise<void> {
    const { shopId, accountId } = who;
    const data = { what, name };
    await ShopChange.create({ id: uuidv7(), shopId, accountId, by: who.name, kind: 'person', data }, { transaction });
  }

  private async find(who: Actor, id: string, transaction: Transaction): Promise<Account> {
    const a = await Account.findOne({ where: { id, shopId: who.shopId }, transaction, lock: true });
    if (!a) throw notHere('person');
    return a;
  }

  async add(who: Actor, body: NewPersonRequest): Promise<PersonView> {
    const taken = () => badFields([{ field: 'email', message: 'somebody signs in with this address already' }]);
    try {
      return await this.work.run(async (transaction) => {
        const before = await Account.findByPk(body.id, { transaction });
        if (before && before.shopId !== who.shopId) throw conflict('this id', null);
        if (before) return personView(before);
        const { id, name, role } = body;
        const email = body.email.toLowerCase();
        const made = await Account.create({ id, shopId: who.shopId, email, name, role }, { transaction });
        await this.noted(who, `added, as ${role},`, name, transaction);
        return personView(made);
      });
    } catch (e) {
      throw e instanceof UniqueConstraintError ? taken() : e;
    }
  }

  /** Another name or role, or shut out; the last lead stays one. Who is shut out is signed out everywhere. */
  async change(who: Actor, id: string, body: PersonPatchRequest): Promise<PersonView> {
    const view = await this.work.run(async (transaction) => {
      // Locks all leads: two leads that disable each other at once leave one.
      const leads = await Account.findAll({
        where: { shopId: who.shopId, role: 'lead', disabledAt: null },
        transaction,
        lock: true,
      });
      const a = await this.find(who, id, transaction);
      if (a.rev !== body.rev) throw conflict('this person', personView(a));
      const stopsLeading =
        leads.some((l) => l.id === id) && (body.disabled === true || (body.role !== undefined && body.role !== 'lead'));
      if (stopsLeading && leads.length === 1)
        throw new ConflictException({ statusCode: 409, message: 'the shop needs a lead: name another one first' });
      await a.update(
        {
          rev: a.rev + 1,
          ...(body.name === undefined ? {} : { name: body.name }),
          ...(body.role === undefined ? {} : { role: body.role }),
          ...(body.disabled === undefined ? {} : { disabledAt: body.disabled ? (a.disabledAt ?? new Date()) : null }),
        },
        { transaction },
      );
      if (body.disabled) await Invitation.destroy({ where: { accountId: id }, transaction });
      const what =
        body.disabled !== undefined
          ? body.disabled
            ? 'shut out'
            : 'let in again'
          : body.role
            ? `made ${body.role}:`
            : 'renamed';
      await this.noted(who, what, a.name, transaction);
      return personView(a);
    });
    if (body.disabled) await this.signOutEverywhere(id, null);
    // What is open goes on with what the person may do from now on.
    if (body.role !== undefined) this.live.changeRole(id, body.role);
    return view;
  }

  /** A one-time link that sets the person's password; those given before are void. The token is shown this once. */
  async link(who: Actor, id: string): Promise<{ token: string; expiresAt: string }> {
    const token = newToken();
    const expiresAt = new Date(Date.now() + LINK_MS);
    await this.work.run(async (transaction) => {
      const a = await this.find(who, id, transaction);
      if (a.disabledAt)
        throw new ConflictException({ statusCode: 409, message: 'this person is shut out: let them in first' });
      await Invitation.destroy({ where: { accountId: id }, transaction });
      await Invitation.create({ id: digest(token), accountId: id, expiresAt }, { transaction });
      await this.noted(who, 'gave a link to', a.name, transaction);
      return undefined;
    });
    return { token, expiresAt: expiresAt.toISOString() };
  }

  /** The account whose password a link has set; null when the link is not good, or not any more. */
  async accept(token: string, password: string): Promise<string | null> {
    const good = { id: digest(token), expiresAt: { [Op.gt]: new Date() } };
    const known = await Invitation.findOne({ where: good });
    const person = known && (await Account.findByPk(known.accountId, { include: 'shop' }));
    // A wrong link costs no work.
    if (!person || person.disabledAt) return null;
    await mustBeHard('password', password, [person.name, person.email, person.shop!.name]);
    const passwordHash = await hashPassword(password);
    const accountId = await this.work.run(async (transaction) => {
      const link = await Invitation.findOne({
        where: { id: digest(token), expiresAt: { [Op.gt]: new Date() } },
        transaction,
        lock: true,
      });
      const a = link && (await Account.findByPk(link.accountId, { transaction, lock: true }));
      if (!a || a.disabledAt) return null;
      await a.update({ passwordHash, rev: a.rev + 1 }, { transaction });
      await Invitation.destroy({ where: { accountId: a.id }, transaction });
      return a.id;
    });
    if (accountId) {
      await this.signOutEverywhere(accountId, null);
      await noteAccount(person, 'password', {});
    }
    return accountId;
  }

  /** A person's own password; every other session of theirs ends. */
  async changePassword(who: Actor, current: string, next: string): Promise<void> {
    const key = `password ${who.accountId} ${who.sessionId}`;
    const wait = this.attempts.wait(key);
    const account = (await Account.findByPk(who.accountId))!;
    const right =
      wait > 0 ? false : await this.attempts.inTurn(true, () => checkPassword(account.passwordHash, current));
    if (!right) {
      if (wait === 0) this.attempts.failed(key);
      throw badFields([
        {
          field: 'current',
          message: wait > 0 ? `too many wrong tries: again in ${Math.ceil(wait / 1000)} s` : 'not your password',
        },
      ]);
    }
    await mustBeHard('next', next, [account.name, account.email]);
    const passwordHash = await hashPassword(next);
    await this.work.run(async (transaction) => {
      await Account.update({ passwordHash }, { where: { id: who.accountId, shopId: who.shopId }, transaction });
      return undefined;
    });
    await this.sessions.forgetDevices(who.accountId);
    await this.signOutEverywhere(who.accountId, who.sessionId);
    await noteAccount(account, 'password', {});
  }

  async signOutEverywhere(accountId: string, except: string | null): Promise<void> {
    this.live.closeSessions(await this.sessions.closeAll(accountId, except));
  }

  async signOutPerson(who: Actor, id: string): Promise<void> {
    const person = await Account.findOne({ where: { id, shopId: who.shopId } });
    if (!person) throw notHere('person');
    await this.signOutEverywhere(id, who.sessionId);
    await this.ended(who, person.name);
  }

  async signOutOne(who: Actor, sessionId: string): Promise<void> {
    const n = await Session.destroy({ where: { id: sessionId, accountId: who.accountId } });
    if (n === 0) throw notHere('session');
    this.live.closeSessions([sessionId]);
    await this.ended(who, who.name);
  }

  /** Everywhere but here. */
  async signOutElsewhere(who: Actor): Promise<void> {
    await this.signOutEverywhere(who.accountId, who.sessionId);
    await this.ended(who, who.name);
  }

  private async ended({ accountId: id, shopId, name }: Actor, whose: string): Promise<void> {
    await noteAccount({ id, shopId, name }, 'session-ended', { name: whose });
  }
}

async function mustBeHard(field: string, password: string, own: string[]): Promise<void> {
  if (await isGuessable(password, own))
    throw badFields([{ field, message: 'too easily guessed: take several words that nobody puts together' }]);
}

function personView(a: Account): PersonView {
  return {
    id: a.id,
    rev: a.rev,
    name: a.name,
    email: a.email,
    role: a.role,
    known: Object.hasOwn(ROLES, a.role),
    disabled: a.disabledAt != null,
    hasPassword: a.passwordHash !== '',
    sessions: 0,
    linkWaits: false,
  };
}
