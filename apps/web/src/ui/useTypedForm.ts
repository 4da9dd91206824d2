import { classValidatorResolver } from '@hookform/resolvers/class-validator';
import { type FieldError, fieldErrors, telling } from '@just-balance/contract';
import { useEffect, useRef } from 'react';
import { type DefaultValues, type FieldErrors, type FieldValues, type Path, useForm } from 'react-hook-form';
import { ApiFailure } from '../data/api.ts';
import { draftOf, keepDraft } from '../data/drafts.ts';
import { useAction } from './useAction.ts';
import { type Over, useOver } from './useOver.ts';

interface Options<T extends FieldValues, B extends object, V extends { rev: number }> {
  /** The contract's class of what is sent; none where nothing is sent, and `check` says all there is to say. */
  dto?: new () => B;
  defaults: T;
  /** The name under which it is kept while it is half typed; absent: it goes with the form. */
  keep?: string;
  /** What is put right here, where it is something that stands already. */
  over?: Over<T, V>;
  /** What was typed, as what is sent; over what stands. */
  body: (typed: T, stands: V | undefined) => B;
  /** What only the form can say, in the words and units typed: per field, before the contract's class is asked. */
  check?: (typed: T) => Partial<Record<Path<T>, string>>;
  /** Fields of the body that are called otherwise in the form; the others are called the same. */
  fields?: Readonly<Record<string, Path<T>>>;
  send: (body: B, typed: T, stands: V | undefined) => Promise<unknown>;
}

/**
 * A form of typed text: kept apart from the body it makes, checked by the contract's own class before it is sent; what
 * the server finds wrong stands at its field too.
 */
export function useTypedForm<T extends FieldValues, B extends object, V extends { rev: number } = { rev: number }>({
  dto,
  defaults,
  keep,
  over,
  body: bodyOf,
  check,
  fields,
  send,
}: Options<T, B, V>) {
  const names = Object.keys(defaults) as Path<T>[];
  const stands = useRef<() => V | undefined>(() => over?.now);
  const body = (typed: T) => bodyOf(typed, stands.current());
  /** The form's field for one of the body's; null when the form has none. */
  const placeOf = (field: string): Path<T> | null => {
    const given = Object.entries(fields ?? {}).find(
      ([k]) => field === k || field.startsWith(`${k}.`) || field.startsWith(`${k}[`),
    );
    if (given) return given[1];
    return names.find((n) => field === n || field.startsWith(`${n}[`) || field.endsWith(`.${n}`)) ?? null;
  };
  const sorted = (problems: readonly FieldError[]) => {
    const errors: Record<string, { type: string; message: string }> = {};
    const others: FieldError[] = [];
    for (const p of problems) {
      const at = placeOf(p.field);
      if (at) errors[at] ??= { type: 'dto', message: p.message };
      else others.push(p);
    }
    return { errors, others };
  };
  const form = useForm<T>({
    defaultValues: defaults as DefaultValues<T>,
    resolver: async (typed, context) => {
      const own = Object.entries(check?.(typed) ?? {});
      if (own.length > 0) {
        const errors = Object.fromEntries(own.map(([at, message]) => [at, { type: 'typed', message }]));
        return { values: {}, errors: errors as unknown as FieldErrors<T> };
      }
      if (!dto) return { values: typed, errors: {} };
      const { errors: found } = await classValidatorResolver(dto as new () => B & FieldValues)(
        body(typed) as B & FieldValues,
        context,
        { fields: {}, shouldUseNativeValidation: false, criteriaMode: 'all' },
      );
      const problems = problemsIn(found);
      if (problems.length === 0) return { values: typed, errors: {} };
      const { errors, others } = sorted(problems);
      const root = others[0] && { root: { type: 'dto', message: `${others[0].field}: ${others[0].message}` } };
      return { values: {}, errors: { ...root, ...errors } as unknown as FieldErrors<T> };
    },
  });
  const { watch, setValue } = form;
  const untouched = JSON.stringify(defaults);
  const named = useRef<string | undefined>(undefined);
  useEffect(() => {
    if (keep === undefined) return;
    if (named.current === undefined) {
      for (const [at, value] of Object.entries(draftOf<Partial<T>>(keep) ?? {}))
        if (names.includes(at as Path<T>)) setValue(at as Path<T>, value, { shouldDirty: true });
    } else if (named.current !== keep) {
      // The same form in other units: what is typed goes on under the new name.
      keepDraft(named.current, null);
      keepDraft(keep, form.getValues());
    }
    named.current = keep;
    const kept = watch((typed) => keepDraft(keep, JSON.stringify(typed) === untouched ? null : typed));
    return () => kept.unsubscribe();
  }, [keep]);
  // After what was half typed is back: theirs is brought together with it.
  const both = useOver(form, over, keep);
  stands.current = both.stands;
  const forget = () => {
    for (const name of [keep, named.current]) if (name !== undefined) keepDraft(name, null);
    both.forget();
  };
  const { busy, trouble, run } = useAction();
  const submit = form.handleSubmit((typed) =>
    run(async () => {
      try {
        // Somebody else's change may have come into it meanwhile: what is sent is what stands in the form then.
        await both.send(() => {
          const now = over ? form.getValues() : typed;
          return send(body(now), now, stands.current());
        });
        forget();
      } catch (e) {
        const { errors, others } = sorted(e instanceof ApiFailure ? e.errors : []);
        for (const [at, error] of Object.entries(errors)) form.setError(at as Path<T>, error);
        if (Object.keys(errors).length === 0 || others.length > 0) throw e;
      }
    }, body(typed)),
  );
  const error = (field: Path<T>): string | undefined =>
    (
      (form.formState.errors as Record<string, { message?: string } | undefined>)[field] ??
      form.getFieldState(field).error
    )?.message;
  return {
    register: form.register,
    reset: form.reset,
    setFocus: form.setFocus,
    watch: form.watch,
    setValue: form.setValue,
    getValues: form.getValues,
    changed: form.formState.isDirty,
    /** Whether all is well, where a button outside of the form asks; what is not stands at its field. */
    valid: () => form.trigger(),
    /** What is half typed here is not wanted. */
    forget,
    clashes: both.clashes,
    settle: both.settle,
    follow: both.follow,
    submit: (e: React.SyntheticEvent) => void submit(e),
    busy,
    trouble,
    error,
    /** What belongs to no field of the form. */
    rest: form.formState.errors.root?.message ?? null,
  };
}

/** The resolver's tree of errors as the server's list: each with its field. */
function problemsIn(tree: unknown, parent = ''): FieldError[] {
  if (tree === null || typeof tree !== 'object') return [];
  const { types } = tree as { types?: Record<string, string> };
  const own = types && parent ? telling(types).flatMap((m) => fieldErrors(parent, m)) : [];
  return [
    ...own,
    ...Object.entries(tree)
      .filter(([k, v]) => v !== null && typeof v === 'object' && k !== 'types' && k !== 'ref')
      .flatMap(([k, v]) => problemsIn(v, parent ? `${parent}.${k}` : k)),
  ];
}
