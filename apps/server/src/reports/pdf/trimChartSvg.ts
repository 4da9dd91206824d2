import type { Block } from '@just-balance/core/handOver';
import { signed } from '@just-balance/core/units';
import { MAIN_FONT } from './fonts.ts';

type TrimChart = Extract<Block, { kind: 'trimChart' }>;

const WIDTH = 500;
const ROW = 46;
const TOP = 24;
const LABELS = 96;
const INK = '#16181d';
const SOFT = '#5b6472';

const safe = (t: string) => t.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);

/** The trim chart for paper: total trim across, a row an operating point, grey ring before, solid mark after. */
export function trimChartSvg(chart: TrimChart): { svg: string; width: number; height: number } {
  const largest = Math.max(
    chart.actPct * 1.5,
    ...chart.rows.flatMap((r) => [...r.before, ...r.after].map((t) => Math.abs(t.totalPct))),
  );
  const range = Math.min(60, Math.ceil((largest + 2) / 5) * 5);
  const x = (v: number) =>
    LABELS + ((Math.max(-range, Math.min(range, v)) + range) / (2 * range)) * (WIDTH - LABELS - 14);
  const height = TOP + chart.rows.length * ROW + 6;
  const text = (at: number, y: number, t: string, more = '') =>
    `<text x="${at.toFixed(1)}" y="${y}" font-family="${MAIN_FONT}" font-size="9.5" fill="${INK}" ${more}>${safe(t)}</text>`;
  const line = (v: number, more: string) =>
    `<line x1="${x(v).toFixed(1)}" x2="${x(v).toFixed(1)}" y1="${TOP}" y2="${height - 6}" ${more}/>`;
  const mark = (bank: 1 | 2, v: number, y: number, fill: string, stroke: string) =>
    bank === 1
      ? `<circle cx="${x(v).toFixed(1)}" cy="${y}" r="5.5" fill="${fill}" stroke="${stroke}" stroke-width="2"/>`
      : `<path d="M ${x(v).toFixed(1)} ${y - 7} l 7 7 l -7 7 l -7 -7 z" fill="${fill}" stroke="${stroke}" stroke-width="2"/>`;
  const rows = chart.rows.map((r, i) => {
    const middle = TOP + i * ROW + ROW / 2;
    const of = (list: typeof r.before, fill: string, stroke: string, weight: string) =>
      list
        .map((t) => {
          const y = middle + (chart.banks === 2 ? (t.bank === 1 ? -9 : 11) : 2);
          return (
            mark(t.bank, t.totalPct, y, fill, stroke) +
            text(x(t.totalPct), y - 9, signed(t.totalPct), `text-anchor="middle" font-weight="${weight}"`)
          );
        })
        .join('');
    return (
      `<line x1="${x(-range)}" x2="${x(range)}" y1="${middle + 2}" y2="${middle + 2}" stroke="#d6dae0"/>` +
      text(0, middle + 5, r.label) +
      of(r.before, '#ffffff', SOFT, 'normal') +
      of(r.after, INK, INK, 'bold')
    );
  });
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="${WIDTH}" height="${height}" viewBox="0 0 ${WIDTH} ${height}">
<rect x="${x(-chart.watchPct).toFixed(1)}" y="${TOP}" width="${(x(chart.watchPct) - x(-chart.watchPct)).toFixed(1)}" height="${height - TOP - 6}" fill="#e4efe6"/>
${line(0, `stroke="${SOFT}"`)}${line(-chart.actPct, `stroke="${SOFT}" stroke-dasharray="2 4"`)}${line(chart.actPct, `stroke="${SOFT}" stroke-dasharray="2 4"`)}
${text(x(0) - 8, 12, 'takes fuel away', 'text-anchor="end"')}${text(x(0) + 8, 12, 'adds fuel')}
${rows.join('')}</svg>`;
  return { svg, width: WIDTH, height };
}

/** The same in words, for whoever cannot see it. */
export function trimsInWords(chart: TrimChart): string {
  const totals = (list: readonly { bank: 1 | 2; totalPct: number }[]) =>
    list.map((t) => `${chart.banks === 2 ? `bank ${t.bank} ` : ''}${signed(t.totalPct)} %`).join(', ') || 'not taken';
  return `${chart.caption}. ${chart.rows.map((r) => `${r.label}: before ${totals(r.before)}, after ${totals(r.after)}.`).join(' ')}`;
}
