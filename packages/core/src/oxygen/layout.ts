/** Which oxygen sensor sits where: what a code or a step means, and what there is to draw. */
export interface FittedSensor {
  bank: number;
  sensor: number;
  wide: boolean;
}

/** Which oxygen sensors there are, by bank and place, and which are wide-band. */
export interface SensorLayout {
  banks: { bank: 1 | 2; cylinders: number; sensors: FittedSensor[] }[];
  /** A sensor after the one catalyst of both banks. */
  shared: FittedSensor | null;
  /** Where it is known from. */
  source: string;
}

/**
 * The layouts there are (common practice, no source): one bank with two sensors and one catalyst; a V with three sensors
 * and one catalyst; a V with four and two. `fitted`: PID 13 or 1D of the vehicle; null where it was not read.
 */
export function sensorLayout(engine: {
  banks: number;
  cylinders: number;
  fitted: readonly FittedSensor[] | null;
  /** Typed on its card, not asked of the vehicle. */
  typed?: boolean;
}): SensorLayout {
  const banks = engine.banks === 2 ? ([1, 2] as const) : ([1] as const);
  const told = engine.fitted && engine.fitted.length > 0;
  const fitted = told
    ? engine.fitted!
    : banks.flatMap((bank) => [1, 2].map((sensor) => ({ bank, sensor, wide: false })));
  const downstream = fitted.filter((s) => s.sensor >= 2);
  const shared = banks.length === 2 && downstream.length === 1 ? downstream[0]! : null;
  return {
    banks: banks.map((bank) => ({
      bank,
      cylinders: Math.max(1, Math.round(engine.cylinders / banks.length)),
      sensors: fitted.filter((s) => s.bank === bank && s !== shared).sort((a, b) => a.sensor - b.sensor),
    })),
    shared,
    source: told
      ? engine.typed
        ? 'As its card says'
        : 'From the vehicle (PID 13 or 1D)'
      : 'As such engines usually are: the vehicle has not said',
  };
}

/** Sensors that codes mean. SAE J2012: P0130–P0135 bank 1 sensor 1, and so on in steps of six; heaters with them. */
export function meantSensors(codes: readonly string[]): { bank: 1 | 2; sensor: 1 | 2 }[] {
  const out: { bank: 1 | 2; sensor: 1 | 2 }[] = [];
  const add = (bank: 1 | 2, sensor: 1 | 2) => {
    if (!out.some((x) => x.bank === bank && x.sensor === sensor)) out.push({ bank, sensor });
  };
  for (const code of codes) {
    const n = /^P0\d{3}$/.test(code) ? Number(code.slice(1)) : 0;
    if (n >= 130 && n <= 135) add(1, 1);
    else if (n >= 136 && n <= 141) add(1, 2);
    else if (n >= 150 && n <= 155) add(2, 1);
    else if (n >= 156 && n <= 161) add(2, 2);
  }
  return out;
}
