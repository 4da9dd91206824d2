import { useCallback, useEffect, useRef, useState } from 'react';
import type { FieldValues, Path, PathValue, UseFormReturn } from 'react-hook-form';
import { MOST_TRIES, standsNow } from '../data/api.ts';
import { draftOf, keepDraft } from '../data/drafts.ts';
import { type Clash, leavesOf, merged } from './merge.ts';

/** What a form puts right: as it stands now, which may move on while the form is open. */
export interface Over<T extends FieldValues, V extends { rev: number }> {
  now: V;
  /** As it stands in the form. */
  text: (v: V) => T;
}

/**
 * Somebody else may change the same thing meanwhile. Their change comes into the fields that nobody touched here; where
 * both touched one, both versions stand and a person says which. What is sent goes over the newest that is known, and is
 * sent again by itself where theirs touched nothing of it.
 */
export function useOver<T extends FieldValues, V extends { rev: number }>(
  form: Pick<UseFormReturn<T>, 'getValues' | 'setValue'>,
  over: Over<T, V> | undefined,
  keep: string | undefined,
) {
  const stored = keep === undefined ? undefined : `${keep} over`;
  const opened = useRef<V | undefined>(over?.now);
  const untouched = useRef<Record<string, unknown>>(over ? leavesOf(over.text(over.now)) : {});
  const [clashes, setClashes] = useState<Clash[]>([]);
  const open = useRef<Clash[]>([]);
  const show = useCallback((next: Clash[]) => {
    open.current = next;
    setClashes(next);
  }, []);
  const put = (field: string, value: unknown) => form.setValue(field as Path<T>, value as PathValue<T, Path<T>>);
  const take = (now: V) => {
    if (!over || !opened.current || now.rev <= opened.current.rev) return;
    const theirs = leavesOf(over.text(now));
    const { follow, clashes: found } = merged(untouched.current, theirs, leavesOf(form.getValues()));
    opened.current = now;
    untouched.current = theirs;
    if (stored !== undefined) keepDraft(stored, now);
    for (const [field, value] of follow) put(field, value);
    const others = open.current.filter((c) => !found.some((f) => f.field === c.field));
    if (found.length > 0 || others.length !== open.current.length) show([...others, ...found]);
  };
  const restored = useRef(false);
  useEffect(() => {
    if (!over) return;
    // Half typed before: over what it was typed over then, and on to what stands now.
    const before = stored === undefined || restored.current ? null : draftOf<V>(stored);
    restored.current = true;
    if (before) {
      opened.current = before;
      untouched.current = leavesOf(over.text(before));
    } else if (stored !== undefined) keepDraft(stored, opened.current);
    take(over.now);
  }, [over?.now.rev, stored]);
  return {
    clashes,
    /** What stands, for what is sent over it. */
    stands: () => opened.current,
    settle: (field: string, theirs: boolean) => {
      if (theirs) put(field, untouched.current[field]);
      show(open.current.filter((c) => c.field !== field));
    },
    /** A field's text in another unit is no change of it. */
    follow: (field: string, text: string) => {
      const touched = JSON.stringify(form.getValues(field as Path<T>)) !== JSON.stringify(untouched.current[field]);
      if (!touched) untouched.current[field] = text;
      form.setValue(field as Path<T>, text as PathValue<T, Path<T>>);
    },
    /** Send over what stands; once more over what stands then, where somebody was quicker and no field is in dispute. */
    send: async (once: () => Promise<unknown>) => {
      if (!over) return once();
      for (let tries = 1; ; tries++) {
        if (open.current.length > 0)
          throw new Error('Somebody else has changed this meanwhile: say of each field which is right.');
        try {
          return await once();
        } catch (e) {
          const now = standsNow<V>(e);
          if (now === null || tries === MOST_TRIES) throw e;
          take(now);
        }
      }
    },
    forget: () => stored !== undefined && keepDraft(stored, null),
  };
}
