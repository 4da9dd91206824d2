import {
  type CallHandler,
  ConflictException,
  type ExecutionContext,
  Injectable,
  type NestInterceptor,
} from '@nestjs/common';
import type { Response } from 'express';
import { from, lastValueFrom, type Observable } from 'rxjs';
import { UniqueConstraintError } from 'sequelize';
import { IdempotencyKey } from '../database/models.ts';
import type { AuthedRequest } from './request.ts';

/** A request still unanswered after this was cut off by the end of a server. [house] */
const ABANDONED_MS = 60_000;

/**
 * POSTs carry `Idempotency-Key`: the first answer is kept and given again, so that a tablet that lost the reply may
 * safely repeat. A failed first try leaves no key behind.
 */
@Injectable()
export class IdempotencyInterceptor implements NestInterceptor {
  intercept(ctx: ExecutionContext, next: CallHandler): Observable<unknown> {
    const req = ctx.switchToHttp().getRequest<AuthedRequest>();
    const key = req.headers['idempotency-key'];
    if (req.method !== 'POST' || typeof key !== 'string' || !req.actor) return next.handle();
    return from(this.once(req, key.slice(0, 80), ctx.switchToHttp().getResponse<Response>(), next));
  }

  private async once(req: AuthedRequest, key: string, res: Response, next: CallHandler): Promise<unknown> {
    const shopId = req.actor!.shopId;
    const request = `${req.method} ${req.path}`.slice(0, 300);
    try {
      await IdempotencyKey.create({ shopId, key, request, status: null, response: null });
    } catch (e) {
      if (!(e instanceof UniqueConstraintError)) throw e;
      const before = await IdempotencyKey.findOne({ where: { shopId, key } });
      if (before?.request !== request)
        throw new ConflictException({ statusCode: 409, message: 'this Idempotency-Key was used for another request' });
      if (before.status === null && Date.now() - before.createdAt.getTime() > ABANDONED_MS) {
        // The server died while working on it: the work was rolled back, so it is done now.
        await IdempotencyKey.destroy({ where: { shopId, key, status: null } });
        return this.once(req, key, res, next);
      }
      if (before.status === null)
        throw new ConflictException({
          statusCode: 409,
          message: 'the same request is still being worked on; try again in a moment',
        });
      res.status(before.status);
      return before.response;
    }
    try {
      const body = (await lastValueFrom(next.handle(), { defaultValue: null })) as unknown;
      await IdempotencyKey.update({ status: res.statusCode, response: body ?? null }, { where: { shopId, key } });
      return body;
    } catch (e) {
      await IdempotencyKey.destroy({ where: { shopId, key } });
      throw e;
    }
  }
}
