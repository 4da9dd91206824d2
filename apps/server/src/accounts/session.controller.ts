import { type AccountView, type SessionView, SetupRequest, SignInRequest } from '@just-balance/contract';
import {
  Body,
  Controller,
  Delete,
  ForbiddenException,
  Get,
  HttpCode,
  Inject,
  Post,
  Req,
  Res,
  UnauthorizedException,
  UseGuards,
} from '@nestjs/common';
import { ApiTags } from '@nestjs/swagger';
import { Throttle, ThrottlerGuard } from '@nestjs/throttler';
import type { Response } from 'express';
import { v7 as uuidv7 } from 'uuid';
import { type Actor, type AuthedRequest, Who } from '../common/request.ts';
import { CONFIG, type ServerConfig } from '../config.ts';
import { Account, Shop } from '../database/models.ts';
import { DEMO_ACCOUNTS } from '../demo/accounts.ts';
import { Live } from '../live/live.service.ts';
import { Public } from './guard.ts';
import { checkPassword, hashPassword } from './passwords.ts';
import { COOKIE, SESSION_MS, Sessions } from './sessions.ts';
import { SetupToken } from './setup.ts';

@ApiTags('session')
@Controller('session')
export class SessionController {
  constructor(
    @Inject(CONFIG) private readonly config: ServerConfig,
    @Inject(Sessions) private readonly sessions: Sessions,
    @Inject(SetupToken) private readonly setup: SetupToken,
    @Inject(Live) private readonly live: Live,
  ) {}

  /** Who is signed in; what the sign-in page needs when nobody is. */
  @Public()
  @Get()
  async current(@Req() req: AuthedRequest): Promise<SessionView> {
    const actor = await this.sessions.actorOf(req);
    return {
      account: actor && (await accountView(actor.accountId)),
      setupNeeded: await this.setup.needed(),
      demo: this.config.demo ? DEMO_ACCOUNTS.map(({ email, password, name }) => ({ email, password, name })) : null,
    };
  }

  @Public()
  @UseGuards(ThrottlerGuard)
  @Throttle({ default: { limit: 10, ttl: 60_000 } })
  @Post()
  @HttpCode(200)
  async signIn(@Body() body: SignInRequest, @Res({ passthrough: true }) res: Response): Promise<AccountView> {
    const account = await Account.findOne({ where: { email: body.email.toLowerCase() } });
    if (!(await checkPassword(account?.passwordHash, body.password)) || !account) {
      throw new UnauthorizedException({ statusCode: 401, message: 'email or password is wrong' });
    }
    return this.welcome(account.id, res);
  }

  /** The first account of an empty database. */
  @Public()
  @UseGuards(ThrottlerGuard)
  @Throttle({ default: { limit: 10, ttl: 60_000 } })
  @Post('setup')
  @HttpCode(200)
  async first(@Body() body: SetupRequest, @Res({ passthrough: true }) res: Response): Promise<AccountView> {
    if (!(await this.setup.needed()))
      throw new ForbiddenException({ statusCode: 403, message: 'there is an account already: sign in' });
    if (!this.setup.spend(body.token))
      throw new ForbiddenException({ statusCode: 403, message: 'token: not the one on the server console' });
    const shop = await Shop.create({ id: uuidv7(), name: body.shopName, settings: {}, rev: 1 });
    const account = await Account.create({
      id: uuidv7(),
      shopId: shop.id,
      email: body.email.toLowerCase(),
      name: body.name,
      role: 'lead',
      passwordHash: await hashPassword(body.password),
    });
    return this.welcome(account.id, res);
  }

  @Delete()
  @HttpCode(204)
  async signOut(@Who() who: Actor, @Res({ passthrough: true }) res: Response): Promise<void> {
    await this.sessions.close(who.sessionId);
    this.live.closeSession(who.sessionId);
    res.clearCookie(COOKIE, { path: '/' });
  }

  private async welcome(accountId: string, res: Response): Promise<AccountView> {
    const { token } = await this.sessions.open(accountId);
    res.cookie(COOKIE, token, {
      httpOnly: true,
      sameSite: 'lax',
      secure: this.config.behindTls || this.config.tls !== null,
      path: '/',
      maxAge: SESSION_MS,
    });
    return accountView(accountId);
  }
}

async function accountView(accountId: string): Promise<AccountView> {
  const a = (await Account.findByPk(accountId))!;
  const s = (await Shop.findByPk(a.shopId))!;
  return {
    id: a.id,
    name: a.name,
    email: a.email,
    role: a.role,
    shop: { id: s.id, name: s.name, rev: s.rev, settings: s.settings },
  };
}
