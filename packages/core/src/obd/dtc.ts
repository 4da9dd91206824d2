/**
 * Trouble code from its two bytes. SAE J2012 / ISO 15031-6:
 *
 *   A: ss dd hhhh   B: hhhh hhhh     ss 0 P, 1 C, 2 B, 3 U; dd first digit
 *   01 71 → P0171, C1 00 → U0100
 */
export function dtcText(a: number, b: number): string {
  const system = 'PCBU'[a >> 6]!;
  const rest = ((a & 0x3f) << 8) | b;
  return system + rest.toString(16).toUpperCase().padStart(4, '0');
}

/** The two bytes of a code such as P0171; null when it is not one. */
export function dtcBytes(code: string): [number, number] | null {
  const m = /^([PCBU])([0-3])([0-9A-F]{3})$/.exec(code);
  if (!m) return null;
  const n = Number.parseInt(m[2]! + m[3]!, 16);
  return [('PCBU'.indexOf(m[1]!) << 6) | (n >> 8), n & 0xff];
}

interface CodeText {
  from: string;
  to?: string;
  text: string;
}

/** Our own short texts for the codes this work meets; numbering per SAE J2012 (from memory). */
const CODE_TEXTS: readonly CodeText[] = [
  { from: 'P0087', text: 'fuel rail pressure too low' },
  { from: 'P0088', text: 'fuel rail pressure too high' },
  { from: 'P0100', to: 'P0104', text: 'airflow sensor or its circuit' },
  { from: 'P0105', to: 'P0108', text: 'manifold pressure sensor or its circuit' },
  { from: 'P0110', to: 'P0114', text: 'intake air temperature sensor' },
  { from: 'P0115', to: 'P0118', text: 'coolant temperature sensor' },
  { from: 'P0128', text: 'coolant does not get hot: thermostat' },
  { from: 'P0130', to: 'P0134', text: 'oxygen sensor, bank 1 upstream' },
  { from: 'P0135', text: 'oxygen sensor heater, bank 1 upstream' },
  { from: 'P0136', to: 'P0140', text: 'oxygen sensor, bank 1 downstream' },
  { from: 'P0141', text: 'oxygen sensor heater, bank 1 downstream' },
  { from: 'P0150', to: 'P0154', text: 'oxygen sensor, bank 2 upstream' },
  { from: 'P0155', text: 'oxygen sensor heater, bank 2 upstream' },
  { from: 'P0156', to: 'P0160', text: 'oxygen sensor, bank 2 downstream' },
  { from: 'P0161', text: 'oxygen sensor heater, bank 2 downstream' },
  { from: 'P0171', text: 'bank 1 lean: fuel is being added past the limit' },
  { from: 'P0172', text: 'bank 1 rich: fuel is being taken away past the limit' },
  { from: 'P0174', text: 'bank 2 lean: fuel is being added past the limit' },
  { from: 'P0175', text: 'bank 2 rich: fuel is being taken away past the limit' },
  { from: 'P0299', text: 'boost below target' },
  { from: 'P0300', text: 'misfire, several cylinders' },
  { from: 'P0301', to: 'P0308', text: 'misfire, cylinder of the last digit' },
  { from: 'P0401', text: 'too little exhaust gas recirculated' },
  { from: 'P0402', text: 'too much exhaust gas recirculated' },
  { from: 'P0420', text: 'catalyst, bank 1, below its limit' },
  { from: 'P0430', text: 'catalyst, bank 2, below its limit' },
  { from: 'P0440', to: 'P0457', text: 'evaporative system' },
  { from: 'P0496', text: 'purge flows when it should not' },
  { from: 'P0505', to: 'P0507', text: 'idle speed control' },
  { from: 'P2177', to: 'P2180', text: 'mixture off idle' },
  { from: 'P2187', to: 'P2190', text: 'mixture at idle' },
  { from: 'P2195', to: 'P2198', text: 'oxygen sensor stuck lean or rich' },
];

/** What a code says, in our words; null for codes without a text (maker codes stay free text). */
export function codeText(code: string): string | null {
  return CODE_TEXTS.find((t) => code >= t.from && code <= (t.to ?? t.from))?.text ?? null;
}
