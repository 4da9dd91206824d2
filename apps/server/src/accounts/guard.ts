import {
  type CanActivate,
  type ExecutionContext,
  ForbiddenException,
  Inject,
  Injectable,
  SetMetadata,
  UnauthorizedException,
} from '@nestjs/common';
import { Reflector } from '@nestjs/core';
import { sameOrigin } from '../common/origin.ts';
import type { AuthedRequest } from '../common/request.ts';
import { Sessions } from './sessions.ts';

const PUBLIC = 'public';
/** Routes that answer without a signed-in account: health, API description, the sign-in page. */
export const Public = () => SetMetadata(PUBLIC, true);

/** Sign-in on every route but the public ones, and the origin check on every write. */
@Injectable()
export class AuthGuard implements CanActivate {
  constructor(
    @Inject(Reflector) private readonly reflector: Reflector,
    @Inject(Sessions) private readonly sessions: Sessions,
  ) {}

  async canActivate(ctx: ExecutionContext): Promise<boolean> {
    if (ctx.getType() !== 'http') return true;
    const req = ctx.switchToHttp().getRequest<AuthedRequest>();
    if (!['GET', 'HEAD', 'OPTIONS'].includes(req.method) && !sameOrigin(req)) {
      throw new ForbiddenException({ statusCode: 403, message: 'this write came from another site' });
    }
    if (this.reflector.getAllAndOverride<boolean>(PUBLIC, [ctx.getHandler(), ctx.getClass()])) return true;
    const actor = await this.sessions.actorOf(req);
    if (!actor) throw new UnauthorizedException({ statusCode: 401, message: 'sign in first' });
    req.actor = actor;
    return true;
  }
}
