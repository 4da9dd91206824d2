import { TYPED_HEADER } from '@just-balance/contract';
import { inWords } from '@just-balance/core/units';
import { type CallHandler, type ExecutionContext, Injectable, type NestInterceptor } from '@nestjs/common';
import type { Request } from 'express';
import { map, type Observable } from 'rxjs';

/**
 * Sentences leave as text, their figures in the units of the formats; to a reader that asks for it (our page) as words
 * and typed figures, to be shown in the units of whoever looks.
 */
@Injectable()
export class SaidInterceptor implements NestInterceptor {
  intercept(ctx: ExecutionContext, next: CallHandler): Observable<unknown> {
    const typed = ctx.switchToHttp().getRequest<Request>().headers[TYPED_HEADER] === '1';
    return typed ? next.handle() : next.handle().pipe(map((body: unknown) => inWords(body, 'own')));
  }
}
