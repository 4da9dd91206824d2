import { BarController, BarElement, CategoryScale, Chart, type ChartOptions } from 'chart.js';
import { useMemo } from 'react';
import { Chart as ChartOf } from 'react-chartjs-2';
import { usePreferences } from '../ui/preferences.tsx';
import { useChartTheme } from './Plot.tsx';
import { still } from './theme.ts';

Chart.register(BarController, BarElement, CategoryScale);

export interface Bar {
  label: string;
  value: number;
  /** Drawn as a whisker. */
  low?: number;
  high?: number;
  /** A second figure to hold it against, drawn as a tick. */
  against?: number;
}

const ROW = 34;
const AROUND = 44;

/** Lying bars, the largest on top, each with its interval; the words stand in the table beside it. */
export function Bars({
  bars,
  unit,
  most,
  label,
}: {
  bars: readonly Bar[];
  unit: string;
  most?: number;
  label: string;
}) {
  const { theme } = usePreferences();
  const t = useChartTheme();
  const data = useMemo(
    () => ({
      labels: bars.map((b) => b.label),
      datasets: [
        {
          data: bars.map((b) => b.value),
          backgroundColor: `${t.colour.act}55`,
          borderColor: t.colour.act,
          borderWidth: 1,
          barThickness: 16,
        },
      ],
    }),
    [bars, t],
  );
  const options = useMemo(() => {
    const marks = bars.flatMap((b, i) => [
      ...(b.low !== undefined && b.high !== undefined
        ? [
            {
              type: 'line' as const,
              xMin: b.low,
              xMax: b.high,
              yMin: i,
              yMax: i,
              borderColor: t.colour.ink,
              borderWidth: 2,
            },
          ]
        : []),
      ...(b.against !== undefined
        ? [
            {
              type: 'line' as const,
              xMin: b.against,
              xMax: b.against,
              yMin: i - 0.35,
              yMax: i + 0.35,
              borderColor: t.colour.soft,
              borderWidth: 3,
              borderDash: [3, 3],
            },
          ]
        : []),
    ]);
    return {
      ...still('line'),
      parsing: undefined,
      normalized: undefined,
      indexAxis: 'y',
      scales: {
        x: {
          min: 0,
          ...(most === undefined ? {} : { max: most }),
          title: t.title(unit),
          ticks: t.tick(12),
          grid: { color: t.colour.rule },
        },
        y: {
          ticks: {
            color: t.colour.ink,
            font: { size: 13, family: 'Atkinson Hyperlegible Next Variable' },
            autoSkip: false,
          },
          grid: { display: false },
        },
      },
      plugins: { annotation: { clip: false, annotations: marks } },
    } as unknown as ChartOptions<'bar'>;
  }, [bars, most, unit, t]);
  return (
    <div style={{ height: AROUND + ROW * bars.length }}>
      <ChartOf key={theme} type="bar" data={data} options={options} updateMode="none" role="img" aria-label={label} />
    </div>
  );
}
