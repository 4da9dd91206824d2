/** Where dirt on a sensor or plate comes from, what finds it, and what is left of a cleaning's chance while it stays. */
export interface DirtSource {
  id: string;
  label: string;
  /** The check that finds it. */
  check: string;
  /** What mends it; shown at the hand-over while it is not done. */
  mend: string;
  /** Share of the chance of holding that is left while the source is not repaired. [house] */
  left: number;
  source: string;
}

const COMMON = 'common practice, no source';

/** Where dirt on a sensor or plate comes from, and what ends it. Common practice, no source. */
export const DIRT_SOURCES: readonly DirtSource[] = [
  {
    id: 'filter-bypass',
    label: 'Air passes beside the filter',
    check: 'Airbox open: dust on the clean side, seal not lying all round.',
    mend: 'Seat the filter and the lid, new seal where it is flat.',
    left: 0.4,
    source: COMMON,
  },
  {
    id: 'filter-loaded',
    label: 'Filter loaded',
    check: 'Hold it against the light: none comes through.',
    mend: 'New filter.',
    left: 0.6,
    source: COMMON,
  },
  {
    id: 'filter-oiled',
    label: 'Over-oiled filter',
    check: 'Wipe the clean side of the duct: oil film, coloured.',
    mend: 'Dry paper filter, duct wiped out.',
    left: 0.3,
    source: COMMON,
  },
  {
    id: 'crankcase-oil',
    label: 'Oil from the crankcase',
    check:
      'Crankcase hose off: wet with oil; crankcase vacuum wrong. It reaches the throttle, seldom a sensor beside the filter.',
    mend: 'Crankcase valve and hose.',
    left: 0.4,
    source: COMMON,
  },
  {
    id: 'egr-soot',
    label: 'Soot from exhaust recirculation',
    check: 'Ports black and dry; valve seat does not close.',
    mend: 'EGR valve and joint.',
    left: 0.5,
    source: COMMON,
  },
  {
    id: 'injector-leak',
    label: 'Leaking injector or rich running',
    check: 'Residual pressure falls, trims rich at idle, plug of one cylinder black.',
    mend: 'Injector, or what makes it rich.',
    left: 0.3,
    source: COMMON,
  },
  {
    id: 'silicone-coolant',
    label: 'Silicone or coolant',
    check: 'White or glassy film; coolant level falls; sealant used lately.',
    mend: 'Close the leak, sensor-safe sealant only. The sensor itself is replaced.',
    left: 0.1,
    source: COMMON,
  },
  {
    id: 'oil-burnt',
    label: 'Burnt oil',
    check: 'Oil level falls; blue smoke on the overrun or after a long idle.',
    mend: 'Find where the oil gets in: crankcase valve, turbocharger, valve stems, rings.',
    left: 0.4,
    source: COMMON,
  },
  {
    id: 'short-trips',
    label: 'Short trips',
    check: 'Driven a few minutes at a time; coolant seldom hot.',
    mend: 'A longer drive at a steady road load now and then.',
    left: 0.7,
    source: COMMON,
  },
  {
    id: 'age',
    label: 'Age and distance',
    check: 'Everything else looked at and in order.',
    mend: 'Nothing: the next cleaning is due by distance.',
    left: 1,
    source: COMMON,
  },
  {
    id: 'not-found',
    label: 'Looked for, not found',
    check: 'All of the checks above done.',
    mend: 'Look again when the readings slip.',
    left: 0.6,
    source: COMMON,
  },
];

/** The source of this id; undefined where there is none. */
export function dirtSource(id: string): DirtSource | undefined {
  return DIRT_SOURCES.find((s) => s.id === id);
}
