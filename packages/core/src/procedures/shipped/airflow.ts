import { figure, said } from '../../units/index.ts';
import { COUNT_OUT, finds, GENERIC, rule, seen, shipped } from './row.ts';

const BROKEN = 'the element is bent, burnt or broken';
const CRACKED = 'the housing is cracked';
const CORRODED = 'the pins are corroded';
const TWICE = 'two cleanings changed nothing';
const BACK_SOON = 'the code came back within tens of kilometres';

const STOPS = [
  rule(
    BROKEN,
    'Replace the sensor.',
    'Cleaning mends no wire. One that reads right today may not tomorrow.',
    finds('maf-inspect', 'damaged'),
  ),
  rule(CRACKED, 'Replace the sensor.', 'Air passes beside the element.', finds('maf-inspect', 'damaged')),
  rule(
    CORRODED,
    'Mend the connector, then replace the sensor.',
    'Resistance at the pins shifts the signal.',
    finds('maf-electrical', 'signal'),
  ),
  rule(TWICE, 'Replace the sensor.', 'What is left is not dirt.'),
  rule(BACK_SOON, 'Replace the sensor.', 'Dirt does not come back that fast.'),
];

const TOOLS = [
  'tamper-proof bit T20 with a hole for the centre pin',
  'pick for a stuck tab',
  'good light',
  'magnifier',
  'tray for the screws',
];

