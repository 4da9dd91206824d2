import { holeForFlow } from '../gas/index.ts';
import { type Evidence, pointLabel } from './evidence.ts';
import { HINTS } from './hints.ts';
import { singleTrimLog } from './likelihood.ts';
import { outcomeProbability } from './tests.ts';
import { expectedEffects, hintApplies, severityOf, type Weighed } from './weigh.ts';

/** A term must move the odds by a fifth to be worth a sentence. */
const WORTH_SAYING = Math.log(1.2);

interface Term {
  log: number;
  text: string;
}

export const signed = (v: number, digits = 1): string => `${v < 0 ? '−' : '+'}${Math.abs(v).toFixed(digits)}`;

/**
 * Sentences for and against a cause, from the likelihood terms themselves: each term is the cause's log likelihood
 * for one piece of evidence minus that of all other causes together (weighted by their probability).
 */
export function explain(
  w: Weighed,
  weighed: readonly Weighed[],
  ev: Evidence,
): { because: string[]; against: string[] } {
  const others = weighed.filter((o) => o !== w);
  const terms: Term[] = [];
  const mine = expectedEffects(w, ev);
  const theirs = others.map((o) => ({ p: o.probability, e: expectedEffects(o, ev) }));
  const mass = theirs.reduce((s, t) => s + t.p, 0) || 1;
  ev.points.forEach((point, i) => {
    for (const t of point.trims) {
      const predicted = mine[i]!.trimPct[t.bank - 1]!;
      const other = theirs.reduce(
        (s, o) => s + (o.p / mass) * Math.exp(singleTrimLog(t, o.e[i]!.trimPct[t.bank - 1]!)),
        0,
      );
      const bank = ev.banks === 2 ? `, bank ${t.bank}` : '';
      terms.push({
        log: singleTrimLog(t, predicted) - Math.log(Math.max(other, 1e-12)),
        text: `${pointLabel(point.at)}${bank}: ${signed(t.totalPct)} % measured, ${signed(predicted)} % predicted${t.pegged ? ' (at the limit: at least this much)' : ''}.`,
      });
    }
    if (point.airflowLog !== null) {
      const spread = Math.hypot(point.airflowSd, 0.04);
      const log = (e: number) => -0.5 * ((point.airflowLog! - e) / spread) ** 2;
      const other = theirs.reduce((s, o) => s + (o.p / mass) * Math.exp(log(o.e[i]!.airflowLog)), 0);
      const share = (Math.exp(point.airflowLog) - 1) * 100;
      terms.push({
        log: log(mine[i]!.airflowLog) - Math.log(Math.max(other, 1e-12)),
        text: `${pointLabel(point.at)}: airflow ${point.airflowGps.toFixed(1)} g/s is ${signed(share, 0)} % from physics, ${signed((Math.exp(mine[i]!.airflowLog) - 1) * 100, 0)} % predicted.`,
      });
    }
  });
  for (const t of ev.tests) {
    const p = outcomeProbability(t.row, t.outcome, w.row.id);
    const other = others.reduce(
      (s, o) => s + (o.probability / mass) * outcomeProbability(t.row, t.outcome, o.row.id),
      0,
    );
    terms.push({
      log: Math.log(p) - Math.log(Math.max(other, 1e-12)),
      text: `${t.row.label}: ${t.detail || t.outcome.replaceAll('-', ' ')}.`,
    });
  }
  for (const h of HINTS) {
    if (!hintApplies(h, ev) || !h.faults.includes(w.row.id)) continue;
    const what = h.code
      ? `Code ${(ev.codes ?? []).find((c) => c >= h.code![0] && c <= h.code![1])}`
      : h.signal
        ? 'Airflow signal near nothing on a running engine'
        : h.complaint
          ? `Complaint: ${h.complaint.replaceAll('-', ' ')}`
          : `Recent work: ${h.work}`;
    terms.push({ log: Math.log(h.factor), text: `${what}${h.signal ? '' : ' (weak evidence)'}.` });
  }
  const because = terms
    .filter((t) => t.log > WORTH_SAYING)
    .sort((a, b) => b.log - a.log)
    .map((t) => t.text);
  const against = terms
    .filter((t) => t.log < -WORTH_SAYING)
    .sort((a, b) => a.log - b.log)
    .map((t) => t.text);
  const size = sizeSentence(w, ev);
  return { because: size ? [size, ...because] : because, against };
}

/** The arithmetic that convinces: the size, and for a leak the hole and the raised-rpm trim it must then cause. */
export function sizeSentence(w: Weighed, ev: Evidence): string | null {
  const s = severityOf(w);
  if (!s) return null;
  const shape = w.row.variants[0]!.shape.kind;
  if (shape === 'leak') {
    const idle = ev.points.find((p) => p.at === 'idle');
    const hole = holeForFlow(s.value, ev.baroKPa, ev.airC, idle?.mapKPa ?? 0.33 * ev.baroKPa);
    const hold = ev.points.findIndex((p) => p.at === 'hold-2500');
    const e = hold >= 0 ? expectedEffects(w, ev)[hold]!.trimPct : null;
    const raised = e ? Math.max(e[0], e[1]) : null;
    return `${s.value.toFixed(2)} g/s past the meter, a hole of about ${(hole?.diameterMm ?? 0).toFixed(1)} mm${raised === null ? '' : `: at 2,500 rpm that makes ${signed(raised)} %`}.`;
  }
  if (s.unit === 'kPa' && shape === 'sag')
    return `About ${s.value.toFixed(0)} kPa short at ${ev.roadFlowGps.toFixed(0)} g/s (${s.low.toFixed(0)}–${s.high.toFixed(0)}).`;
  if (shape === 'none') return null;
  return `Size ${s.value.toFixed(s.unit === 'g/s' ? 3 : 0)} ${s.unit} (${s.low.toFixed(s.unit === 'g/s' ? 3 : 0)}–${s.high.toFixed(s.unit === 'g/s' ? 3 : 0)}).`;
}
