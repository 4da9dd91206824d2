import type { ChartData, ChartOptions } from 'chart.js';
import type { AnnotationOptions } from 'chartjs-plugin-annotation';
import { useMemo } from 'react';
import { Chart } from 'react-chartjs-2';
import { usePreferences } from '../ui/preferences.tsx';
import { type ChartTheme, chartTheme, still } from './theme.ts';

interface Props<T extends 'line' | 'scatter'> {
  type: T;
  data: ChartData<T, { x: number; y: number }[]>;
  options: ChartOptions<T>;
  /** Bands and marks behind the data. */
  annotations?: AnnotationOptions[];
  /** What the picture shows, in words; none where the words stand beside it. */
  label?: string;
}

/** The one way a plot is drawn: as high and wide as the box it stands in, in the page's theme. */
export function Plot<T extends 'line' | 'scatter'>({ type, data, options, annotations, label }: Props<T>) {
  const { theme } = usePreferences();
  const whole = useMemo(
    () =>
      ({
        ...still(type),
        ...options,
        plugins: { annotation: { clip: false, annotations: annotations ?? [] } },
      }) as ChartOptions<T>,
    [type, options, annotations],
  );
  return (
    <Chart
      key={theme}
      type={type}
      data={data}
      options={whole}
      updateMode="none"
      {...(label ? { role: 'img', 'aria-label': label } : { 'aria-hidden': true })}
    />
  );
}

/** The theme of the moment; anew when the page changes from light to dark. */
export function useChartTheme(): ChartTheme {
  const { theme } = usePreferences();
  return useMemo(chartTheme, [theme]);
}
