import { complaintLabel, partLabel, pointLabel } from '../../case/index.ts';
import { HINTS, type HintRow, outcomeLabel, outcomesOf, sizeFigure, speaksFor } from '../../catalogue/index.ts';
import { holeForFlow } from '../../gas/index.ts';
import { counted, figure, isSaid, percent, type Said, said } from '../../units/index.ts';
import type { Evidence } from '../evidence/types.ts';
import {
  codeOf,
  complaintsLog,
  explainedBy,
  hintApplies,
  hintWeight,
  smokeLog,
  smokeSpeaks,
  workOf,
} from '../model/hintWeight.ts';
import { railLog, singleAirflowLog, singleTrimLog } from '../model/likelihood.ts';
import { resultProbability } from '../model/resultProbability.ts';
import { isMeasured, severityOf } from '../model/severity.ts';
import { railEffect } from '../model/weigh.ts';
import type { Weighed } from '../model/weighed.ts';

/** A term must move the odds by a fifth to be worth a sentence. */
const WORTH_SAYING = Math.log(1.2);

const EXPECTED_FROM = { physics: 'physics', entered: 'service data', shop: 'known good' } as const;

interface Term {
  log: number;
  text: Said;
}

/** One piece of evidence: how well each cause explains it (log), and the sentence it makes for one. */
interface Piece {
  logs: number[];
  text: (w: Weighed) => Said;
  /** Whether it can be a reason for a cause at all; any can where nothing is said. */
  speaksFor?: (w: Weighed) => boolean;
}

function pieces(weighed: readonly Weighed[], ev: Evidence): Piece[] {
  const out: Piece[] = [];
  for (const t of ev.trims) {
    const predicted = (w: Weighed) => w.expected[t.point]!.trimPct[t.bank - 1]!;
    const bank = ev.banks === 2 ? `, bank ${t.bank}` : '';
    out.push({
      logs: weighed.map((w) => singleTrimLog(t, predicted(w))),
      text: (w) =>
        said`${pointLabel(t.at)}${bank}: ${percent(t.totalPct, 1)} measured, ${percent(predicted(w), 1)} predicted${t.pegged ? ' (at the limit: at least this much)' : ''}.`,
    });
  }
  ev.points.forEach((point, i) => {
    const measured = point.airflowLog;
    if (measured === null) return;
    const share = (log: number) => percent((Math.exp(log) - 1) * 100, 0);
    out.push({
      logs: weighed.map((w) => singleAirflowLog(point, w.expected[i]!.airflowLog)),
      text: (w) =>
        said`${pointLabel(point.at)}: airflow ${figure(point.airflowGps, 'g/s', 1)} is ${share(measured)} from ${EXPECTED_FROM[point.airflowFrom]}, ${share(w.expected[i]!.airflowLog)} predicted.`,
    });
  });
  for (const t of ev.tests) {
    const text = said`${t.row.label}: ${isSaid(t.detail) ? t.detail : outcomeLabel(t.row.id, t.outcome)}.`;
    const normal = t.outcome === outcomesOf(t.row)[0];
    const shown = speaksFor(t.row, t.outcome);
    out.push({
      // By the very terms of the weighing: a figure by its size, any other result by its table.
      logs: weighed.map((w) =>
        t.figure === undefined
          ? Math.log(resultProbability(t, w.row.id, w.bank, ev.banks))
          : railLog(t.figure, expectedRail(w, ev)),
      ),
      text: () => text,
      // A find speaks for whatever shows it; that it spares others is no reason of theirs.
      speaksFor: (w) => normal || t.part !== null || shown.includes(w.row.id),
    });
  }
  if (ev.complaints.length > 0)
    out.push({
      logs: weighed.map((w) => complaintsLog(w.row.id, ev)),
      text: (w) => {
        const explained = explainedBy(w.row.id, ev.complaints).map(complaintLabel).join(', ');
        return explained ? `Complaint: ${explained} (weak evidence).` : 'None of its usual complaints (weak evidence).';
      },
    });
  if (smokeSpeaks(ev)) {
    const text = ev.complaints.includes('smoke')
      ? 'Power is missing and it smokes: air is lost or displaced after it was measured.'
      : 'Power is missing without smoke: fuel is held back for the air or boost that is seen.';
    out.push({ logs: weighed.map((w) => smokeLog(w.row.id, ev)), text: () => text });
  }
  return out;
}

/** The share by which a cause moves the fuel pressure, over its sizes. */
const expectedRail = (w: Weighed, ev: Evidence) =>
  w.grid.reduce((s, g) => s + g.probability * railEffect(g.shape, g.severity, ev), 0);

