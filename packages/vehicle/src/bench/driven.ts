import { ROAD_SCRIPTS } from '../driver/scripts.ts';
import { carOf, play, scenarioOf } from '../scenario/scenario.ts';

/** What a drive leaves behind: a row a second. Times s; engine speed rpm, speed km/h, temperatures °C, fuel level %. */
export interface DrivenLog {
  /** As the car stood before the key; what the script does not say is null. */
  before: { soakHours: number | null; fuelPct: number | null; airC: number | null; altitudeM: number | null };
  time: number[];
  channels: { id: string; unit: string; values: number[] }[];
  /** Monitors that were open before and after. */
  open: { before: string[]; after: string[] };
}

const CHANNELS = [
  ['vss', 'km/h'],
  ['rpm', 'rpm'],
  ['ect', '°C'],
  ['iat', '°C'],
  ['fuelLevel', '%'],
  ['tp', '%'],
] as const;
const STEPS_A_ROW = 50;

/**
 * A road script driven as fast as the machine goes, on a car whose codes have just been cleared. Yields after every row,
 * so that an hour of road need not be driven in one go. Errors: RangeError.
 */
export function* driven(vehicle: string, script: string, seed: number): Generator<void, DrivenLog> {
  const road = ROAD_SCRIPTS.find((s) => s.id === script);
  if (!road) throw new RangeError(`no road script "${script}": ${ROAD_SCRIPTS.map((s) => s.id).join(', ')}`);
  const scenario = scenarioOf(road, vehicle, seed);
  const car = carOf(scenario);
  car.stop(false);
  car.clearCodes();
  const open = () =>
    car.diagnostics
      .status()
      .monitors.filter((m) => m.state === 'incomplete')
      .map((m) => m.id);
  const before = open();
  const time: number[] = [];
  const channels = CHANNELS.map(([id, unit]) => ({ id, unit, values: [] as number[] }));
  let step = 0;
  let from: number | null = null;
  for (const _ of play(scenario, car)) {
    if (step++ % STEPS_A_ROW !== 0) continue;
    from ??= car.timeUs;
    time.push((car.timeUs - from) / 1e6);
    const values = car.values();
    for (const c of channels) c.values.push(Number(Number(values[c.id] ?? 0).toFixed(1)));
    yield;
  }
  const { soakHours = null, fuelLevelPct = null, airC = null, altitudeM = null } = road.before ?? {};
  return {
    before: { soakHours, fuelPct: fuelLevelPct, airC, altitudeM },
    time,
    channels,
    open: { before, after: open() },
  };
}
