import { CHANGES_HEADER } from '@just-balance/contract';
import { type CallHandler, type ExecutionContext, Injectable, type NestInterceptor } from '@nestjs/common';
import type { Response } from 'express';
import { type Observable, tap } from 'rxjs';
import type { AuthedRequest } from './request.ts';

/** Says with every read of a job how new it is: a page need not read again what is as new as its subscription. */
@Injectable()
export class ChangesInterceptor implements NestInterceptor {
  intercept(ctx: ExecutionContext, next: CallHandler): Observable<unknown> {
    const http = ctx.switchToHttp();
    const req = http.getRequest<AuthedRequest>();
    const res = http.getResponse<Response>();
    return next.handle().pipe(
      tap(() => {
        const seen = req.actor?.lookedAt;
        if (req.method === 'GET' && typeof seen === 'number' && !res.headersSent)
          res.setHeader(CHANGES_HEADER, String(seen));
      }),
    );
  }
}
