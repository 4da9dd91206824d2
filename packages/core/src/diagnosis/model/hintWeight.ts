import {
  COPY_POWER,
  DIESEL_SMOKES,
  FAULTS,
  type FaultRow,
  type HintRow,
  NO_REASON,
  NOTICES,
  PENDING_POWER,
  WORK_HALF_DAYS,
} from '../../catalogue/index.ts';
import { feelsThinAir } from '../evidence/altitude.ts';
import type { Evidence } from '../evidence/types.ts';

/** The code of this evidence that a hint is about, if any. */
export function codeOf(h: HintRow, ev: Evidence) {
  return h.code && (ev.codes ?? []).find((c) => c.code >= h.code![0] && c.code <= h.code![1]);
}

/** Whether a hint row applies to this evidence. */
export function hintApplies(h: HintRow, ev: Evidence): boolean {
  if (h.withoutTrims && (ev.trims.length > 0 || ev.airflowDead)) return false;
  if (h.code) return codeOf(h, ev) !== undefined;
  if (h.sign) return ev.signs.some((s) => s.id === h.sign);
  return workOf(h, ev) !== undefined;
}

export function workOf(h: HintRow, ev: Evidence) {
  return h.work === undefined ? undefined : ev.work.find((w) => h.work!.includes(w.id ?? ''));
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

/** ln of what codes, signs and recent work say of a fault; a code of its own that was looked for and is not there too. */
export function hintLog(row: FaultRow, bank: 1 | 2 | null, hints: readonly HintRow[], ev: Evidence): number {
  let log = 0;
  let coded = false;
  for (const h of hints) {
    if (!h.faults.includes(row.id)) continue;
    const weight = hintWeight(h, bank, ev);
    log += weight;
    coded ||= h.code !== undefined && weight > 0;
  }
  if (ev.codes && !coded) log += Math.log(1 - (NOTICES[row.id]?.code ?? 0));
  return log;
}

/** Of owners who notice, so many use another word than the fault is known for: a stumble is called a misfire, a shake a noise. [house] */
const OTHER_WORDS = 0.15;

/** How often each word is used of all faults together, as frequent as they are; shares of 1. */
const VOCABULARY: Readonly<Record<string, number>> = (() => {
  const out: Record<string, number> = {};
  let all = 0;
  for (const f of FAULTS) {
    const row = NOTICES[f.id];
    for (const [word, part] of Object.entries(row?.says ?? {})) {
      out[word] = (out[word] ?? 0) + f.weight * row!.owner * part;
      all += f.weight * row!.owner * part;
    }
  }
  for (const word of Object.keys(out)) out[word]! /= all;
  return out;
})();

/** Share of cars whose owner speaks of it whatever is wrong, here. */
function withoutReason(complaint: string, ev: Evidence): number | undefined {
  const anyway = NO_REASON[complaint];
  return anyway === undefined || complaint !== 'low-power'
    ? anyway
    : Math.max(anyway, 0.9 * feelsThinAir(ev.vehicle, ev.baroKPa));
}

/**
 * ln P(complaints | fault) over what owners speak of without a reason. An owner who notices the fault speaks of one of
 * its troubles; the rest is talk that comes with any car, a healthy one too: whatever a cause leaves unexplained costs
 * it the same. Nothing said is what those say who do not notice it. Nobody asked: 0.
 */
export function complaintsLog(fault: string, ev: Evidence): number {
  const row = NOTICES[fault];
  const complaints = smokeSpeaks(ev) ? ev.complaints.filter((c) => c !== 'smoke') : ev.complaints;
  if (complaints.length === 0 || !row || row.owner === 0) return 0;
  let explained = 0;
  for (const c of complaints) {
    const anyway = withoutReason(c, ev);
    if (anyway === undefined) continue;
    const says = (1 - OTHER_WORDS) * (row.says[c] ?? 0) + OTHER_WORDS * (VOCABULARY[c] ?? 0);
    explained += (says * (1 - anyway)) / anyway;
  }
  return Math.log(1 - row.owner + row.owner * explained);
}

/** Whether smoke counts by itself: a diesel without power, with it or without it. */
export const smokeSpeaks = (ev: Evidence): boolean =>
  ev.vehicle.fuel === 'diesel' && ev.complaints.some((c) => c === 'low-power' || c === 'limp-mode');

/** ln P(smoke or none beside the missing power of a diesel | fault). 0 elsewhere. */
export function smokeLog(fault: string, ev: Evidence): number {
  if (!smokeSpeaks(ev)) return 0;
  const smokes = DIESEL_SMOKES.faults[fault] ?? DIESEL_SMOKES.others;
  return Math.log(ev.complaints.includes('smoke') ? smokes : 1 - smokes);
}

/** Cars that come in without anybody having noticed anything, beside those that come in because somebody has. [house] */
const ROUTINE = 0.3;

/** Cars whose owner speaks of something though nothing gives a reason; shares of 1. */
const TALK = 1 - Object.values(NO_REASON).reduce((none, p) => none * (1 - p), 1);

/**
 * ln of what it says that there was nothing to notice: no complaint of somebody who was asked, no code, or both. The
 * weights count cars in a shop, and nearly every car with a fault that is felt or lights the lamp came in for it; with
 * nothing to notice a few come in all the same, for service or an inspection, and of these more are in order. 0 where
 * something was noticed, and where nobody was asked and no codes were read.
 */
export function broughtLog(fault: string, ev: Evidence): number {
  const asked = ev.complaints.length > 0;
  const noticed = ev.complaints.some((c) => c === 'lamp-only' || NO_REASON[c] !== undefined) || ev.codes?.length;
  if (noticed || !(asked || ev.codes)) return 0;
  const row = NOTICES[fault];
  const unspoken = (1 - (row?.owner ?? 0)) * (1 - TALK);
  const uncoded = 1 - (row?.code ?? 0);
  const came = (unnoticed: number) => 1 - unnoticed + ROUTINE * unnoticed;
  const known = asked && ev.codes ? ROUTINE : came(asked ? uncoded : unspoken);
  return Math.log(known / came(unspoken * uncoded));
}

/**
 * ln P(nothing to notice | fault), for what no reading shows and nobody was asked about: a car that came in for it has
 * mostly been noticed, by its owner or by a code.
 */
export function quietLog(fault: string, ev: Evidence): number {
  const row = NOTICES[fault];
  const unnoticed = (p: number) => Math.log((ROUTINE * (1 - p)) / (p + ROUTINE * (1 - p)));
  let log = 0;
  if (row && ev.complaints.length === 0) log += unnoticed(row.owner);
  if (row?.code && !ev.codes) log += unnoticed(row.code);
  return log;
}

/** A complaint among these that the fault explains. */
export function explainedBy(fault: string, complaints: readonly string[]): readonly string[] {
  return complaints.filter((c) => NOTICES[fault]?.says[c] !== undefined);
}
