import type { ValidationError } from 'class-validator';

export interface FieldError {
  field: string;
  message: string;
}

/** A line of a message that is about one entry of a record. */
const ENTRY = /^\.(\S+): /;

export const entryMessage = (key: string, message: string): string => `.${key}: ${message}`;

/** A field with the library's message for it; one that speaks of a record's entries is a field for each. */
export function fieldErrors(field: string, message: string): FieldError[] {
  return message.split('\n').map((line) => {
    const key = ENTRY.exec(line)?.[1];
    return key === undefined
      ? { field, message: plainMessage(line, field.split(/[.[]/).at(-1)!) }
      : { field: `${field}.${key}`, message: line.replace(ENTRY, '') };
  });
}

/** Checks of what a value is at all. */
const KINDS = ['isNumber', 'isInt', 'isString', 'isBoolean', 'isArray', 'isObject'];

/** The messages worth saying of all that failed: what is no number is not also too large. By the checks' names. */
export function telling(constraints: Readonly<Record<string, string>>): string[] {
  const kind = KINDS.find((k) => constraints[k] !== undefined);
  return kind === undefined ? Object.values(constraints) : [constraints[kind]!];
}

/** Nested validation errors, each as a field like `readings[0].trims.bank1.stft`. */
export function flatten(errors: readonly ValidationError[], parent = ''): FieldError[] {
  return errors.flatMap((e) => {
    const index = /^\d+$/.test(e.property);
    const field = index ? `${parent}[${e.property}]` : parent ? `${parent}.${e.property}` : e.property;
    const own = telling(e.constraints ?? {}).flatMap((m) => fieldErrors(field, m));
    return [...own, ...flatten(e.children ?? [], field)];
  });
}

/** The library's words without the property's name, which stands in the field already, and without its own jargon. */
export function plainMessage(message: string, property: string): string {
  const own = message.startsWith(`${property} `) ? message.slice(property.length + 1) : message;
  return own
    .replace('must be a number conforming to the specified constraints', 'must be a number')
    .replace('must not be less than', 'must be at least')
    .replace('must not be greater than', 'must be at most')
    .replace(/^property \S+ should not exist$/, 'unknown key')
    .replace(/^must be longer than or equal to 1 characters$/, 'must not be empty');
}
