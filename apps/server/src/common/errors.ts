import type { FieldError } from '@just-balance/contract';
import {
  type ArgumentsHost,
  BadRequestException,
  Catch,
  ConflictException,
  type ExceptionFilter,
  HttpException,
  NotFoundException,
} from '@nestjs/common';
import type { NextFunction, Request, Response } from 'express';
import type { Logger } from 'pino';
import { BaseError, DatabaseError, UniqueConstraintError } from 'sequelize';
import { databaseAway } from '../database/away.ts';

/** Fields of the request that are wrong, each with what to do. */
export function badFields(errors: FieldError[]): BadRequestException {
  const first = errors[0];
  return new BadRequestException({
    statusCode: 400,
    message: first ? `${first.field}: ${first.message}` : 'bad request',
    errors,
  });
}

/** Somebody else changed the row: both sides are shown. */
export function conflict(what: string, current: unknown): ConflictException {
  return new ConflictException({ statusCode: 409, message: `${what} was changed by someone else meanwhile`, current });
}

export function notHere(what: string): NotFoundException {
  return new NotFoundException({ statusCode: 404, message: `no such ${what} in this shop` });
}

/** An address that the router cannot read, in our words; it stands before Nest. */
export function unreadable(
  error: { message?: string; status?: number },
  _: Request,
  res: Response,
  next: NextFunction,
): void {
  const { status = 500, message = '' } = error;
  if (status < 400 || status >= 500) return next(error);
  res.status(status).json({ statusCode: status, message: `the request cannot be read: ${message}`.trim() });
}

/** What a log may hold of an error: never a parameter of a query, never a value that was sent. */
export function loggable(error: unknown): Record<string, unknown> {
  if (error instanceof BaseError) {
    const { errno, code, sqlState } = ((error as DatabaseError).original ?? {}) as {
      errno?: number;
      code?: string;
      sqlState?: string;
    };
    return { name: error.name, errno, code, sqlState };
  }
  if (!(error instanceof Error)) return { name: typeof error };
  return {
    name: error.name,
    at: error.stack
      ?.split('\n')
      .filter((l) => /^\s+at /.test(l))
      .slice(0, 8),
  };
}

/** MariaDB: too long, out of range, not that character set, not JSON, check failed: the value, not the server. */
const BAD_VALUE = new Set([1264, 1265, 1366, 1406, 3140, 4025]);

/** Every error leaves as JSON that says what and what to do; never a stack trace. */
@Catch()
export class ErrorFilter implements ExceptionFilter {
  constructor(private readonly log: Logger) {}

  catch(error: unknown, host: ArgumentsHost): void {
    const res = host.switchToHttp().getResponse<Response>();
    if (res.headersSent) {
      res.destroy();
      return;
    }
    const away = databaseAway(error);
    const say = (statusCode: number, message: string) => res.status(statusCode).json({ statusCode, message });
    if (error instanceof HttpException) {
      const body = error.getResponse();
      if (error.getStatus() === 503 && !res.getHeader('retry-after')) res.setHeader('retry-after', '2');
      res
        .status(error.getStatus())
        .json(typeof body === 'string' ? { statusCode: error.getStatus(), message: body } : body);
    } else if (away) {
      res.setHeader('retry-after', away === 'full' ? '60' : '2');
      say(
        503,
        away === 'full'
          ? 'the disk of the database is full: nothing was stored. Make room, then the same again'
          : 'the database does not answer just now: send the same again',
      );
    } else if (error instanceof UniqueConstraintError) {
      say(409, 'this id is taken by something else; nothing was stored');
    } else if (error instanceof DatabaseError && BAD_VALUE.has((error.original as { errno?: number }).errno ?? 0)) {
      say(400, 'a value does not fit where it should be kept; nothing was stored');
    } else if ((error as { status?: number }).status === 400) {
      // The router could not read the address.
      say(400, 'the address cannot be read');
    } else {
      this.log.error({ err: loggable(error) }, 'unexpected');
      say(500, 'something broke on the server; what you sent was not stored');
    }
  }
}
