import 'reflect-metadata';
import { plainToInstance } from 'class-transformer';
import { validateSync } from 'class-validator';
import { type FieldError, flatten } from './fieldError.ts';
import { shapeProblem } from './shape.ts';

/** What is wrong with a value that should be of a class of this contract; empty when it fits. Never throws. */
export function dtoProblems(
  type: new () => object,
  json: unknown,
  { unknownKeys = 'ignored' }: { unknownKeys?: 'ignored' | 'refused' } = {},
): FieldError[] {
  const shape = shapeProblem(json);
  if (shape) return [shape];
  if (json === null || typeof json !== 'object' || Array.isArray(json))
    return [{ field: '', message: 'must be an object' }];
  const refused = unknownKeys === 'refused';
  const options = { forbidUnknownValues: true, whitelist: refused, forbidNonWhitelisted: refused };
  return flatten(validateSync(plainToInstance(type, json), options));
}
