/** A cause as it is told to somebody who drives the car and has never seen the engine. */
export interface CustomerWords {
  /** What was wrong: one sentence in the past. */
  wrong: string;
  /** What to look out for afterwards; null where nothing of its own. */
  watch: string | null;
  source: string;
}

const OURS = 'own wording [house]; the matter is common practice, no source';

const LEAK_WATCH = 'A shake at idle or a whistle under the bonnet that comes back.';
const METER_WATCH = 'Hesitation when you pull away, or an engine that uses more fuel than it did.';
const FUEL_WATCH = 'Weak pulling on hills or at speed, and long cranking when the engine is hot.';
const SENSOR_WATCH = 'The engine lamp, and a fuel bill that grows.';
const PRESSURE_WATCH = 'An idle that hunts up and down.';

const said = (wrong: string, watch: string | null): CustomerWords => ({ wrong, watch, source: OURS });

/** By fault of the catalogue; a test holds it against all of them. */
export const CUSTOMER_WORDS: Readonly<Record<string, CustomerWords>> = {
  balanced: said('The engine mixes its air and fuel as it should.', null),
  'vac-leak': said('Air was getting into the engine past the sensor that measures it.', LEAK_WATCH),
  'vac-leak-bank1': said('Air was getting into one side of the engine past the sensor that measures it.', LEAK_WATCH),
  'vac-leak-bank2': said('Air was getting into one side of the engine past the sensor that measures it.', LEAK_WATCH),
  'crankcase-leak': said('A hose or seal of the crankcase ventilation was letting air into the engine.', LEAK_WATCH),
  'pcv-stuck-open': said(
    'The valve of the crankcase ventilation stayed open and let too much air through.',
    LEAK_WATCH,
  ),
  'egr-gasket-leak': said('The joint of the exhaust recirculation was letting air into the engine.', LEAK_WATCH),
  'egr-stuck-open': said(
    'The valve that feeds a little exhaust back into the engine stayed open when it should have been shut.',
    'A rough idle, and stalling when you come to a stop.',
  ),
  'duct-leak': said('The air duct was letting air in after the sensor that measures it.', LEAK_WATCH),
  'boost-leak': said(
    'Compressed air was escaping between the turbocharger and the engine.',
    'A hiss when you accelerate, less power, or dark smoke.',
  ),
  'turbo-underboost': said(
    'The turbocharger was not giving the pressure that the engine asks for.',
    'Less power than before, and the engine lamp.',
  ),
  'maf-dirty': said('Dirt on the sensor that measures the air made it report the wrong amount.', METER_WATCH),
  'maf-under': said('The sensor that measures the air reported less than there was.', METER_WATCH),
  'maf-over': said('The sensor that measures the air reported more than there was.', METER_WATCH),
  'maf-damaged': said('The sensor that measures the air was damaged.', METER_WATCH),
  'maf-installation': said('The sensor that measures the air was not fitted as it should be.', METER_WATCH),
  'maf-circuit': said('The wiring of the sensor that measures the air was at fault.', METER_WATCH),
  'air-filter': said(
    'The air filter was letting too little air through.',
    'The distance at which the next filter is due.',
  ),
  'exhaust-restricted': said(
    'The exhaust was partly blocked.',
    'Power that fades the longer you drive, and heat or smell from under the car: stop and have it looked at.',
  ),
  'map-bias': said('The sensor for the pressure in the intake reported the wrong pressure.', PRESSURE_WATCH),
  'map-circuit': said('The wiring of the intake pressure sensor was at fault.', PRESSURE_WATCH),
  'map-port-blocked': said('The small passage to the intake pressure sensor was blocked.', PRESSURE_WATCH),
  'map-hose-split': said('The hose of the intake pressure sensor was split.', PRESSURE_WATCH),
  'fuel-low': said('Too little fuel was reaching the engine.', FUEL_WATCH),
  'fuel-high': said('The fuel pressure was too high.', 'A smell of fuel, or dark smoke.'),
  'regulator-diaphragm': said(
    'The fuel pressure regulator was leaking fuel inside.',
    'A smell of fuel: do not drive on with it, call us.',
  ),
  'injector-restricted': said('One or more fuel injectors were letting too little fuel through.', FUEL_WATCH),
  'injector-leaking': said(
    'A fuel injector was dripping fuel when it should have been shut.',
    'Long cranking after a short stop, and a smell of fuel.',
  ),
  'purge-open': said(
    'The valve that burns off fuel vapour from the tank stayed open.',
    'A rough idle or stalling just after filling up.',
  ),
  'evap-leak': said(
    'The system that keeps fuel vapour in the tank was leaking.',
    'The engine lamp, and whether the filler cap clicks when you close it.',
  ),
  'fuel-in-oil': said('There was fuel in the engine oil.', 'The oil level: if it rises, come back soon.'),
  'ethanol-high': said(
    'The fuel in the tank held more alcohol than this engine is made for.',
    'Which fuel you fill up with: the label on the pump names its alcohol.',
  ),
  'o2-biased-lean': said('The oxygen sensor in the exhaust reported wrongly.', SENSOR_WATCH),
  'o2-biased-rich': said('The oxygen sensor in the exhaust reported wrongly.', SENSOR_WATCH),
  'o2-slow': said('The oxygen sensor in the exhaust had become slow.', SENSOR_WATCH),
  'o2-circuit': said('The wiring of the oxygen sensor was at fault.', SENSOR_WATCH),
  'o2-crossed': said('The plugs of two oxygen sensors in the exhaust had been swapped.', SENSOR_WATCH),
  'o2-heater': said('The heater inside the oxygen sensor had failed.', SENSOR_WATCH),
  'exhaust-leak': said(
    'The exhaust was leaking ahead of its sensor.',
    'A ticking noise when the engine is cold, or a smell of exhaust inside the car: open the windows and come back.',
  ),
  'misfire-ignition': said(
    'A cylinder was not firing every time.',
    'A lamp that blinks: drive gently and come back the same day; it harms the catalyst.',
  ),
  'compression-timing': said(
    'A cylinder, or the timing of the valves, was not mechanically sound.',
    'Noise, loss of power or a lamp: stop and call us.',
  ),
  'ect-bias': said(
    'The engine temperature sensor reported wrongly.',
    'Hard starting, and what the temperature gauge shows.',
  ),
  'iat-bias': said('The sensor for the temperature of the air reported wrongly.', 'Hard starting in the cold.'),
  'thermostat-open': said(
    'The thermostat stayed open, so the engine never became warm.',
    'A heater that stays cool on the road.',
  ),
  'throttle-fouled': said(
    'Deposits in the throttle were holding back the air at idle.',
    'An idle that sinks or stalls.',
  ),
  'low-voltage': said(
    'The electrical supply of the engine was too weak.',
    'Dim lights or slow cranking: do not wait for a warm day.',
  ),
  'secondary-air': said(
    'The pump that blows fresh air into the exhaust did not switch off.',
    'A whirring noise that does not stop after a cold start.',
  ),
  'cat-degraded': said(
    'The catalyst in the exhaust no longer cleaned as it should.',
    'The engine lamp; what wore it out has to be mended too, or the next one goes the same way.',
  ),
};
