import type { ValidationError } from 'class-validator';

export interface FieldError {
  field: string;
  message: string;
}

/** Nested validation errors, each as a field like `readings[0].trims.bank1.stft`. */
export function flatten(errors: readonly ValidationError[], parent = ''): FieldError[] {
  return errors.flatMap((e) => {
    const index = /^\d+$/.test(e.property);
    const field = index ? `${parent}[${e.property}]` : parent ? `${parent}.${e.property}` : e.property;
    const own = Object.values(e.constraints ?? {}).map((m) => ({ field, message: m }));
    return [...own, ...flatten(e.children ?? [], field)];
  });
}
