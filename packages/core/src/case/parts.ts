import { idInWords } from '../units/index.ts';

/** A part, or a piece of work, that may have been touched last. Names of the trade; common practice, no source. */
export interface PartRow {
  id: string;
  label: string;
  /** Other names of it, small letters. */
  also: readonly string[];
}

/** Parts as people call them, each with its other names: what a search and recent work go by. */
export const PARTS: readonly PartRow[] = [
  part(
    'maf-sensor',
    'Airflow sensor (MAF)',
    'maf',
    'mass air flow',
    'mass airflow',
    'air flow meter',
    'airflow meter',
    'airflow sensor',
    'air mass meter',
    'hot wire',
  ),
  part(
    'map-sensor',
    'Manifold pressure sensor (MAP)',
    'map',
    'manifold absolute pressure',
    'manifold pressure',
    'boost sensor',
    'boost pressure sensor',
  ),
  part(
    'o2-sensor',
    'Oxygen sensor',
    'o2',
    'oxygen',
    'lambda',
    'lambda sensor',
    'lambda probe',
    'air fuel sensor',
    'af sensor',
    'a/f sensor',
    'wideband',
    'wide-band',
  ),
  part('air-filter', 'Air filter', 'air cleaner', 'air filter element', 'filter element', 'airbox', 'air box'),
  part(
    'intake-duct',
    'Intake duct or hose',
    'duct',
    'air duct',
    'intake boot',
    'intake hose',
    'snorkel',
    'intake pipe',
  ),
  part(
    'intake-gasket',
    'Intake manifold or its gasket',
    'intake manifold',
    'manifold gasket',
    'inlet manifold',
    'intake',
    'inlet gasket',
  ),
  part(
    'throttle-body',
    'Throttle body',
    'throttle',
    'throttle valve',
    'throttle plate',
    'idle air control',
    'iac valve',
    'idle valve',
  ),
  part('vacuum-hose', 'Vacuum hose', 'hose', 'vacuum line', 'vacuum pipe', 'brake booster hose'),
  part(
    'pcv-valve',
    'Crankcase valve (PCV)',
    'pcv',
    'crankcase ventilation',
    'crankcase breather',
    'breather',
    'oil separator',
  ),
  part('valve-cover', 'Valve cover or its gasket', 'rocker cover', 'cam cover', 'valve cover gasket'),
  part(
    'egr-valve',
    'Exhaust gas recirculation valve (EGR)',
    'egr',
    'exhaust gas recirculation',
    'egr cooler',
    'egr gasket',
  ),
  part('purge-valve', 'Purge valve or canister', 'purge', 'canister', 'charcoal canister', 'evap', 'evap valve'),
  part('fuel-cap', 'Fuel cap', 'filler cap', 'gas cap', 'tank cap'),
  part('fuel-pump', 'Fuel pump', 'lift pump', 'high pressure pump', 'in-tank pump'),
  part('fuel-filter', 'Fuel filter', 'diesel filter'),
  part('fuel-regulator', 'Fuel pressure regulator', 'pressure regulator', 'regulator'),
  part('fuel-rail', 'Fuel line or rail', 'fuel line', 'fuel hose', 'fuel'),
  part('injector', 'Injectors', 'injectors', 'fuel injector', 'fuel injectors'),
  part('refuelled', 'Filled up', 'refuel', 'refuelling', 'refueling', 'filled tank', 'fuel fill', 'tank of fuel'),
  part('ignition-plugs', 'Spark plugs', 'spark plug', 'plugs', 'sparkplugs', 'ignition'),
  part(
    'ignition-coil',
    'Ignition coils or leads',
    'coil',
    'coils',
    'coil pack',
    'ignition leads',
    'plug leads',
    'plug wires',
    'distributor',
  ),
  part('timing-belt', 'Timing belt', 'cambelt', 'cam belt', 'belt', 'toothed belt'),
  part('timing-chain', 'Timing chain', 'chain', 'cam chain', 'chain tensioner'),
  part(
    'cam-sensor',
    'Camshaft or crankshaft sensor',
    'camshaft sensor',
    'crankshaft sensor',
    'crank sensor',
    'cam position',
    'crank position',
  ),
  part('cylinder-head', 'Cylinder head or its gasket', 'head gasket', 'cylinder head gasket', 'valves', 'valve job'),
  part('turbo', 'Turbocharger', 'turbocharger', 'supercharger', 'compressor', 'wastegate', 'actuator'),
  part(
    'turbo-pipe',
    'Charge pipe or intercooler',
    'charge pipe',
    'boost hose',
    'boost pipe',
    'intercooler',
    'charge air cooler',
    'turbo hose',
  ),
  part(
    'exhaust',
    'Exhaust pipe, manifold or gasket',
    'exhaust pipe',
    'exhaust manifold',
    'exhaust gasket',
    'muffler',
    'silencer',
    'flexpipe',
    'downpipe',
  ),
  part('catalyst', 'Catalyst', 'cat', 'catalytic converter', 'converter'),
  part('particulate-filter', 'Particulate filter (DPF)', 'dpf', 'gpf', 'particle filter'),
  part('thermostat', 'Thermostat', 'coolant thermostat'),
  part('coolant-sensor', 'Coolant temperature sensor (ECT)', 'ect', 'coolant temperature sensor', 'temperature sensor'),
  part('air-temp-sensor', 'Intake air temperature sensor (IAT)', 'iat', 'air temperature sensor'),
  part('coolant', 'Coolant, radiator or water pump', 'radiator', 'water pump', 'antifreeze'),
  part('battery', 'Battery', 'accumulator', 'jump start', 'jumped', 'battery disconnected'),
  part(
    'alternator',
    'Alternator or its belt',
    'generator',
    'alternator belt',
    'drive belt',
    'serpentine belt',
    'v-belt',
  ),
  part(
    'air-conditioning',
    'Air conditioning',
    'a/c',
    'ac compressor',
    'a/c compressor',
    'compressor of the air conditioning',
  ),
  part('starter', 'Starter', 'starter motor'),
  part(
    'wiring',
    'Wiring, fuse or connector',
    'fuse',
    'connector',
    'harness',
    'plug connector',
    'ground strap',
    'earth strap',
    'wires',
  ),
  part(
    'ecu',
    'Engine control unit or its software',
    'ecm',
    'pcm',
    'engine computer',
    'software',
    'remap',
    'tune',
    'update',
  ),
  part('oil-change', 'Oil change', 'oil', 'oil filter', 'engine oil', 'dipstick', 'oil filler'),
  part('transmission', 'Transmission', 'gearbox', 'clutch'),
  part('secondary-air', 'Secondary air pump or valve', 'air pump', 'secondary air injection'),
  part('brakes', 'Brakes', 'brake', 'brake pads', 'brake servo'),
];

