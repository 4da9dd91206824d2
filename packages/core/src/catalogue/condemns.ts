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

/**
 * Defects that somebody has seen: acted on first, whatever the trims make of them. A weep at the throttle shaft and a film
 * on an element are none: they are seen on cars that run well. Common practice, no source.
 */
const SEEN: Readonly<Record<string, Readonly<Record<string, readonly string[]>>>> = {
  'visual-intake': {
    'duct-loose': ['duct-leak', 'boost-leak'],
    'duct-split': ['duct-leak', 'boost-leak'],
    'hose-split': ['vac-leak', 'crankcase-leak', 'map-hose-split'],
    'airbox-unsealed': ['duct-leak', 'maf-installation'],
    'filter-loaded': ['air-filter'],
    'crankcase-valve-torn': ['pcv-stuck-open'],
    'egr-joint-blown': ['egr-gasket-leak'],
  },
  'smoke-intake': {
    duct: ['duct-leak'],
    airbox: ['duct-leak', 'maf-installation'],
    'gasket-bank1': ['vac-leak-bank1', 'vac-leak'],
    'gasket-bank2': ['vac-leak-bank2', 'vac-leak'],
    pcv: ['crankcase-leak'],
    egr: ['egr-gasket-leak'],
    'brake-booster': ['vac-leak'],
    'charge-pipe': ['boost-leak'],
    purge: ['purge-open'],
    other: ['vac-leak'],
  },
  'map-port-probe': { blocked: ['map-port-blocked'], 'hose-split': ['map-hose-split'] },
  'exhaust-leak-check': { bank1: ['exhaust-leak'], bank2: ['exhaust-leak'] },
};

/** Faults that these results have shown to the eye, by test and outcome. */
export function faultsSeen(tests: readonly { id: string; outcome?: string | string[] }[]): string[] {
  return tests.flatMap((t) => [t.outcome ?? []].flat().flatMap((o) => SEEN[t.id]?.[o] ?? []));
}