/** Sum of all but one. Next to a cause near certainty nothing would be left of a difference: then it is added up anew. */
function sumWithout(at: number, mass: readonly number[]): number {
  let sum = 0;
  for (const m of mass) sum += m;
  if (mass[at]! < 0.9 * sum) return sum - mass[at]!;
  sum = 0;
  for (let o = 0; o < mass.length; o++) if (o !== at) sum += mass[o]!;
  return sum;
}

/**
 * Sentences for and against every cause, from the likelihood terms themselves: each term is the cause's log likelihood
 * for one piece of evidence minus that of all other causes together (weighted by their probability).
 */
export function explainAll(weighed: readonly Weighed[], ev: Evidence): { because: Said[]; against: Said[] }[] {
  const found = pieces(weighed, ev).map((p) => ({
    ...p,
    mass: p.logs.map((log, o) => weighed[o]!.probability * Math.exp(log)),
  }));
  const hints = HINTS.filter((h) => hintApplies(h, ev));
  return weighed.map((w, at) => {
    const others = Math.max(1 - w.probability, 1e-12);
    const terms: Term[] = [];
    for (const piece of found) {
      const sum = sumWithout(at, piece.mass);
      const log = piece.logs[at]! - Math.log(Math.max(sum / others, 1e-12));
      if (Math.abs(log) > WORTH_SAYING && !(log > 0 && piece.speaksFor && !piece.speaksFor(w)))
        terms.push({ log, text: piece.text(w) });
    }
    for (const h of hints) {
      if (!h.faults.includes(w.row.id)) continue;
      const log = hintWeight(h, w.bank, ev);
      if (Math.abs(log) > WORTH_SAYING) terms.push({ log, text: hintText(h, ev) });
    }
    terms.sort((a, b) => Math.abs(b.log) - Math.abs(a.log));
    const size = sizeSentence(w, ev);
    const because = terms.filter((t) => t.log > 0).map((t) => t.text);
    return { because: size ? [size, ...because] : because, against: terms.filter((t) => t.log < 0).map((t) => t.text) };
  });
}

function hintText(h: HintRow, ev: Evidence): Said {
  if (h.sign) return ev.signs.find((s) => s.id === h.sign)!.text;
  const code = codeOf(h, ev);
  if (code) return `Code ${code.code}, ${code.state} (weak evidence).`;
  const work = workOf(h, ev)!;
  const when = work.days === undefined ? '' : work.days === 0 ? ' today' : ` ${counted(work.days, 'day')} ago`;
  return h.factor < 1
    ? `${partLabel(work.id ?? work.part)} already worked on${when}${work.make === 'copy' || work.make === 'used' ? `, by a ${work.make === 'copy' ? 'copy' : 'used part'}: hardly any evidence against it` : ': weak evidence against it'}.`
    : `Recent work: ${partLabel(work.id ?? work.part)}${when} (weak evidence).`;
}

/** The arithmetic that convinces: the size, and for a leak the hole and the raised-rpm trim it must then cause. */
export function sizeSentence(w: Weighed, ev: Evidence): Said | null {
  const s = severityOf(w);
  if (!s || !isMeasured(w, ev)) return null;
  const shape = w.row.variants[0]!.shape.kind;
  if (shape === 'leak') {
    const idle = ev.points.find((p) => p.at === 'idle');
    const hole = holeForFlow(s.value, ev.baroKPa, ev.airC, idle?.mapKPa ?? 0.33 * ev.baroKPa);
    const hold = ev.points.findIndex((p) => p.at === 'hold-2500');
    const e = hold >= 0 ? w.expected[hold]!.trimPct : null;
    const raised = e ? Math.max(e[0], e[1]) : null;
    const past = ev.vehicle.metering === 'speed-density' ? 'past the throttle' : 'past the meter';
    return said`${figure(s.value, 'g/s', 2)} ${past}, a hole of about ${figure(hole?.diameterMm ?? 0, 'mm', 1)}${raised === null ? '' : said`: at 2,500 rpm that makes ${percent(raised, 1)}`}.`;
  }
  if (s.unit === 'kPa' && shape === 'sag')
    return said`About ${sizeFigure(w.row.id, s.unit, s.value)} short at ${figure(ev.roadFlowGps, 'g/s', 0)} (${sizeFigure(w.row.id, s.unit, [s.low, s.high])}).`;
  if (shape === 'none') return null;
  const size = (v: number | readonly number[]) => sizeFigure(w.row.id, s.unit, v);
  return said`Size ${size(s.value)} (${size([s.low, s.high])}).`;
}
