import { type Element, el, hex, narrowTrim, one, PCT, type Pid, temp, trim } from './pidRows.ts';

/**
 * Service 01 parameters 53–A9: what came with direct injection, turbochargers, diesels and aftertreatment. Source of
 * every row: SAE J1979-DA (from memory); the rows that a network analyser's dissector also decodes are checked against
 * it. Parameters with a support byte give only the values whose bit is set.
 */

/** Two bytes. */
const word = (
  id: string,
  label: string,
  unit: string,
  at: number,
  scale: number,
  more: Partial<Element> = {},
): Element => el(id, label, unit, { at, bytes: 2, scale, ...more });
const pct = (id: string, label: string, at: number, supportBit?: number): Element =>
  el(id, label, '%', { at, scale: PCT, ...(supportBit === undefined ? {} : { supportBit }) });
const degrees = (id: string, label: string, at: number, supportBit: number): Element => ({
  ...temp(id, label),
  at,
  supportBit,
});
const degreesWord = (id: string, label: string, at: number, supportBit: number): Element =>
  word(id, label, '°C', at, 0.1, { offset: -40, supportBit });
const torque = (id: string, label: string, at = 0): Element => el(id, label, '%', { at, offset: -125 });
const group = (pid: number, length: number, name: string, elements: Element[]): Pid => ({
  pid,
  length,
  name,
  elements: [hex(`support${pid.toString(16).toUpperCase()}`, `Values supported, ${name}`, 1), ...elements],
});
/** Long records whose inside this product does not read: kept whole. */
const whole = (pid: number, length: number, name: string): Pid => ({ pid, length, name, elements: [] });

