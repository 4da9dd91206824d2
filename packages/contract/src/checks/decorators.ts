import 'reflect-metadata';
import { Type } from 'class-transformer';
import {
  IsObject,
  IsString,
  isISO8601,
  MaxLength,
  MinLength,
  ValidateBy,
  ValidateIf,
  ValidateNested,
} from 'class-validator';
import { entryMessage } from './fieldError.ts';

/** A field that may be absent. `null` is a value and must fit: what is not known is left out. */
export function Optional(): PropertyDecorator {
  return ValidateIf((_, value) => value !== undefined);
}

/**
 * An object of a class, or with `each` a list of them. `ValidateNested` alone takes a list where an object is due and an
 * empty list as an object without faults: both are refused here.
 */
export function Nested(type: () => new () => object, options: { each?: boolean } = {}): PropertyDecorator {
  const parts = [IsObject(options), ValidateNested(options), Type(type)];
  return (target, key) => {
    for (const p of parts) p(target, key as string);
  };
}

/** A number above another field's of the same object; what is no number is another check's to say. */
export function Above(lower: string): PropertyDecorator {
  return ValidateBy({
    name: 'above',
    validator: {
      validate: (value, args) => !(Number(value) <= Number((args!.object as Record<string, unknown>)[lower])),
      defaultMessage: () => 'must be above the lower end',
    },
  });
}

/** A number not above another field's of the same object, where that one is there. `message`: what to say. */
export function NotAbove(upper: string, message: string): PropertyDecorator {
  return ValidateBy({
    name: 'notAbove',
    validator: {
      validate: (value, args) => !(Number(value) > Number((args!.object as Record<string, unknown>)[upper])),
      defaultMessage: () => message,
    },
  });
}

/** A finite number above 0. `message`: what it is. */
export function Positive(message: string): PropertyDecorator {
  return ValidateBy({
    name: 'positive',
    validator: { validate: (v) => typeof v === 'number' && Number.isFinite(v) && v > 0, defaultMessage: () => message },
  });
}

/** No job is older, and a clock that is ahead by a century is no clock: what a database and a calendar can hold. [house] */
const FIRST_MS = Date.parse('1970-01-01T00:00:00Z');
const LAST_MS = Date.parse('2100-01-01T00:00:00Z');

/** A day or a moment (ISO 8601) from 1970 to 2099. */
export function Moment(): PropertyDecorator {
  return ValidateBy({
    name: 'moment',
    validator: {
      validate: (v) => {
        if (typeof v !== 'string' || v.length > 40 || !isISO8601(v, { strict: true })) return false;
        const ms = Date.parse(v);
        return ms >= FIRST_MS && ms < LAST_MS;
      },
      defaultMessage: () => 'a day or a moment from 1970 to 2099, as in 2026-05-04',
    },
  });
}

/** A list of ids; those that are not known here are let through. */
export function IdList(): PropertyDecorator {
  return ValidateBy({
    name: 'idList',
    validator: {
      validate: (v) => Array.isArray(v) && v.every((id) => typeof id === 'string'),
      defaultMessage: () => 'a list of ids',
    },
  });
}

/**
 * A record, each of whose entries `problem` looks at: null where it is as it should be. Every faulty entry becomes a
 * field of its own, `minutes.KEY`.
 */
export function ByKey(problem: (key: string, value: unknown) => string | null): PropertyDecorator {
  const problems = (record: unknown): string[] => {
    if (record === null || typeof record !== 'object' || Array.isArray(record)) return ['must be an object'];
    return Object.entries(record).flatMap(([k, v]) => {
      const p = problem(k, v);
      return p === null ? [] : [entryMessage(k, p)];
    });
  };
  return ValidateBy({
    name: 'byKey',
    validator: {
      validate: (v) => problems(v).length === 0,
      defaultMessage: (args) => problems(args!.value).join('\n'),
    },
  });
}

/** A record of at most `most` entries. */
export function MostEntries(most: number): PropertyDecorator {
  return ValidateBy({
    name: 'mostEntries',
    validator: {
      validate: (v) => v !== null && typeof v === 'object' && Object.keys(v).length <= most,
      defaultMessage: () => `at most ${most} entries`,
    },
  });
}

/** A text of 1 to `most` characters. */
export function Words(most: number): PropertyDecorator {
  const parts = [IsString(), MinLength(1), MaxLength(most)];
  return (target, key) => {
    for (const p of parts) p(target, key as string);
  };
}

/** Ids that stand in files and in addresses. */
export const ID = /^[a-z0-9]+(-[a-z0-9]+)*$/;
export const ID_MESSAGE = 'small letters, figures and hyphens';
