import { numberText } from '@just-balance/core/units';
import {
  Chart,
  type ChartOptions,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  ScatterController,
} from 'chart.js';
import annotation, { type AnnotationOptions } from 'chartjs-plugin-annotation';

Chart.register(LineController, ScatterController, LineElement, PointElement, LinearScale, annotation);

const FIGURES = 'Atkinson Hyperlegible Mono Variable';
const WORDS = 'Atkinson Hyperlegible Next Variable';
const NAMES = { ink: '--ink', soft: '--soft', rule: '--rule', act: '--act', band: '--band', bandEdge: '--band-edge' };

/** What a plot is drawn with, from the page's theme of the moment. */
export type ChartTheme = ReturnType<typeof chartTheme>;

export function chartTheme() {
  const css = getComputedStyle(document.documentElement);
  const colour = Object.fromEntries(
    Object.entries(NAMES).map(([k, name]) => [k, css.getPropertyValue(name).trim()]),
  ) as Record<keyof typeof NAMES, string>;
  return {
    colour,
    tick: (size = 11) => ({ color: colour.soft, font: { size, family: FIGURES } }),
    /** The same on an axis of figures, written as figures are everywhere. */
    figures: (size = 11) => ({
      color: colour.soft,
      font: { size, family: FIGURES },
      callback: (v: number | string) => numberText(Number(v)),
    }),
    title: (text: string) => ({ display: true, text, color: colour.ink, font: { size: 13, family: WORDS } }),
    /** Where a figure is expected: across the plot, or along one scale of several. */
    band: (low: number, high: number, scale = 'y'): AnnotationOptions => ({
      type: 'box',
      yScaleID: scale,
      yMin: low,
      yMax: high,
      backgroundColor: colour.band,
      borderWidth: 0,
      drawTime: 'beforeDatasetsDraw',
    }),
    /** A stretch of time that means something, named above the plot. */
    mark: (from: number, to: number, label?: string, scale = 'y'): AnnotationOptions => ({
      type: 'box',
      xScaleID: 'x',
      yScaleID: scale,
      xMin: from,
      xMax: to,
      backgroundColor: `${colour.act}1c`,
      borderColor: colour.act,
      borderWidth: 0,
      drawTime: 'beforeDatasetsDraw',
      label: {
        display: label !== undefined,
        content: label ?? '',
        color: colour.act,
        font: { size: 12, family: WORDS, weight: 'normal' },
        position: { x: 'start', y: 'start' },
        padding: 0,
        yAdjust: -19,
      },
    }),
    /** A stretch without signal: hatched. */
    gap: (from: number, to: number, named: boolean, scale = 'y'): AnnotationOptions => ({
      type: 'box',
      xScaleID: 'x',
      yScaleID: scale,
      xMin: from,
      xMax: to,
      backgroundColor: hatch(colour.soft),
      borderWidth: 0,
      drawTime: 'beforeDatasetsDraw',
      label: {
        display: named,
        content: 'no signal',
        color: colour.ink,
        font: { size: 12, family: WORDS, weight: 'normal' },
        position: { x: 'start', y: 'start' },
        padding: 0,
        yAdjust: -19,
      },
    }),
    /** A line across or along. */
    line: (
      at: Partial<Record<'xMin' | 'xMax' | 'yMin' | 'yMax', number>>,
      width: number,
      scale = 'y',
    ): AnnotationOptions => ({
      type: 'line',
      yScaleID: scale,
      ...at,
      borderColor: colour.act,
      borderWidth: width,
      drawTime: 'beforeDatasetsDraw',
    }),
  };
}

function hatch(colour: string): CanvasPattern | string {
  const tile = document.createElement('canvas');
  tile.width = tile.height = 9;
  const ctx = tile.getContext('2d');
  if (!ctx) return 'transparent';
  ctx.strokeStyle = colour;
  ctx.globalAlpha = 0.5;
  ctx.beginPath();
  ctx.moveTo(0, 9);
  ctx.lineTo(9, 0);
  ctx.stroke();
  return ctx.createPattern(tile, 'repeat') ?? 'transparent';
}

/**
 * What every plot shares: nothing moves by itself, no pointer is followed. Lines are taken as they are; unparsed, dots
 * would be taken to rise in x as well, and the axis would end at the last of them.
 */
export function still(type: 'line' | 'scatter') {
  return {
    animation: false,
    responsive: true,
    maintainAspectRatio: false,
    ...(type === 'line' ? { parsing: false, normalized: true } : {}),
    events: [],
  } satisfies ChartOptions<'line'>;
}
