/** What invented customers say, and what was done: our own. */
const said = (story, ...symptoms) => ({ story, symptoms });

export const COLOURS = [
  'red hatch',
  'white saloon',
  'black estate',
  'green coupe',
  'yellow van',
  'brown pick-up',
  'orange hatch',
  'navy saloon',
  'beige estate',
  'teal hatch',
];
export const FIRST_LETTERS = ['B', 'D', 'F', 'H', 'K', 'L', 'N', 'R', 'T', 'W'];

const LEAK = [
  said('It rocks at the crossing, then drives as if nothing were wrong.', 'rough-idle'),
  said('Idle climbs and sinks by itself, mostly once it is warm.', 'high-idle', 'surge'),
  said('A hiss from the left when it idles. Passes on the road.', 'rough-idle', 'noise'),
  said('Went out twice at the level crossing.', 'stall', 'rough-idle'),
];
const AIR = [
  said('It thinks about it before it goes.', 'hesitation'),
  said('Thirstier since summer and no joy uphill.', 'high-consumption', 'low-power'),
  said('Jerks when I pull out, then catches itself.', 'hesitation'),
];
const FUEL = [
  said('Loaded and uphill it gives up.', 'low-power'),
  said('Cranks long when hot, runs out of breath on the bypass.', 'hard-start-hot', 'low-power'),
  said('Surges on the long straight, better in town.', 'surge'),
];
const RICH = [
  said('The garage smells of petrol in the morning.', 'fuel-smell', 'high-consumption'),
  said('Soot on the bumper, and the needle falls while I watch.', 'smoke', 'high-consumption'),
];
const LAMP = [
  said('The lamp. Nothing else that I would notice.', 'lamp-only'),
  said('Turned away at the inspection.', 'failed-inspection'),
];

export const COMPLAINTS = {
  balanced: [said('Bought it last week, please look it over.', 'none'), ...LAMP],
  'vac-leak': LEAK,
  'vac-leak-bank1': LEAK,
  'vac-leak-bank2': LEAK,
  'crankcase-leak': LEAK,
  'egr-gasket-leak': LEAK,
  'duct-leak': [...AIR, said('Since somebody changed the filter it stumbles.', 'hesitation')],
  'maf-dirty': AIR,
  'maf-under': [...AIR, ...LAMP],
  'fuel-low': FUEL,
  'injector-restricted': [...FUEL, ...LAMP],
  'fuel-high': RICH,
  'purge-open': [
    said('Dies right after I fill up, then shakes for a while.', 'stall-after-start', 'rough-idle'),
    ...RICH,
  ],
  'throttle-fouled': [
    said('Drops and nearly dies when I lift for the lights.', 'stall'),
    said('Idle sinks when the fan starts.', 'rough-idle', 'stall'),
  ],
  'exhaust-leak': [said('Ticks when cold, then the lamp.', 'noise', 'lamp-only')],
  'o2-slow': LAMP,
};

/** By fault: the procedure that is followed, what is written down, the part, what cleaning it was, where dirt came from. */
export const REPAIRS = {
  'vac-leak': { procedure: 'vacuum-hoses-and-gaskets', text: 'Vacuum hose renewed', part: 'vacuum hose' },
  'vac-leak-bank1': {
    procedure: 'vacuum-hoses-and-gaskets',
    text: 'Intake gasket of bank 1 renewed',
    part: 'intake gasket',
  },
  'vac-leak-bank2': {
    procedure: 'vacuum-hoses-and-gaskets',
    text: 'Intake gasket of bank 2 renewed',
    part: 'intake gasket',
  },
  'crankcase-leak': {
    procedure: 'crankcase-valve-and-hose',
    text: 'Crankcase valve and hose renewed',
    part: 'crankcase valve',
  },
  'egr-gasket-leak': { procedure: 'egr-valve-and-joint', text: 'Joint of the EGR valve sealed', part: 'EGR gasket' },
  'duct-leak': { procedure: 'ducts-and-filter', text: 'Split duct renewed, lid seated', part: 'intake duct' },
  'maf-dirty': {
    procedure: 'airflow-sensor-clean',
    text: 'Airflow sensor cleaned',
    part: null,
    cleaned: 'airflow-sensor',
    source: 'filter-bypass',
  },
  'maf-under': { procedure: 'airflow-sensor-replace', text: 'Airflow sensor renewed', part: 'airflow sensor' },
  'fuel-low': { procedure: 'fuel-pressure-and-volume', text: 'Fuel pump and filter renewed', part: 'fuel pump' },
  'fuel-high': {
    procedure: 'fuel-pressure-and-volume',
    text: 'Pressure regulator renewed',
    part: 'pressure regulator',
  },
  'injector-restricted': {
    procedure: 'fuel-pressure-and-volume',
    text: 'Injectors cleaned on the bench',
    part: 'injector seals',
  },
  'purge-open': { procedure: 'purge-valve', text: 'Purge valve renewed', part: 'purge valve' },
  'throttle-fouled': {
    procedure: 'throttle-body-clean',
    text: 'Throttle body cleaned and taught',
    part: 'throttle gasket',
    cleaned: 'throttle-body',
    source: 'crankcase-oil',
  },
  'exhaust-leak': { procedure: 'oxygen-sensor-replace', text: 'Manifold gasket renewed', part: 'manifold gasket' },
  'o2-slow': { procedure: 'oxygen-sensor-replace', text: 'Oxygen sensor renewed', part: 'oxygen sensor' },
};
