/** Air and fuel of one engine at one operating point, with a fault in it. Units: g/s, kPa, K, rpm. */

const AIR_R = 287.05;
const KELVIN = 273.15;

/** Flow through a hole as a share of the choked flow (de Saint-Venant and Wantzel 1839, γ = 1.4). */
function opening(ratio) {
  const critical = 0.528;
  if (ratio >= 1) return 0;
  if (ratio <= critical) return 1;
  const f = (x) => Math.sqrt(x ** (2 / 1.4) - x ** (2.4 / 1.4));
  return f(ratio) / f(critical);
}

/** Flow in at a manifold pressure; out of it where the manifold stands above the air outside. */
export function through(chokedGps, mapKPa, baroKPa) {
  return mapKPa > baroKPa
    ? -chokedGps * (mapKPa / baroKPa) * opening(baroKPa / mapKPa)
    : chokedGps * opening(mapKPa / baroKPa);
}

/** The operating points of one engine: what it needs at each with nothing wrong. */
export function pointsOf(r, v) {
  const baroKPa = r.between(80, 102.5);
  const airC = r.between(-6, 37);
  if (v.fuel === 'diesel') return breathing(r, v, baroKPa, airC);
  const need = v.displacementL * r.between(1.1, 1.95);
  const under = airC + r.between(6, 26);
  const idle = { rpm: r.between(630, 790), flow: need, chargeC: under };
  const hold = { rpm: r.between(2430, 2570), flow: need * r.between(2.3, 3.7), chargeC: under - r.between(0, 6) };
  const road = {
    rpm: r.between(1700, 2600),
    flow: v.displacementL * r.between(5.2, 9.5),
    chargeC: airC + r.between(3, 14),
  };
  return { baroKPa, airC, idle, 'hold-2500': hold, 'road-load': road };
}

/**
 * A diesel has no throttle to speak of: it breathes what its swept volume takes at the pressure there is, and exhaust that
 * is let back in stands in the place of air.
 */
function breathing(r, v, baroKPa, airC) {
  const ve = r.between(0.78, 0.93);
  const at = (rpm, boostKPa, chargeC, recirculated) => {
    const flow = ((ve * v.displacementL * rpm) / 120) * (((baroKPa + boostKPa) * 1000) / (AIR_R * (chargeC + KELVIN)));
    return { rpm, flow, chargeC, boostKPa, recirculated };
  };
  const under = airC + r.between(8, 28);
  return {
    baroKPa,
    airC,
    idle: at(r.between(730, 860), r.between(0, 3), under, r.between(0.2, 0.5)),
    'hold-2500': at(r.between(2430, 2570), r.between(4, 22), under + r.between(0, 8), r.between(0.15, 0.4)),
    'road-load': at(r.between(1600, 2300), r.between(12, 45), airC + r.between(8, 25), r.between(0.05, 0.3)),
  };
}

/** Manifold pressure that lets `flow` into the cylinders. */
function pressureFor(flow, ve, v, at) {
  return (flow * AIR_R * (at.chargeC + KELVIN) * 120) / (ve * v.displacementL * at.rpm) / 1000;
}

/**
 * What the fault of `truth` makes of a point: flows, pressure, the error that the trim of each bank must take away, in
 * parts. `does` is the fault's own function, given the point in numbers and filled in.
 */
export function stateAt(truth, name) {
  const { v, points } = truth;
  const at = points[name];
  const { baroKPa } = points;
  const diesel = v.fuel === 'diesel';
  const ve = truth.ve * (name === 'idle' ? 0.72 : name === 'hold-2500' ? 0.78 : 0.85);
  const x = at.flow / points.idle.flow;
  const s = {
    name,
    x,
    // With recirculation open, as it is unless somebody shuts it.
    flow: at.flow * (diesel && !truth.shuts ? 1 - at.recirculated : 1),
    baroKPa,
    rpm: at.rpm,
    chargeC: at.chargeC,
    metered: v.metering !== 'speed-density',
    banks: v.banks,
    road: at.flow / points['road-load'].flow,
    mapKPa: diesel ? baroKPa + at.boostKPa : Math.min(pressureFor(at.flow, ve, v, at), baroKPa * 0.96),
    /** Filled in by the fault: air past the meter, and on which bank; signal over flow; pressure over right; fuel beside the injectors, g/s. */
    past: 0,
    pastBank: [0, 0],
    signal: 1,
    rail: 1,
    injector: [1, 1],
    beside: [0, 0],
    stoich: 1,
    /** What the sensor of a bank sees too lean (+), parts; breathing of a bank against right; pressure and temperature as shown. */
    seen: [0, 0],
    breath: [1, 1],
    mapShown: null,
    chargeShownC: at.chargeC,
    gasKPa: 0,
    idlesFaster: 0,
  };
  truth.does?.(s, truth.size, truth);
  // A leak that the idle control cannot take back lifts speed and pressure.
  const taken = s.past / s.flow;
  if (name === 'idle' && taken > truth.takesBack) {
    s.rpm *= 1 + 0.9 * (taken - truth.takesBack);
    s.flow *= 1 + 0.6 * (taken - truth.takesBack);
  }
  s.rpm *= 1 + s.idlesFaster * (name === 'idle' ? 1 : 0);
  // What hinders the breath of a diesel is seen in its airflow at once.
  if (diesel) s.flow *= s.breath[0];
  else s.mapKPa = Math.min(s.mapKPa * (s.flow / at.flow) * (at.rpm / s.rpm) ** 0.5 + s.gasKPa, baroKPa * 0.98);
  s.mapShown ??= s.mapKPa;
  const believed = s.metered
    ? (s.flow - s.past) * s.signal
    : s.flow *
      (s.mapShown / s.mapKPa) *
      ((s.chargeC + KELVIN) / (s.chargeShownC + KELVIN)) *
      (s.mapKPa / (s.mapKPa - s.gasKPa));
  const share = 1 / s.banks;
  const trims = [0, 1].slice(0, s.banks).map((b) => {
    // Two banks behind one meter share what it counts; on speed-density each is thought to breathe as it should.
    const breath = !s.metered ? s.breath[b] : s.banks === 2 ? (2 * s.breath[b]) / (s.breath[0] + s.breath[1]) : 1;
    const air = s.flow * share * breath + s.pastBank[b];
    const given = believed * share * s.injector[b] * Math.sqrt(s.rail);
    const wanted = air * s.stoich * (1 + s.seen[b]) - s.beside[b] * 14.3;
    return 100 * (wanted / given - 1);
  });
  return { ...s, believed, trims };
}
