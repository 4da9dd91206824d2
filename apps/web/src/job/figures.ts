import type { JobView } from '@just-balance/contract';
import { pointLabel, type Reading } from '@just-balance/core/case';
import { bankTotals } from '@just-balance/core/proof';

/** −3.2, +14.0: trims always carry their sign. */
export function signed(v: number, digits = 1): string {
  return `${v < 0 ? '−' : '+'}${Math.abs(v).toFixed(digits)}`;
}

/** Newest reading of each point in a phase, in order of first appearance. */
export function newestReadings(job: JobView, phase: 'before' | 'after') {
  const by = new Map<string, JobView['readings'][number]>();
  for (const r of job.readings) if (r.phase === phase) by.set(r.reading.at, r);
  return [...by.values()];
}

/** Lean or rich as word, sign and class: never colour alone. */
export function leaning(totalPct: number, limit: number): { word: string; tag: string; text: string } | null {
  if (totalPct > limit) return { word: '▶ lean', tag: 'tag-lean', text: 'text-lean' };
  if (totalPct < -limit) return { word: '◀ rich', tag: 'tag-rich', text: 'text-rich' };
  return null;
}

/** The one figure of a reading: its trims, or airflow, or pressure. */
export function keyFigure(r: Reading): string {
  const totals = bankTotals(r);
  if (totals.length > 0) return `${totals.map((t) => signed(t.totalPct)).join(' / ')} %`;
  if (r.mafGps !== undefined) return `${r.mafGps.toFixed(1)} g/s`;
  return r.mapKPa === undefined ? 'kept' : `${r.mapKPa.toFixed(0)} kPa`;
}

/** What a capture or a mark is called: its operating point, or its own words. */
export function captureLabel(at: string): string {
  if (at === 'free') return 'Free recording';
  return pointLabel(at as Reading['at']) ?? at;
}

/** 1:02:07, 2:07, 0:07. */
export function clock(s: number): string {
  const whole = Math.max(0, Math.floor(s));
  const two = (n: number) => String(n).padStart(2, '0');
  const h = Math.floor(whole / 3600);
  const m = Math.floor(whole / 60) % 60;
  return h > 0 ? `${h}:${two(m)}:${two(whole % 60)}` : `${m}:${two(whole % 60)}`;
}
