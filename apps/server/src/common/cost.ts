import { applyDecorators, type ExecutionContext, HttpException, Injectable, SetMetadata } from '@nestjs/common';
import { Throttle, ThrottlerGuard } from '@nestjs/throttler';
import type { AuthedRequest } from './request.ts';

const COSTLY = 'costly';

/** A route that costs the server seconds rather than milliseconds: so many a minute an account. */
export const Costly = (perMinute: number) =>
  applyDecorators(SetMetadata(COSTLY, true), Throttle({ default: { limit: perMinute, ttl: 60_000 } }));

/** Holds the costly routes to their number; the others are free. */
@Injectable()
export class CostGuard extends ThrottlerGuard {
  protected override async shouldSkip(ctx: ExecutionContext): Promise<boolean> {
    return ctx.getType() !== 'http' || !this.reflector.get<boolean>(COSTLY, ctx.getHandler());
  }

  protected override async getTracker(req: Record<string, unknown>): Promise<string> {
    const { actor, ip } = req as unknown as AuthedRequest;
    return actor?.accountId ?? ip ?? '';
  }

  protected override async throwThrottlingException(): Promise<void> {
    throw new HttpException({ statusCode: 429, message: 'too many of these in a minute: wait a little' }, 429);
  }
}
