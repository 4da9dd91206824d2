import {
  ABSENT_SHARE,
  COPY_POWER,
  FAULTS,
  type FaultRow,
  HINTS,
  type HintRow,
  PENDING_POWER,
  SILENT_FACTOR,
  WORK_HALF_DAYS,
} from '../../catalogue/index.ts';
import type { Evidence } from '../evidence/types.ts';

/** The code of this evidence that a hint is about, if any. */
export function codeOf(h: HintRow, ev: Evidence) {
  return h.code && (ev.codes ?? []).find((c) => c.code >= h.code![0] && c.code <= h.code![1]);
}

/** Whether a hint row applies to this evidence. */
export function hintApplies(h: HintRow, ev: Evidence): boolean {
  if (h.withoutTrims && ev.trims.length > 0) return false;
  if (h.code) return codeOf(h, ev) !== undefined;
  if (h.sign) return ev.signs.some((s) => s.id === h.sign);
  if (h.complaint) return ev.complaints.includes(h.complaint);
  return workOf(h, ev) !== undefined;
}

export function workOf(h: HintRow, ev: Evidence) {
  return h.work === undefined ? undefined : ev.work.find((w) => w.part.includes(h.work!));
}

/** ln of what a hint says of a fault on a bank; 0 where it is about the other bank. */
export function hintWeight(h: HintRow, bank: 1 | 2 | null, ev: Evidence): number {
  let log = Math.log(h.factor);
  if (h.code) {
    if (h.bank && bank && h.bank !== bank) return 0;
    if (codeOf(h, ev)?.state === 'pending') log *= PENDING_POWER;
  }
  if (h.sign && bank && !ev.signs.some((s) => s.id === h.sign && (s.bank === null || s.bank === bank))) return 0;
  if (h.work) {
    const work = workOf(h, ev);
    log *= 0.5 ** ((work?.days ?? 0) / WORK_HALF_DAYS);
    if (h.factor < 1 && (work?.make === 'copy' || work?.make === 'used')) log *= COPY_POWER;
  }
  return log;
}

/** Whether a code, a sign, a complaint, recent work or a test speaks for a fault. */
export function spokenFor(row: FaultRow, bank: 1 | 2 | null, ev: Evidence): boolean {
  return (
    ev.tests.some((t) => t.row.speaks[t.outcome]?.includes(row.id)) ||
    HINTS.some((h) => h.faults.includes(row.id) && hintApplies(h, ev) && hintWeight(h, bank, ev) > 0)
  );
}

export function hintLog(row: FaultRow, bank: 1 | 2 | null, hints: readonly HintRow[], ev: Evidence): number {
  let log = 0;
  let spoken = false;
  for (const h of hints) {
    if (!h.faults.includes(row.id)) continue;
    log += hintWeight(h, bank, ev);
    spoken ||= h.code !== undefined;
  }
  // What usually comes with a fault and was asked for, yet is not there.
  if (ev.codes && !spoken) log += STORES_CODE.has(row.id) ? Math.log(SILENT_FACTOR) : (ABSENT_CODE.get(row.id) ?? 0);
  for (const h of ev.complaints.length > 0 ? (ABSENT_COMPLAINTS.get(row.id) ?? []) : [])
    if (!ev.complaints.includes(h.complaint)) log += h.log;
  return log;
}

/** ln of a complaint's absence, by fault: the stronger its presence speaks for the fault, the more it is missed. */
const ABSENT_COMPLAINTS: ReadonlyMap<string, readonly { complaint: string; log: number }[]> = new Map(
  FAULTS.map((f) => [
    f.id,
    HINTS.filter((h) => h.complaint && h.factor >= 2 && h.faults.includes(f.id)).map((h) => ({
      complaint: h.complaint!,
      log: Math.log(1 - ABSENT_SHARE * (h.factor - 1)),
    })),
  ]),
);

/** ln of the absence of every code, for faults that store one now and then. */
const ABSENT_CODE: ReadonlyMap<string, number> = new Map(
  FAULTS.flatMap((f) => {
    const most = Math.max(
      1,
      ...HINTS.filter((h) => h.code && !h.withoutTrims && h.faults.includes(f.id)).map((h) => h.factor),
    );
    return most > 1 ? [[f.id, Math.log(1 - ABSENT_SHARE * Math.min(0.45 * (most - 1), 3))] as const] : [];
  }),
);

/** Faults that usually store a code of their own. */
const STORES_CODE: ReadonlySet<string> = new Set(
  HINTS.filter((h) => h.code && h.factor >= 14 && !h.withoutTrims).flatMap((h) => h.faults),
);