export const AIRFLOW = [
  shipped({
    id: 'airflow-sensor-clean',
    title: 'Clean the airflow sensor',
    kind: 'clean',
    for: { faults: ['maf-dirty', 'maf-under'], parts: ['airflow sensor'], metering: ['maf', 'both'] },
    purpose: 'Takes the film off the hot element without touching it, so that it feels the air again.',
    when: [
      'Measured airflow stands below what speed and pressure make of it, more so as the flow rises.',
      'Leaks, crankcase system, ducts and filter are ruled out; with a turbo its joints and the intercooler too.',
    ],
    first: [
      { what: 'air leaks', tests: ['smoke-intake', 'enrich-survey'] },
      { what: 'the crankcase system', tests: ['pinch-pcv', 'crankcase-vacuum'] },
      { what: 'ducts and filter', tests: ['visual-intake'] },
    ],
    notWhen: [
      'The element is bent, burnt or broken, the housing cracked or the pins corroded: replace it.',
      'It has been cleaned twice and nothing changed.',
      'As the first thing to try: an air leak frames a good sensor.',
    ],
    minutes: 25,
    tools: TOOLS,
    materials: [
      'residue-free cleaner made for airflow sensors',
      'lint-free cloth to lay it on',
      'grease safe for sensors',
    ],
    parts: [{ name: 'seal ring of the airflow sensor', oneTime: false }],
    cautions: ['hot-parts', 'electrical', 'solvents-fuel'],
    steps: [
      {
        id: 'cold',
        kind: 'look',
        text: 'Engine off, key out, intake cool to the hand?',
        why: 'Cleaner on a hot part burns.',
        caution: 'hot-parts',
        answers: [{ text: 'cool', goTo: 'sits' }, { text: 'still warm' }],
      },
      { id: 'cool-down', kind: 'timer', text: 'Let it cool.', seconds: 1200 },
      {
        id: 'sits',
        kind: 'photo',
        text: 'Take a picture of how the sensor sits and which way its arrow points.',
        why: 'Turned round it reads wrong, and nobody remembers.',
      },
      {
        id: 'unplug',
        kind: 'take-off',
        text: 'Ignition off. Release the tab, with the pick if it is stuck, and pull the plug straight, never by its wires.',
        caution: 'electrical',
        item: 'plug of the airflow sensor',
      },
      {
        id: 'pins',
        kind: 'look',
        text: 'Look into the plug and at the pins of the sensor.',
        answers: [{ text: 'bright and straight' }, { text: 'green, black or burnt', stopRule: CORRODED }],
      },
      {
        id: 'out',
        kind: 'take-off',
        text: 'Undo its two small screws, one of them often hidden, and ease the sensor out against its seal. No fitting bit: take the whole housing off.',
        why: 'A slipped bit ends the screw and the housing.',
        item: 'airflow sensor',
        count: 2,
        detail: 'two small screws, in the tray',
      },
      {
        id: 'lay',
        kind: 'do',
        text: 'Lay it on the clean cloth, element up. Close the hole in the duct with a clean cloth.',
      },
      {
        id: 'flow-side',
        kind: 'photo',
        text: 'Magnified picture of the side that faces the flow.',
      },
      { id: 'lee-side', kind: 'photo', text: 'Magnified picture of the other side.' },
      {
        id: 'look',
        kind: 'look',
        text: 'What do the element and the housing look like, under the magnifier, from both sides?',
        answers: [
          seen('whole, with a film or fluff on it', 'maf-inspect', 'dirty'),
          seen('whole, with oil on it', 'maf-inspect', 'oily'),
          seen('whole and bright', 'maf-inspect', 'clean', { goTo: 'ring', nothing: true }),
          { text: 'bent, burnt or broken', stopRule: BROKEN },
          { text: 'housing cracked', stopRule: CRACKED },
        ],
      },
      {
        id: 'before',
        kind: 'decide',
        text: 'Has this sensor been cleaned before?',
        answers: [
          { text: 'no, or once' },
          { text: 'twice, and nothing changed', stopRule: TWICE },
          { text: 'yes, and the code came back within tens of kilometres', stopRule: BACK_SOON },
        ],
      },
      {
        id: 'spray',
        kind: 'do',
        text: said`Ten to fifteen short bursts from ${figure([10, 12], 'cm', 0, { between: ' to ' })}, from several sides. The straw touches nothing; nothing is wiped.`,
        why: 'The element is thinner than a hair. Off the car only: cleaner sprayed at a fitted sensor carries the dirt into it.',
        caution: 'solvents-fuel',
      },
      { id: 'drain', kind: 'timer', text: 'Let the cleaner run off.', seconds: 120 },
      {
        id: 'second',
        kind: 'look',
        text: 'Is the film gone?',
        answers: [{ text: 'gone' }, { text: 'some is left: another round', goTo: 'spray' }],
      },
      {
        id: 'dry',
        kind: 'timer',
        text: 'Let it dry in the air, 20 to 30 minutes. No compressed air, no heat gun, no hair dryer.',
        why: 'A wet element reads wrong for minutes, and air or heat breaks it.',
        seconds: 1500,
        spoken: 'Let the sensor dry in the air.',
      },
      {
        id: 'source',
        kind: 'decide',
        text: 'Where did the dirt come from? Look at filter, airbox, crankcase hose and duct now that they are open.',
        why: 'A cleaned part without its source found will be back.',
        answers: [
          { text: 'air passes beside the filter', source: 'filter-bypass' },
          { text: 'filter loaded', source: 'filter-loaded' },
          { text: 'filter over-oiled', source: 'filter-oiled' },
          { text: 'oil from the crankcase hose', source: 'crankcase-oil' },
          { text: 'age and road dust', source: 'age' },
          { text: 'not found', source: 'not-found' },
        ],
      },
      {
        id: 'filter',
        kind: 'do',
        text: 'Filter: knock it out if light, replace it if loaded or oily. Airbox sealed all round.',
      },
      {
        id: 'ring',
        kind: 'do',
        text: 'Look at the seal ring; a little sensor-safe grease wiped on by finger, never sprayed near the intake.',
      },
      {
        id: 'in',
        kind: 'refit',
        text: 'Push the sensor home with its arrow towards the throttle, as in the picture. Both screws by hand first, then in turns.',
        item: 'airflow sensor',
        count: 2,
      },
      { id: 'tight', kind: 'torque', text: `Small screws into plastic. ${GENERIC}`, torqueNm: 1.5 },
      {
        id: 'plug',
        kind: 'refit',
        text: 'Ignition off. Plug it in until it clicks.',
        caution: 'electrical',
        item: 'plug of the airflow sensor',
      },
      { id: 'ducts', kind: 'do', text: 'Ducts and clamps home and tight.' },
      COUNT_OUT,
    ],
    stopRules: STOPS,
    afterwards: 'reset-or-relearn',
    prove: ['idle', 'hold-2500', 'snap'],
  }),
  shipped({
    id: 'airflow-sensor-replace',
    title: 'Replace the airflow sensor',
    kind: 'replace',
    for: {
      faults: ['maf-damaged', 'maf-under', 'maf-over', 'maf-dirty', 'maf-circuit', 'maf-installation'],
      parts: ['airflow sensor'],
      metering: ['maf', 'both'],
    },
    purpose: 'A new sensor of the right number, the right way round, the old one kept until the repair is proven.',
    when: [
      'A stop rule of the cleaning applies, or the signal is dead with supply, ground and wires good.',
      said`Distance beyond about ${figure(160_000, 'km')} tips the balance.`,
    ],
    notWhen: ['Supply, ground and fuse have not been measured: a new sensor on a blown fuse reads nothing either.'],
    first: [{ what: 'its supply, ground and fuse', tests: ['maf-electrical', 'fuse-check'] }],
    minutes: 20,
    tools: TOOLS,
    materials: ['grease safe for sensors'],
    parts: [{ name: 'airflow sensor, by part number' }, { name: 'seal ring of the airflow sensor', oneTime: true }],
    cautions: ['hot-parts', 'electrical'],
    steps: [
      {
        id: 'number',
        kind: 'look',
        text: 'Compare the numbers of old and new part. Has another part superseded it?',
        why: 'A housing of another bore reads wrong at every flow. A copy is a known false economy.',
        answers: [
          { text: 'same number, or its successor' },
          { text: 'another housing or number', stopRule: 'the part is not the right one' },
        ],
      },
      {
        id: 'sits',
        kind: 'photo',
        text: 'Take a picture of how the old one sits and of its arrow.',
        caution: 'hot-parts',
      },
      {
        id: 'unplug',
        kind: 'take-off',
        text: 'Ignition off. Release the tab and pull the plug straight.',
        caution: 'electrical',
        item: 'plug of the airflow sensor',
      },
      {
        id: 'out',
        kind: 'take-off',
        text: 'Undo its screws and ease the old sensor out.',
        item: 'airflow sensor',
        count: 2,
        detail: 'two small screws, in the tray',
      },
      {
        id: 'keep',
        kind: 'do',
        text: 'Bag the old sensor with the job’s name: it is kept until the repair is proven.',
      },
      {
        id: 'in',
        kind: 'refit',
        text: 'New ring, a trace of sensor-safe grease, new sensor home with its arrow towards the throttle. Screws by hand first, then in turns.',
        item: 'airflow sensor',
        count: 2,
      },
      { id: 'tight', kind: 'torque', text: `Small screws into plastic. ${GENERIC}`, torqueNm: 1.5 },
      {
        id: 'plug',
        kind: 'refit',
        text: 'Ignition off. Plug it in until it clicks.',
        caution: 'electrical',
        item: 'plug of the airflow sensor',
      },
      COUNT_OUT,
    ],
    stopRules: [
      rule(
        'the part is not the right one',
        'Send it back; refit the old one meanwhile.',
        'The wrong bore is a fault of its own.',
      ),
    ],
    afterwards: 'reset-or-relearn',
    prove: ['idle', 'hold-2500', 'snap'],
  }),
];
