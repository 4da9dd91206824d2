/** Road scripts driven as fast as the machine goes, on the built package: jobs as JSON in, what stands afterwards out. */
import { answer, BROKEN, Car, carById, carOf, OBEYING, play, scenarioOf } from '../dist/index.js';

const CHANNELS = ['rpm', 'vss', 'ect', 'iat', 'fuelLevel', 'tp', 'baro', 'ambient'];
const hex = (bytes) => (bytes ? Buffer.from(bytes).toString('hex') : null);

function drive({ script, vehicle, faults = [], rough = false, times = 1, permanent = [], errand = false }) {
  const found = [...OBEYING, ...BROKEN].find((s) => s.id === script);
  const steps = found.steps.map((s) =>
    rough && s.action.do === 'speed' ? { ...s, action: { ...s.action, rough } } : s,
  );
  const scenario = scenarioOf({ ...found, steps }, vehicle, 5);
  const car = carOf(scenario);
  car.stop(false);
  car.clearCodes();
  car.inject(...faults);
  for (const code of permanent) car.diagnostics.permanent.add(code);
  if (errand) car.do({ do: 'speed', kmh: 50 }, 60);
  const rows = Object.fromEntries(CHANNELS.map((id) => [id, []]));
  const time = [];
  const opens = [];
  const open = () =>
    car.diagnostics
      .status()
      .monitors.filter((m) => m.state === 'incomplete')
      .map((m) => m.id);
  for (let n = 0; n < (errand ? 0 : times); n++) {
    let k = 0;
    let from = null;
    for (const _ of play(scenario, car)) {
      if (n > 0 || k++ % 50 !== 0) continue;
      from ??= car.timeUs;
      time.push((car.timeUs - from) / 1e6);
      const values = car.values();
      for (const id of CHANNELS) rows[id].push(Number(values[id].toFixed(3)));
    }
    opens.push(open());
  }
  const tests = Object.fromEntries([0x21, 0x39, 0x3c].map((m) => [m, hex(answer(car, Uint8Array.of(6, m), true))]));
  const groups = [0, 0x20].map((m) => hex(answer(car, Uint8Array.of(6, m), true)));
  const { pending, permanent: left } = car.diagnostics;
  return { time, rows, opens, pending: [...pending], permanent: [...left], tests, groups };
}

let text = '';
for await (const chunk of process.stdin) text += chunk;
const jobs = JSON.parse(text);
const fresh = hex(answer(new Car(carById('quillon-18')), Uint8Array.of(6, 0x21), true));
process.stdout.write(JSON.stringify({ fresh, drives: jobs.map(drive) }));
