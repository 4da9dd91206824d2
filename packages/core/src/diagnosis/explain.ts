import { holeForFlow } from '../gas/index.ts';
import { type Evidence, pointLabel } from './evidence.ts';
import { HINTS, type HintRow } from './hints.ts';
import { singleAirflowLog, singleTrimLog } from './likelihood.ts';
import { resultProbability } from './tests.ts';
import { codeOf, hintApplies, hintWeight, severityOf, type Weighed, workOf } from './weigh.ts';

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
  const others = weighed.filter((o) => o !== w && o.probability > 1e-4);
  const mass = others.reduce((s, o) => s + o.probability, 0) || 1;
  const terms: Term[] = [];
  /** This cause's log likelihood of one piece of evidence, over that of all others together. */
  const against = (mine: number, other: (o: Weighed) => number) => {
    let sum = 0;
    for (const o of others) sum += (o.probability / mass) * Math.exp(other(o));
    return mine - Math.log(Math.max(sum, 1e-12));
  };
  for (const t of ev.trims) {
    const predicted = w.expected[t.point]!.trimPct[t.bank - 1]!;
    const bank = ev.banks === 2 ? `, bank ${t.bank}` : '';
    terms.push({
      log: against(singleTrimLog(t, predicted), (o) => singleTrimLog(t, o.expected[t.point]!.trimPct[t.bank - 1]!)),
      text: `${pointLabel(t.at)}${bank}: ${signed(t.totalPct)} % measured, ${signed(predicted)} % predicted${t.pegged ? ' (at the limit: at least this much)' : ''}.`,
    });
  }
  ev.points.forEach((point, i) => {
    const measured = point.airflowLog;
    if (measured === null) return;
    const mine = w.expected[i]!.airflowLog;
    terms.push({
      log: against(singleAirflowLog(measured, mine, point.airflowSd), (o) =>
        singleAirflowLog(measured, o.expected[i]!.airflowLog, point.airflowSd),
      ),
      text: `${pointLabel(point.at)}: airflow ${point.airflowGps.toFixed(1)} g/s is ${signed((Math.exp(measured) - 1) * 100, 0)} % from physics, ${signed((Math.exp(mine) - 1) * 100, 0)} % predicted.`,
    });
  });
  for (const t of ev.tests) {
    terms.push({
      log: against(Math.log(resultProbability(t, w.row.id, w.bank)), (o) =>
        Math.log(resultProbability(t, o.row.id, o.bank)),
      ),
      text: `${t.row.label}: ${t.detail || t.outcome.replaceAll('-', ' ')}.`,
    });
  }
  for (const h of HINTS) {
    if (!h.faults.includes(w.row.id) || !hintApplies(h, ev)) continue;
    const log = hintWeight(h, w.bank, ev);
    if (log !== 0) terms.push({ log, text: hintText(h, ev) });
  }
  const because = terms
    .filter((t) => t.log > WORTH_SAYING)
    .sort((a, b) => b.log - a.log)
    .map((t) => t.text);
  const speaksAgainst = terms
    .filter((t) => t.log < -WORTH_SAYING)
    .sort((a, b) => a.log - b.log)
    .map((t) => t.text);
  const size = sizeSentence(w, ev);
  return { because: size ? [size, ...because] : because, against: speaksAgainst };
}

function hintText(h: HintRow, ev: Evidence): string {
  if (h.sign) return ev.signs.find((s) => s.id === h.sign)!.text;
  const code = codeOf(h, ev);
  if (code) return `Code ${code.code}, ${code.state} (weak evidence).`;
  if (h.complaint) return `Complaint: ${h.complaint.replaceAll('-', ' ')} (weak evidence).`;
  const work = workOf(h, ev)!;
  const when = work.days === undefined ? '' : ` ${work.days} days ago`;
  return h.factor < 1
    ? `${work.part.replaceAll('-', ' ')} already worked on${when}: weak innocence.`
    : `Recent work: ${work.part.replaceAll('-', ' ')}${when} (weak evidence).`;
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
    const e = hold >= 0 ? w.expected[hold]!.trimPct : null;
    const raised = e ? Math.max(e[0], e[1]) : null;
    return `${s.value.toFixed(2)} g/s past the meter, a hole of about ${(hole?.diameterMm ?? 0).toFixed(1)} mm${raised === null ? '' : `: at 2,500 rpm that makes ${signed(raised)} %`}.`;
  }
  if (s.unit === 'kPa' && shape === 'sag')
    return `About ${s.value.toFixed(0)} kPa short at ${ev.roadFlowGps.toFixed(0)} g/s (${s.low.toFixed(0)}–${s.high.toFixed(0)}).`;
  if (shape === 'none') return null;
  return `Size ${s.value.toFixed(s.unit === 'g/s' ? 3 : 0)} ${s.unit} (${s.low.toFixed(s.unit === 'g/s' ? 3 : 0)}–${s.high.toFixed(s.unit === 'g/s' ? 3 : 0)}).`;
}