export const LATER_PIDS: readonly Pid[] = [
  one(0x4f, 4, hex('maxima', 'Maximum λ, O2 voltage, O2 current, manifold pressure', 4)),
  {
    pid: 0x50,
    length: 4,
    name: 'Maximum mass air flow',
    elements: [el('mafMaximum', 'Maximum mass air flow', 'g/s', { scale: 10 })],
  },
  one(0x53, 2, word('evapPressureAbs', 'EVAP system vapor pressure, absolute', 'kPa', 0, 1 / 200)),
  one(0x54, 2, word('evapPressureWide', 'EVAP system vapor pressure', 'Pa', 0, 1, { offset: -32767 })),
  narrowTrim(0x55, 'stft1s2', 'Short term secondary O2 trim, bank 1'),
  narrowTrim(0x56, 'ltft1s2', 'Long term secondary O2 trim, bank 1'),
  narrowTrim(0x57, 'stft2s2', 'Short term secondary O2 trim, bank 2'),
  narrowTrim(0x58, 'ltft2s2', 'Long term secondary O2 trim, bank 2'),
  one(0x59, 2, word('railAbsolute', 'Fuel rail pressure, absolute', 'kPa', 0, 10)),
  one(0x5a, 1, pct('appRel', 'Relative accelerator pedal position', 0)),
  one(0x5b, 1, pct('hybridBattery', 'Hybrid battery pack remaining life', 0)),
  one(0x5d, 2, word('injectionTiming', 'Fuel injection timing', '°', 0, 1 / 128, { offset: -210 })),
  one(0x5f, 1, hex('emissionRequirements', 'Emission requirements', 1)),
  one(0x61, 1, torque('torqueDemanded', "Driver's demand engine torque")),
  one(0x62, 1, torque('torqueActual', 'Actual engine torque')),
  one(0x63, 2, word('torqueReference', 'Engine reference torque', 'N·m', 0, 1)),
  {
    pid: 0x64,
    length: 5,
    name: 'Engine torque data',
    elements: [
      torque('torqueIdle', 'Engine torque, idle'),
      ...[1, 2, 3, 4].map((n) => torque(`torquePoint${n}`, `Engine torque, point ${n}`, n)),
    ],
  },
  one(0x65, 2, hex('auxiliaryIo', 'Auxiliary inputs and outputs', 2)),
  group(0x66, 5, 'Mass air flow sensors', [
    word('mafA', 'Mass air flow sensor A', 'g/s', 1, 1 / 32, { supportBit: 0 }),
    word('mafB', 'Mass air flow sensor B', 'g/s', 3, 1 / 32, { supportBit: 1 }),
  ]),
  group(0x67, 3, 'Engine coolant temperatures', [
    degrees('ectA', 'Engine coolant temperature 1', 1, 0),
    degrees('ectB', 'Engine coolant temperature 2', 2, 1),
  ]),
  group(
    0x68,
    7,
    'Intake air temperatures',
    [11, 12, 13, 21, 22, 23].map((n, i) =>
      degrees(`iat${n}`, `Intake air temperature, bank ${Math.floor(n / 10)} sensor ${n % 10}`, 1 + i, i),
    ),
  ),
  group(0x69, 7, 'EGR commanded, actual and error', [
    pct('egrCommandedA', 'Commanded EGR A', 1, 0),
    pct('egrActualA', 'Actual EGR A', 2, 1),
    { ...trim('egrErrorA', 'EGR A error'), at: 3, supportBit: 2 },
    pct('egrCommandedB', 'Commanded EGR B', 4, 3),
    pct('egrActualB', 'Actual EGR B', 5, 4),
    { ...trim('egrErrorB', 'EGR B error'), at: 6, supportBit: 5 },
  ]),
  group(0x6a, 5, 'Intake air flow control', [
    pct('airControlCommandedA', 'Commanded intake air flow A', 1, 0),
    pct('airControlA', 'Relative intake air flow position A', 2, 1),
    pct('airControlCommandedB', 'Commanded intake air flow B', 3, 2),
    pct('airControlB', 'Relative intake air flow position B', 4, 3),
  ]),
  group(
    0x6b,
    5,
    'EGR temperatures',
    [11, 12, 21, 22].map((n, i) =>
      degrees(`egrTemp${n}`, `EGR temperature, bank ${Math.floor(n / 10)} sensor ${n % 10}`, 1 + i, i),
    ),
  ),
  group(0x6c, 5, 'Throttle actuator control', [
    pct('throttleCommandedA', 'Commanded throttle actuator A', 1, 0),
    pct('throttleRelativeA', 'Relative throttle position A', 2, 1),
    pct('throttleCommandedB', 'Commanded throttle actuator B', 3, 2),
    pct('throttleRelativeB', 'Relative throttle position B', 4, 3),
  ]),
  group(0x6d, 11, 'Fuel pressure control', [
    word('railCommandedA', 'Commanded rail pressure A', 'kPa', 1, 10, { supportBit: 0 }),
    word('railA', 'Rail pressure A', 'kPa', 3, 10, { supportBit: 1 }),
    degrees('railTempA', 'Rail temperature A', 5, 2),
    word('railCommandedB', 'Commanded rail pressure B', 'kPa', 6, 10, { supportBit: 3 }),
    word('railB', 'Rail pressure B', 'kPa', 8, 10, { supportBit: 4 }),
    degrees('railTempB', 'Rail temperature B', 10, 5),
  ]),
  group(0x6e, 9, 'Injection pressure control', [
    word('injectionCommandedA', 'Commanded injection control pressure A', 'kPa', 1, 10, { supportBit: 0 }),
    word('injectionA', 'Injection control pressure A', 'kPa', 3, 10, { supportBit: 1 }),
    word('injectionCommandedB', 'Commanded injection control pressure B', 'kPa', 5, 10, { supportBit: 2 }),
    word('injectionB', 'Injection control pressure B', 'kPa', 7, 10, { supportBit: 3 }),
  ]),
  group(0x6f, 3, 'Turbocharger compressor inlet pressure', [
    el('compressorInletA', 'Compressor inlet pressure A', 'kPa', { at: 1, supportBit: 0 }),
    el('compressorInletB', 'Compressor inlet pressure B', 'kPa', { at: 2, supportBit: 1 }),
  ]),
  group(0x70, 10, 'Boost pressure control', [
    word('boostCommandedA', 'Commanded boost pressure A', 'kPa', 1, 1 / 32, { supportBit: 0 }),
    word('boostA', 'Boost pressure A', 'kPa', 3, 1 / 32, { supportBit: 1 }),
    word('boostCommandedB', 'Commanded boost pressure B', 'kPa', 5, 1 / 32, { supportBit: 3 }),
    word('boostB', 'Boost pressure B', 'kPa', 7, 1 / 32, { supportBit: 4 }),
    { ...hex('boostStatus', 'Boost pressure control status', 1), at: 9, supportBit: 2 },
  ]),
  group(0x71, 6, 'Variable geometry turbo control', [
    pct('vgtCommandedA', 'Commanded VGT position A', 1, 0),
    pct('vgtA', 'VGT position A', 2, 1),
    pct('vgtCommandedB', 'Commanded VGT position B', 3, 3),
    pct('vgtB', 'VGT position B', 4, 4),
    { ...hex('vgtStatus', 'VGT control status', 1), at: 5, supportBit: 2 },
  ]),
  group(0x72, 5, 'Wastegate control', [
    pct('wastegateCommandedA', 'Commanded wastegate A', 1, 0),
    pct('wastegateA', 'Wastegate position A', 2, 1),
    pct('wastegateCommandedB', 'Commanded wastegate B', 3, 2),
    pct('wastegateB', 'Wastegate position B', 4, 3),
  ]),
  group(0x73, 5, 'Exhaust pressure', [
    word('exhaustPressure1', 'Exhaust pressure, bank 1', 'kPa', 1, 0.01, { supportBit: 0 }),
    word('exhaustPressure2', 'Exhaust pressure, bank 2', 'kPa', 3, 0.01, { supportBit: 1 }),
  ]),
  group(0x74, 5, 'Turbocharger speed', [
    word('turboSpeedA', 'Turbocharger speed A', 'rpm', 1, 10, { supportBit: 0 }),
    word('turboSpeedB', 'Turbocharger speed B', 'rpm', 3, 10, { supportBit: 1 }),
  ]),
  ...(
    [
      [0x75, 'A'],
      [0x76, 'B'],
    ] as const
  ).map(([pid, x]) =>
    group(pid, 7, `Turbocharger ${x} temperature`, [
      degrees(`compressorInTemp${x}`, `Compressor inlet temperature ${x}`, 1, 0),
      degrees(`compressorOutTemp${x}`, `Compressor outlet temperature ${x}`, 2, 1),
      degreesWord(`turbineInTemp${x}`, `Turbine inlet temperature ${x}`, 3, 2),
      degreesWord(`turbineOutTemp${x}`, `Turbine outlet temperature ${x}`, 5, 3),
    ]),
  ),
  group(
    0x77,
    5,
    'Charge air cooler temperature',
    [11, 12, 21, 22].map((n, i) =>
      degrees(`chargeTemp${n}`, `Charge air cooler temperature, bank ${Math.floor(n / 10)} sensor ${n % 10}`, 1 + i, i),
    ),
  ),
  ...[0x78, 0x79].map((pid, b) =>
    group(
      pid,
      9,
      `Exhaust gas temperature, bank ${b + 1}`,
      [1, 2, 3, 4].map((n, i) =>
        degreesWord(`egt${b + 1}${n}`, `Exhaust gas temperature, bank ${b + 1} sensor ${n}`, 1 + 2 * i, i),
      ),
    ),
  ),
  ...[0x7a, 0x7b].map((pid, b) =>
    group(pid, 7, `Particulate filter, bank ${b + 1}`, [
      word(`dpfDelta${b + 1}`, 'Particulate filter delta pressure', 'kPa', 1, 0.01, { signed: true, supportBit: 0 }),
      word(`dpfIn${b + 1}`, 'Particulate filter inlet pressure', 'kPa', 3, 0.01, { supportBit: 1 }),
      word(`dpfOut${b + 1}`, 'Particulate filter outlet pressure', 'kPa', 5, 0.01, { supportBit: 2 }),
    ]),
  ),
  group(0x7c, 9, 'Particulate filter temperature', [
    degreesWord('dpfTempIn1', 'Particulate filter inlet temperature, bank 1', 1, 0),
    degreesWord('dpfTempOut1', 'Particulate filter outlet temperature, bank 1', 3, 1),
    degreesWord('dpfTempIn2', 'Particulate filter inlet temperature, bank 2', 5, 2),
    degreesWord('dpfTempOut2', 'Particulate filter outlet temperature, bank 2', 7, 3),
  ]),
  one(0x7d, 1, hex('noxNte', 'NOx control area status', 1)),
  one(0x7e, 1, hex('pmNte', 'PM control area status', 1)),
  group(0x7f, 13, 'Engine run time', [
    el('runTotal', 'Total engine run time', 's', { at: 1, bytes: 4, supportBit: 0 }),
    el('runIdle', 'Total idle run time', 's', { at: 5, bytes: 4, supportBit: 1 }),
    el('runPto', 'Total run time with power take-off', 's', { at: 9, bytes: 4, supportBit: 2 }),
  ]),
  whole(0x81, 41, 'Run time for auxiliary emission control 1–5'),
  whole(0x82, 41, 'Run time for auxiliary emission control 6–10'),
  group(0x83, 9, 'NOx sensor', [
    word('nox11', 'NOx concentration, bank 1 sensor 1', 'ppm', 1, 1, { supportBit: 0 }),
    word('nox12', 'NOx concentration, bank 1 sensor 2', 'ppm', 3, 1, { supportBit: 1 }),
    word('nox21', 'NOx concentration, bank 2 sensor 1', 'ppm', 5, 1, { supportBit: 2 }),
    word('nox22', 'NOx concentration, bank 2 sensor 2', 'ppm', 7, 1, { supportBit: 3 }),
  ]),
  one(0x84, 1, temp('manifoldTemp', 'Manifold surface temperature')),
  group(0x85, 10, 'NOx reagent system', [
    word('reagentUse', 'Average reagent consumption', 'L/h', 1, 0.005, { supportBit: 0 }),
    word('reagentDemand', 'Average demanded reagent consumption', 'L/h', 3, 0.005, { supportBit: 1 }),
    pct('reagentLevel', 'Reagent tank level', 5, 2),
    el('reagentWarningTime', 'Run time with NOx warning', 's', { at: 6, bytes: 4, supportBit: 3 }),
  ]),
  group(0x86, 5, 'Particulate matter sensor', [
    word('pm11', 'PM concentration, bank 1 sensor 1', 'mg/m³', 1, 0.0125, { supportBit: 0 }),
    word('pm21', 'PM concentration, bank 2 sensor 1', 'mg/m³', 3, 0.0125, { supportBit: 1 }),
  ]),
  group(0x87, 5, 'Intake manifold absolute pressure', [
    word('mapA', 'Intake manifold absolute pressure A', 'kPa', 1, 1 / 32, { supportBit: 0 }),
    word('mapB', 'Intake manifold absolute pressure B', 'kPa', 3, 1 / 32, { supportBit: 1 }),
  ]),
  whole(0x88, 13, 'SCR inducement system'),
  whole(0x89, 41, 'Run time for auxiliary emission control 11–15'),
  whole(0x8a, 41, 'Run time for auxiliary emission control 16–20'),
  whole(0x8b, 7, 'Diesel aftertreatment status'),
  group(0x8c, 17, 'Wide-range O2 sensors', [
    ...[11, 12, 21, 22].map((n, i) =>
      word(`o2Share${n}`, `O2 concentration, bank ${Math.floor(n / 10)} sensor ${n % 10}`, '%', 1 + 2 * i, 0.001526, {
        supportBit: i,
      }),
    ),
    ...[11, 12, 21, 22].map((n, i) =>
      word(`lambdaWide${n}`, `Lambda, bank ${Math.floor(n / 10)} sensor ${n % 10}`, 'λ', 9 + 2 * i, 0.000122, {
        supportBit: 4 + i,
      }),
    ),
  ]),
  one(0x8d, 1, pct('tpG', 'Absolute throttle position G', 0)),
  one(0x8e, 1, torque('torqueFriction', 'Engine friction torque')),
  whole(0x8f, 7, 'Particulate matter sensor, banks 1 and 2'),
  whole(0x90, 3, 'WWH-OBD vehicle information'),
  whole(0x91, 5, 'WWH-OBD engine information'),
  whole(0x92, 2, 'Fuel system control'),
  whole(0x93, 3, 'WWH-OBD counters'),
  whole(0x94, 12, 'NOx warning and inducement'),
  whole(0x98, 9, 'Exhaust gas temperature sensors, bank 1'),
  whole(0x99, 9, 'Exhaust gas temperature sensors, bank 2'),
  whole(0x9a, 6, 'Hybrid or electric system data'),
  whole(0x9b, 4, 'Reagent sensor data'),
  whole(0x9c, 17, 'O2 sensor data'),
  {
    pid: 0x9d,
    length: 4,
    name: 'Fuel rate by mass',
    elements: [
      word('fuelRateEngine', 'Engine fuel rate', 'g/s', 0, 0.02),
      word('fuelRateVehicle', 'Vehicle fuel rate', 'g/s', 2, 0.02),
    ],
  },
  one(0x9e, 2, word('exhaustFlow', 'Engine exhaust flow rate', 'kg/h', 0, 0.2)),
  whole(0x9f, 9, 'Fuel system percentage use'),
  whole(0xa1, 9, 'NOx sensor, corrected'),
  one(0xa2, 2, word('cylinderFuel', 'Cylinder fuel rate', 'mg/stroke', 0, 1 / 32)),
  whole(0xa3, 9, 'EVAP system vapor pressure data'),
  {
    pid: 0xa4,
    length: 4,
    name: 'Transmission gear',
    elements: [
      hex('supportA4', 'Values supported, transmission gear', 1),
      word('gearRatio', 'Transmission gear ratio', '', 2, 0.001),
    ],
  },
  whole(0xa5, 4, 'Reagent dosing'),
  one(0xa6, 4, el('odometer', 'Odometer', 'km', { bytes: 4, scale: 0.1 })),
  whole(0xa7, 4, 'NOx sensors 3 and 4'),
  whole(0xa8, 4, 'NOx sensors 3 and 4, corrected'),
  whole(0xa9, 4, 'Anti-lock brake switch'),
];