function part(id: string, label: string, ...also: string[]): PartRow {
  return { id, label, also };
}

const BY_ID = new Map(PARTS.map((p) => [p.id, p]));
/** Names as words, the longest first: “exhaust gas recirculation” before “exhaust”. */
const NAMES = PARTS.flatMap((p) => [p.id, p.label, ...p.also].map((name) => ({ name: words(name), id: p.id }))).sort(
  (a, b) => b.name.length - a.name.length,
);

/** Small letters and single spaces around every word, so that a name is found as a word and not as a part of one. */
function words(text: string): string {
  return ` ${text
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, ' ')
    .trim()} `;
}

/** The row that a text means by one of its names; null where none is among its words. Plurals count. */
export function partOf(text: string): PartRow | null {
  const exact = BY_ID.get(text);
  if (exact) return exact;
  const said = words(text);
  const single = said.replaceAll(/(\w{3,})s /g, '$1 ');
  const found = NAMES.find((n) => said.includes(n.name)) ?? NAMES.find((n) => single.includes(n.name));
  return found ? BY_ID.get(found.id)! : null;
}

/** What a part or a piece of work is called; free text that names none stays as it is. */
export function partLabel(part: string): string {
  return BY_ID.get(part)?.label ?? idInWords(part);
}

/** Everything a part may be found by. */
export const partNames = (p: PartRow): string => [p.label, ...p.also].join(' · ');
