import { useEffect, useRef, useState } from 'react';
import { type Clash, merged } from '../../ui/merge.ts';

/** What is typed of a plan, by field, as it stands in the boxes. */
export type PlanTyped = Readonly<Record<string, string>>;

/**
 * What is typed of a plan that others may change too: theirs comes into what nobody touched here, what both put
 * differently is asked about.
 *
 * @param kept The id of the plan that stands and what it says, as it would be typed; null: none yet.
 */
export function usePlanTyped(kept: { id: string; typed: PlanTyped } | null, empty: PlanTyped) {
  const [values, setValues] = useState<PlanTyped>(kept?.typed ?? empty);
  const [clashes, setClashes] = useState<readonly Clash[]>([]);
  /** What it said when it was last looked at, and at what was typed then. */
  const was = useRef(values);
  const last = useRef(kept?.id ?? null);
  const mine = useRef(new Map<string, PlanTyped>());
  const now = useRef(values);
  now.current = values;
  const id = kept?.id ?? null;
  useEffect(() => {
    if (id === last.current) return;
    last.current = id;
    const own = id === null ? undefined : mine.current.get(id);
    if (own) {
      // What was written here is what stands, however it was rounded.
      was.current = own;
      return;
    }
    const theirs = kept?.typed ?? empty;
    const both = merged(was.current, theirs, now.current);
    was.current = theirs;
    setValues((v) => ({ ...v, ...(Object.fromEntries(both.follow) as PlanTyped) }));
    setClashes(both.clashes);
  }, [id]);
  return {
    values,
    set: (field: string, text: string) => setValues((v) => ({ ...v, [field]: text })),
    setAll: (some: PlanTyped) => setValues((v) => ({ ...v, ...some })),
    clashes,
    settle: (field: string, theirs: boolean) => {
      const clash = clashes.find((c) => c.field === field);
      if (clash && theirs) setValues((v) => ({ ...v, [field]: String(clash.theirs) }));
      setClashes(clashes.filter((c) => c.field !== field));
    },
    /** It was written under this id, with these words in the boxes. */
    wrote: (written: string) => mine.current.set(written, now.current),
  };
}
