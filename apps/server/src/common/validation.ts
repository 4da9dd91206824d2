import { flatten } from '@just-balance/contract';
import { ValidationPipe } from '@nestjs/common';
import { badFields } from './errors.ts';

/** Requests as their classes say; problems name the field. */
export function validation(): ValidationPipe {
  return new ValidationPipe({
    transform: true,
    whitelist: true,
    forbidUnknownValues: true,
    exceptionFactory: (errors) => badFields(flatten(errors)),
  });
}
