/** Outcomes that condemn a part whatever the mixture says. Common practice, no source. */
export const CONDEMNS: readonly { test: string; outcome: string; fault: string }[] = [
  { test: 'maf-inspect', outcome: 'damaged', fault: 'maf-damaged' },
  { test: 'o2-force', outcome: 'dead', fault: 'o2-circuit' },
  { test: 'o2-heater-ohms', outcome: 'open', fault: 'o2-heater' },
  { test: 'o2-heater-ohms', outcome: 'short', fault: 'o2-heater' },
  { test: 'borescope-cat', outcome: 'broken', fault: 'cat-degraded' },
  { test: 'borescope-cat', outcome: 'melted', fault: 'cat-degraded' },
  { test: 'map-vacuum-pump', outcome: 'dead', fault: 'map-circuit' },
];
