import type { FieldError } from './fieldError.ts';

/** What parsed JSON from outside may be at most before anything looks into it. [house] */
export interface ShapeBounds {
  depth: number;
  /** Objects, lists, texts, numbers and words together. */
  values: number;
  /** Largest magnitude of a number. */
  number: number;
}

export const SHAPE_BOUNDS: ShapeBounds = { depth: 24, values: 20_000, number: 1e15 };
/** Names that mean something to the language itself: no field of ours is called so. */
const RESERVED = new Set(['__proto__', 'constructor', 'prototype']);
const MAX_KEY = 200;
/** Half a character: with the `u` flag only a surrogate without its partner is one. */
const HALF = /\p{Surrogate}/u;

/**
 * The first thing about a parsed JSON value that no reader should have to meet: too deep, too many values, a name the
 * language reserves, half a character, a number beyond all measure. Null when there is none. Walks without recursion.
 */
export function shapeProblem(json: unknown, bounds: ShapeBounds = SHAPE_BOUNDS): FieldError | null {
  const open: { value: unknown; field: string; depth: number }[] = [{ value: json, field: '', depth: 0 }];
  let seen = 0;
  for (let next = open.pop(); next; next = open.pop()) {
    const { value, field, depth } = next;
    if (++seen > bounds.values)
      return { field: '', message: `more than ${bounds.values.toLocaleString('en-US')} values` };
    if (typeof value === 'string') {
      if (HALF.test(value)) return { field, message: 'holds half a character (a lone surrogate)' };
    } else if (typeof value === 'number') {
      if (!(Math.abs(value) <= bounds.number)) return { field, message: `${value} is beyond any figure taken here` };
    } else if (value !== null && typeof value === 'object') {
      if (depth >= bounds.depth) return { field: field.slice(0, 120), message: `nested deeper than ${bounds.depth}` };
      if (Array.isArray(value)) {
        if (seen + value.length > bounds.values) return { field, message: `a list of ${value.length} is too long` };
        for (let i = value.length - 1; i >= 0; i--)
          open.push({ value: value[i], field: `${field}[${i}]`, depth: depth + 1 });
      } else {
        const keys = Object.keys(value);
        if (seen + keys.length > bounds.values) return { field, message: `${keys.length} fields are too many` };
        for (let i = keys.length - 1; i >= 0; i--) {
          const key = keys[i]!;
          if (RESERVED.has(key) || key.length > MAX_KEY || HALF.test(key))
            return { field, message: `"${key.slice(0, 40)}" cannot be the name of a field` };
          open.push({
            value: (value as Record<string, unknown>)[key],
            field: field ? `${field}.${key}` : key,
            depth: depth + 1,
          });
        }
      }
    }
  }
  return null;
}

/** The same bounds on the bytes before they are parsed: null, or what is wrong. Looks at brackets and commas only. */
export function rawShapeProblem(bytes: Uint8Array, bounds: ShapeBounds = SHAPE_BOUNDS): string | null {
  let depth = 0;
  let values = 0;
  let text = false;
  for (let i = 0; i < bytes.length; i++) {
    const b = bytes[i]!;
    if (text) {
      if (b === 0x5c) i++;
      else if (b === 0x22) text = false;
    } else if (b === 0x22) text = true;
    else if (b === 0x5b || b === 0x7b) {
      if (++depth > bounds.depth) return `nested deeper than ${bounds.depth}`;
    } else if (b === 0x5d || b === 0x7d) depth--;
    else if (b === 0x2c && ++values > bounds.values) return `more than ${bounds.values.toLocaleString('en-US')} values`;
  }
  return null;
}
