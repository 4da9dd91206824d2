import { ACCOUNT_HEADER } from '@just-balance/contract';
import {
  type CanActivate,
  type ExecutionContext,
  ForbiddenException,
  Injectable,
  PreconditionFailedException,
  UnauthorizedException,
} from '@nestjs/common';
import type { Response } from 'express';
import { Origin } from '../common/origin.ts';
import type { AuthedRequest } from '../common/request.ts';
import { allowed, isOpen } from './rights.ts';
import { Sessions } from './sessions.ts';

/** The origin check on every write, sign-in on every route but the open ones, and the rights table on the rest. */
@Injectable()
export class AuthGuard implements CanActivate {
  constructor(
    private readonly sessions: Sessions,
    private readonly origin: Origin,
  ) {}

  async canActivate(ctx: ExecutionContext): Promise<boolean> {
    if (ctx.getType() !== 'http') return true;
    const http = ctx.switchToHttp();
    const req = http.getRequest<AuthedRequest>();
    const route = `${req.method === 'HEAD' ? 'GET' : req.method} ${(req.route as { path: string }).path}`;
    if (!['GET', 'HEAD', 'OPTIONS'].includes(req.method) && !this.origin.isOurs(req))
      throw new ForbiddenException({ statusCode: 403, message: 'this write came from another site' });
    if (isOpen(route)) return true;
    const actor = await this.sessions.actorOf(req);
    if (!actor) throw new UnauthorizedException({ statusCode: 401, message: 'sign in first' });
    if (!allowed(actor.role, route))
      throw new ForbiddenException({
        statusCode: 403,
        message: `your role (${actor.role}) may not do this: ask the lead`,
      });
    // Written by somebody else on this browser, who was signed in then: it is theirs, and waits for them.
    const written = req.headers[ACCOUNT_HEADER];
    if (written !== undefined && written !== actor.accountId)
      throw new PreconditionFailedException({
        statusCode: 412,
        message: 'somebody else is signed in on this device now: what was written before waits for its owner',
      });
    http.getResponse<Response>().setHeader(ACCOUNT_HEADER, actor.accountId);
    req.actor = actor;
    return true;
  }
}
