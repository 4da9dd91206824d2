import { createHash } from 'node:crypto';
import {
  BadRequestException,
  type CallHandler,
  ConflictException,
  type ExecutionContext,
  Injectable,
  type NestInterceptor,
  type OnModuleDestroy,
  type OnModuleInit,
  UnprocessableEntityException,
} from '@nestjs/common';
import type { Response } from 'express';
import { from, lastValueFrom, type Observable } from 'rxjs';
import { Op } from 'sequelize';
import { DoneBefore, type NamedRequest, Work } from '../database/work.ts';
import { DoneRequest } from '../rows/doneRequest.ts';
import { SentFile } from './body.ts';
import type { AuthedRequest } from './request.ts';

/** How long an answer is given again: longer than a tablet lies in a drawer. [house] */
const KEPT_MS = 30 * 86_400_000;
const SWEEP_MS = 3_600_000;
const MAX_KEY = 200;

const sha256 = (text: string) => createHash('sha256').update(text).digest('hex');

/**
 * POSTs carry `Idempotency-Key`: the same key with the same body is done once, and gets the first answer again. The
 * key belongs to the account; with another body or address it is refused. A write that failed leaves no key behind.
 */
@Injectable()
export class IdempotencyInterceptor implements NestInterceptor, OnModuleInit, OnModuleDestroy {
  private timer: NodeJS.Timeout | null = null;

  onModuleInit(): void {
    const sweep = () =>
      void DoneRequest.destroy({ where: { createdAt: { [Op.lt]: new Date(Date.now() - KEPT_MS) } } }).catch(() => {});
    sweep();
    this.timer = setInterval(sweep, SWEEP_MS).unref();
  }

  onModuleDestroy(): void {
    if (this.timer) clearInterval(this.timer);
  }

  intercept(ctx: ExecutionContext, next: CallHandler): Observable<unknown> {
    const req = ctx.switchToHttp().getRequest<AuthedRequest>();
    const key = req.headers['idempotency-key'];
    if (req.method !== 'POST' || key === undefined || !req.actor) return next.handle();
    if (typeof key !== 'string' || key === '' || key.length > MAX_KEY)
      throw new BadRequestException({ statusCode: 400, message: `Idempotency-Key: 1 to ${MAX_KEY} characters` });
    const res = ctx.switchToHttp().getResponse<Response>();
    const named: NamedRequest = {
      accountId: req.actor.accountId,
      keyHash: sha256(key),
      request: `${req.method} ${req.path}`.slice(0, 300),
      bodyHash: req.body instanceof SentFile ? req.body.sha256 : sha256(JSON.stringify(req.body ?? null)),
      status: res.statusCode,
      taken: false,
    };
    return from(this.once(named, res, next));
  }

  private async once(named: NamedRequest, res: Response, next: CallHandler): Promise<unknown> {
    const before = await this.before(named, res);
    if (before) return before.answer;
    try {
      return await Work.named.run(named, () => lastValueFrom(next.handle(), { defaultValue: undefined }));
    } catch (e) {
      if (!(e instanceof DoneBefore)) throw e;
      const twin = await this.before(named, res);
      if (twin) return twin.answer;
      throw new ConflictException({
        statusCode: 409,
        message: 'the same request was taken back meanwhile: send it again',
      });
    }
  }

  private async before(named: NamedRequest, res: Response): Promise<{ answer: unknown } | null> {
    const done = await DoneRequest.findOne({ where: { accountId: named.accountId, keyHash: named.keyHash } });
    if (!done) return null;
    if (done.request !== named.request || done.bodyHash !== named.bodyHash)
      throw new UnprocessableEntityException({
        statusCode: 422,
        message:
          'this Idempotency-Key was used for another request: nothing was stored, send it under a key of its own',
      });
    res.status(done.status);
    return { answer: done.response ?? { done: true } };
  }
}
