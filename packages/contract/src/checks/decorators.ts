import 'reflect-metadata';
import { Type } from 'class-transformer';
import { IsObject, ValidateBy, ValidateIf, ValidateNested } from 'class-validator';

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
