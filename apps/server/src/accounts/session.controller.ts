import {
  type AccountView,
  InvitationRequest,
  type SessionView,
  SetupRequest,
  SignInRequest,
} from '@just-balance/contract';
import {
  Body,
  Controller,
  Delete,
  ForbiddenException,
  Get,
  HttpCode,
  HttpException,
  Inject,
  Post,
  Req,
  Res,
  UnauthorizedException,
} from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { type Actor, type AuthedRequest, Who } from '../common/request.ts';
import { CONFIG, type ServerConfig } from '../config.ts';
import { Live } from '../live/live.service.ts';
import { Account } from '../rows/accounts.ts';
import { Attempts } from './attempts.ts';
import { DEMO_ACCOUNTS } from './demoAccounts.ts';
import { noteAccount } from './history.ts';
import { checkPassword } from './passwords.ts';
import { People } from './people.service.ts';
import { rightsOf } from './rights.ts';
import { DEVICE_MS, digest, SESSION_MS, Sessions } from './sessions.ts';
import { SetupToken } from './setup.ts';

/** From this many failures of one address on, its wrong answers are held back. [house] */
const SLOW_FROM = 15;
const SLOWEST_MS = 4000;

@ApiTags('session')
@Controller('session')
export class SessionController {
  constructor(
    @Inject(CONFIG) private readonly config: ServerConfig,
    private readonly sessions: Sessions,
    private readonly setup: SetupToken,
    private readonly people: People,
    private readonly attempts: Attempts,
    private readonly live: Live,
  ) {}

  /** Who is signed in; what the sign-in page needs when nobody is. */
  @Get()
  async current(@Req() req: AuthedRequest): Promise<SessionView> {
    const actor = await this.sessions.actorOf(req);
    return {
      account: actor && (await accountView(actor.accountId)),
      setupNeeded: !actor && (await this.setup.needed()),
      demo: this.config.demo ? DEMO_ACCOUNTS.map(({ email, password, name }) => ({ email, password, name })) : null,
    };
  }

  @Post()
  @HttpCode(200)
  async signIn(
    @Body() body: SignInRequest,
    @Req() req: AuthedRequest,
    @Res({ passthrough: true }) res: Response,
  ): Promise<AccountView> {
    const email = body.email.toLowerCase();
    const account = await Account.findOne({ where: { email } });
    const known = account !== null && (await this.sessions.knownDevice(req, account.id));
    const here = req.ip ?? '';
    const key = known ? `browser ${account.id} ${this.sessions.deviceOf(req)}` : `address ${email} ${here}`;
    this.mustWait(this.attempts.wait(key), res);
    const right = await this.attempts.inTurn(known, async () => {
      // Looked at again: others may have failed while this one waited.
      this.mustWait(this.attempts.wait(key), res);
      const ok = await checkPassword(account && !account.disabledAt ? account.passwordHash : undefined, body.password);
      if (!ok) this.attempts.failed(key);
      return ok;
    });
    if (right === null) this.mustWait(1000, res);
    if (!right || !account) {
      if (account) await this.noteFailure(account, this.attempts.count(key));
      this.attempts.failed(`everything ${here}`);
      const slow = this.attempts.count(`everything ${here}`) - SLOW_FROM;
      if (slow > 0) await new Promise((r) => setTimeout(r, Math.min(SLOWEST_MS, 100 * slow)));
      throw new UnauthorizedException({ statusCode: 401, message: 'email or password is wrong' });
    }
    this.attempts.succeeded(key);
    await noteAccount(account, 'signed-in', {});
    return this.welcome(account.id, req, res);
  }

  /** The first failure, and each time that there are twice as many: a guesser fills no history. */
  private async noteFailure(account: Account, count: number): Promise<void> {
    if (Math.log2(count) % 1 === 0) await noteAccount(account, 'sign-in-failed', { count });
  }

  private mustWait(ms: number, res: Response): void {
    if (ms <= 0) return;
    const seconds = Math.ceil(ms / 1000);
    res.setHeader('retry-after', String(seconds));
    throw new HttpException({ statusCode: 429, message: `too many wrong passwords: try again in ${seconds} s` }, 429);
  }

  /** The first account of an empty database. */
  @Post('setup')
  @HttpCode(200)
  async first(
    @Body() body: SetupRequest,
    @Req() req: AuthedRequest,
    @Res({ passthrough: true }) res: Response,
  ): Promise<AccountView> {
    if (!(await this.setup.needed()))
      throw new ForbiddenException({ statusCode: 403, message: 'there is an account already: sign in' });
    const key = `setup ${req.ip}`;
    // A right one is never told to wait.
    if (!this.setup.matches(body.token)) {
      this.mustWait(this.attempts.wait(key), res);
      this.attempts.failed(key);
      throw new ForbiddenException({ statusCode: 403, message: 'token: not the one on the server console' });
    }
    const account = await this.people.first(body);
    this.setup.spend();
    return this.welcome(account.id, req, res);
  }

  /** A one-time link from the lead: sets the password and signs in. */
  @Post('invitation')
  @HttpCode(200)
  async invitation(
    @Body() body: InvitationRequest,
    @Req() req: AuthedRequest,
    @Res({ passthrough: true }) res: Response,
  ): Promise<AccountView> {
    // Counted by link: nobody's wrong ones keep a right one waiting, and no link can be guessed.
    const key = `invitation ${digest(body.token)}`;
    const accountId = await this.people.accept(body.token, body.password);
    if (!accountId) {
      this.mustWait(this.attempts.wait(key), res);
      this.attempts.failed(key);
      throw new ForbiddenException({
        statusCode: 403,
        message: 'this link was used already or is too old: ask the lead for a new one',
      });
    }
    return this.welcome(accountId, req, res);
  }

  @Delete()
  @HttpCode(204)
  async signOut(@Who() who: Actor, @Res({ passthrough: true }) res: Response): Promise<void> {
    await this.sessions.close(who.sessionId);
    this.live.closeSessions([who.sessionId]);
    await noteAccount({ id: who.accountId, ...who }, 'signed-out', {});
    res.clearCookie(this.sessions.cookie, { path: '/', secure: this.sessions.secure });
    // What the browser kept of this person's pages; what waits to go up is not touched by it.
    res.setHeader('clear-site-data', '"cache"');
  }

  /** A new session; the one that this browser had before ends. */
  private async welcome(accountId: string, req: AuthedRequest, res: Response): Promise<AccountView> {
    const before = this.sessions.idOf(req);
    if (before) {
      await this.sessions.close(before);
      this.live.closeSessions([before]);
    }
    const token = await this.sessions.open(accountId, req.headers['user-agent'] ?? '');
    const options = {
      httpOnly: true,
      sameSite: 'lax',
      secure: this.sessions.secure,
      path: '/',
    } as const;
    res.cookie(this.sessions.cookie, token, { ...options, maxAge: SESSION_MS });
    const device = await this.sessions.rememberDevice(req, accountId);
    res.cookie(this.sessions.deviceCookie, device, { ...options, maxAge: DEVICE_MS });
    return accountView(accountId);
  }
}

async function accountView(accountId: string): Promise<AccountView> {
  const a = (await Account.findByPk(accountId, { include: 'shop' }))!;
  const s = a.shop!;
  return {
    id: a.id,
    name: a.name,
    email: a.email,
    role: a.role,
    rights: [...rightsOf(a.role)],
    shop: { id: s.id, name: s.name, rev: s.rev, settings: s.settings, learned: s.learned?.settings ?? {} },
  };
}
