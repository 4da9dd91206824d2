/** What the driver (or the person at the bench) does. Speeds km/h, engine speeds rpm. */
export type DriverAction =
  | { do: 'idle'; ac?: boolean }
  | { do: 'hold'; rpm: number }
  | { do: 'speed'; kmh: number; rough?: boolean }
  | { do: 'full-load'; rpm: number }
  | { do: 'snap' }
  | { do: 'coast' };

export const IDLE: DriverAction = { do: 'idle' };

/** Problems of an action, each naming its field; none: it can be done. */
export function actionProblems(action: object, field: string): string[] {
  const a = action as Partial<Record<string, unknown>>;
  const within = (key: string, low: number, high: number) => {
    const v = a[key];
    return typeof v === 'number' && v >= low && v <= high ? [] : [`${field}.${key}: ${low} to ${high}`];
  };
  switch (a.do) {
    case 'idle':
      return a.ac === undefined || typeof a.ac === 'boolean' ? [] : [`${field}.ac: true or false`];
    case 'hold':
      return within('rpm', 900, 5000);
    case 'full-load':
      return within('rpm', 2000, 6000);
    case 'speed':
      return [
        ...within('kmh', 10, 160),
        ...(a.rough === undefined || typeof a.rough === 'boolean' ? [] : [`${field}.rough: true or false`]),
      ];
    case 'snap':
    case 'coast':
      return [];
    default:
      return [`${field}.do: idle, hold, speed, full-load, snap or coast`];
  }
}

/** Gear for a road speed: the tallest that keeps the engine above 1,500 rpm. */
export function gearFor(gears: readonly number[], kmh: number): number {
  let best = gears[0]!;
  for (const g of gears) if (kmh / g >= 1.5) best = g;
  return best;
}
