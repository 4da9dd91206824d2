import type { UnitSystem } from './display.ts';
import type { Figure } from './figure.ts';
import { figureText } from './format.ts';

/** Words and typed figures in their order. */
export interface Parts {
  readonly said: readonly (string | Figure)[];
}

/**
 * What core says: words without a figure that a unit system changes (also all that a person typed), or words and typed
 * figures. Units are applied where it is shown, by `inWords`.
 */
export type Said = string | Parts;

/** Every `Said` of a shape as text. */
export type InWords<T> = T extends Parts
  ? string
  : T extends (...args: never[]) => unknown
    ? T
    : T extends object
      ? { [K in keyof T]: InWords<T[K]> }
      : T;

/** A sentence of words, numbers without a unit, figures and other sentences. Without a figure it is plain text. */
export function said(words: TemplateStringsArray, ...values: readonly (Said | Figure | number)[]): Said {
  const out: (string | Figure)[] = [];
  const put = (p: string | Figure) => {
    const last = out.at(-1);
    if (typeof p === 'string' && typeof last === 'string') out[out.length - 1] = last + p;
    else if (p !== '') out.push(p);
  };
  words.forEach((w, i) => {
    put(w);
    const v = values[i];
    if (v === undefined) return;
    if (typeof v === 'number') put(String(v));
    else if (typeof v === 'string') put(v);
    else if ('said' in v) v.said.forEach(put);
    else put(v);
  });
  return out.every((p) => typeof p === 'string') ? out.join('') : { said: out };
}

/** Sentences one behind the other, `between` them. */
export function joined(list: readonly Said[], between: string): Said {
  return list.reduce<Said>((all, s, i) => (i === 0 ? s : said`${all}${between}${s}`), '');
}

/** Whether anything is said. */
export const isSaid = (s: Said | null | undefined): s is Said => s !== '' && s !== null && s !== undefined;

/** Whether a value is words and typed figures. */
export function isParts(v: unknown): v is Parts {
  return (
    typeof v === 'object' && v !== null && Array.isArray((v as Partial<Parts>).said) && Object.keys(v).length === 1
  );
}

/** The sentence as a reader of these units has it; `own`: every figure in the unit it was given in. */
export function wordsOf(s: Said, system: UnitSystem | 'own'): string {
  if (typeof s === 'string') return s;
  return s.said.map((p) => (typeof p === 'string' ? p : figureText(p, system))).join('');
}

/** The same shape with every sentence as text; what is text already stays as it is, byte for byte. */
export function inWords<T>(value: T, system: UnitSystem | 'own'): InWords<T> {
  const of = (v: unknown): unknown => {
    if (v === null || typeof v !== 'object') return v;
    if (Array.isArray(v)) return v.map(of);
    if (Object.getPrototypeOf(v) !== Object.prototype) return v;
    if (isParts(v)) return wordsOf(v, system);
    return Object.fromEntries(Object.entries(v).map(([k, x]) => [k, of(x)]));
  };
  return of(value) as InWords<T>;
}
