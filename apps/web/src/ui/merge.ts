/** One field that two people have put differently, as both typed it. */
export interface Clash {
  field: string;
  mine: unknown;
  theirs: unknown;
}

type Leaves = Readonly<Record<string, unknown>>;

const plain = (v: unknown): v is Record<string, unknown> =>
  typeof v === 'object' && v !== null && !Array.isArray(v) && Object.getPrototypeOf(v) === Object.prototype;
const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** Whether two say the same, in whatever order their fields stand. */
export function sameContent(a: unknown, b: unknown): boolean {
  const inOrder = (_: string, v: unknown) =>
    plain(v) ? Object.fromEntries(Object.entries(v).sort(([x], [y]) => (x < y ? -1 : 1))) : v;
  return JSON.stringify(a, inOrder) === JSON.stringify(b, inOrder);
}

/** A form's values one by one, by their path in it. */
export function leavesOf(values: object, parent = ''): Record<string, unknown> {
  return Object.fromEntries(
    Object.entries(values).flatMap(([k, v]) =>
      plain(v) ? Object.entries(leavesOf(v, `${parent}${k}.`)) : [[`${parent}${k}`, v]],
    ),
  );
}

/**
 * What somebody else has made of it meanwhile, brought together with what is typed here: a field nobody touched here
 * follows theirs, one that only was touched here stays, one that both have put differently is a clash.
 */
export function merged(was: Leaves, theirs: Leaves, mine: Leaves): { follow: [string, unknown][]; clashes: Clash[] } {
  const follow: [string, unknown][] = [];
  const clashes: Clash[] = [];
  for (const [field, now] of Object.entries(theirs)) {
    if (same(mine[field], now) || same(was[field], now)) continue;
    if (same(mine[field], was[field])) follow.push([field, now]);
    else clashes.push({ field, mine: mine[field], theirs: now });
  }
  return { follow, clashes };
}

/**
 * What is sent: as it is typed where a person changed it, else as it stands, however it was rounded to be shown.
 * `untouched`: what would be sent had nobody typed anything.
 */
export function onlyChanged<B extends object>(stands: object, untouched: B, typed: B): B {
  const kept = stands as Record<string, unknown>;
  const before = untouched as Record<string, unknown>;
  return Object.fromEntries(
    Object.entries(typed).map(([k, v]) => {
      if (same(before[k], v)) return [k, k in kept && kept[k] !== null ? kept[k] : v];
      const [a, b] = [kept[k], before[k]];
      return [k, plain(v) && plain(a) && plain(b) ? onlyChanged(a, b, v) : v];
    }),
  ) as B;
}
