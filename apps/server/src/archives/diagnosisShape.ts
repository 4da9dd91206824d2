import { isSaidFromOutside } from '@just-balance/contract/checks';
import { isGroup } from '../common/group.ts';

const sentence = (v: unknown) => isSaidFromOutside(v, 4000);
const words = (v: unknown) => Array.isArray(v) && v.length <= 200 && v.every(sentence);
const share = (v: unknown) => typeof v === 'number' && v >= 0 && v <= 1;

function causeProblem(c: unknown): string | null {
  if (!isGroup(c) || typeof c.fault !== 'string' || !share(c.probability)) return 'a fault with its probability';
  if (!words(c.because) || !words(c.against)) return 'because and against: lists of sentences';
  const s = c.severity;
  if (s !== null && !(isGroup(s) && [s.value, s.low, s.high].every(Number.isFinite) && typeof s.unit === 'string'))
    return 'severity: value, low, high and unit, or null';
  return c.bank === null || c.bank === 1 || c.bank === 2 ? null : 'bank: 1, 2 or null';
}

/** What is wrong with a stored judgement (CONTRACT, `just-balance/diagnosis` version 1); null where it can be shown. */
export function diagnosisProblem(v: unknown): string | null {
  if (!isGroup(v) || v.format !== 'just-balance/diagnosis' || v.version !== 1) return 'a diagnosis, version 1';
  if (typeof v.mixture !== 'string' || !Array.isArray(v.banks)) return 'mixture and banks';
  if (!Array.isArray(v.causes) || v.causes.length > 200) return 'causes: a list';
  for (const [i, c] of v.causes.entries()) {
    const problem = causeProblem(c);
    if (problem) return `causes[${i}]: ${problem}`;
  }
  const faults = (x: unknown) => Array.isArray(x) && x.length <= 200 && x.every((f) => typeof f === 'string');
  const chances = (x: unknown, fits: (o: Record<string, unknown>) => boolean) =>
    Array.isArray(x) && x.length <= 200 && x.every((o) => isGroup(o) && fits(o));
  if (!chances(v.pairs, (p) => faults(p.faults) && share(p.probability))) return 'pairs: a list';
  if (!chances(v.alsoPresent, (p) => typeof p.fault === 'string' && share(p.probability))) return 'alsoPresent: a list';
  if (
    !chances(
      v.nextTests,
      (t) =>
        typeof t.test === 'string' &&
        Number.isFinite(t.minutes) &&
        Number.isFinite(t.informationBits) &&
        sentence(t.why),
    )
  )
    return 'nextTests: a list';
  if (v.condemned !== undefined && !faults(v.condemned)) return 'condemned: a list of faults';
  if (!Array.isArray(v.cannotTellApart) || !v.cannotTellApart.every(faults)) return 'cannotTellApart: lists of faults';
  return words(v.warnings) ? null : 'warnings: a list of sentences';
}
