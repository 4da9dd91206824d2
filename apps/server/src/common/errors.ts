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
import { BaseError, ConnectionError } from 'sequelize';

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

/** What the body parser refuses, in our words; it stands before the router. */
export function bodyErrors(error: { type?: string; message?: string }, _: Request, res: Response, next: NextFunction) {
  if (error.type === 'entity.too.large')
    res.status(413).json({ statusCode: 413, message: 'too large: at most 1 MB, a column of an import 8 MB' });
  else if (error.type === 'entity.parse.failed')
    res.status(400).json({ statusCode: 400, message: `the body is not JSON: ${error.message}` });
  else next(error);
}

/** Every error leaves as JSON that says what and what to do; never a stack trace. */
@Catch()
export class ErrorFilter implements ExceptionFilter {
  constructor(private readonly log: Logger) {}

  catch(error: unknown, host: ArgumentsHost): void {
    const res = host.switchToHttp().getResponse<Response>();
    if (res.headersSent) return;
    if (error instanceof HttpException) {
      const body = error.getResponse();
      res
        .status(error.getStatus())
        .json(typeof body === 'string' ? { statusCode: error.getStatus(), message: body } : body);
      return;
    }
    if (error instanceof ConnectionError) {
      res
        .status(503)
        .json({ statusCode: 503, message: 'the database does not answer; what you sent was not stored, try again' });
      return;
    }
    this.log.error(
      { err: error instanceof BaseError ? { name: error.name, message: error.message } : error },
      'unexpected',
    );
    res.status(500).json({ statusCode: 500, message: 'something broke on the server; what you sent was not stored' });
  }
}
