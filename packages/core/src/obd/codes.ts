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

/**
 * Whose a code is, by its first two digits: numbering of SAE J2012 and ISO 15031-6 (from memory). P30–P33 belong to the
 * makers, P34–P3F to the standard; the third range of B, C and U is kept back.
 */
const OWNERS: readonly { is: RegExp; kind: CodeKind }[] = [
  { is: /^P[02]|^P3[4-9A-F]|^[BCU]0/, kind: 'standard' },
  { is: /^P1|^P3[0-3]|^[BCU][12]/, kind: 'maker' },
  { is: /^[BCU]3/, kind: 'reserved' },
];

/** What a group of standard codes is about. SAE J2012 (from memory), in our words. */
const GROUPS: readonly { is: RegExp; about: string }[] = [
  { is: /^P0[012]|^P2[01]/, about: 'fuel, air or emission control' },
  { is: /^P22/, about: 'fuel, air or exhaust gas sensors' },
  { is: /^P03|^P23/, about: 'ignition or misfire' },
  { is: /^P04|^P24/, about: 'emission control beside the engine' },
  { is: /^P05|^P25/, about: 'speed, idle or auxiliary inputs' },
  { is: /^P06|^P26/, about: 'control unit or its outputs' },
  { is: /^P0[789]|^P2[78]/, about: 'transmission' },
  { is: /^P0[A-F]|^P3[A-F]/, about: 'hybrid or electric drive' },
  { is: /^P2[9A-F]/, about: 'fuel, air or emission control' },
  { is: /^P3[4-9]/, about: 'cylinder deactivation and the engine beside it' },
  { is: /^C0/, about: 'chassis' },
  { is: /^B0/, about: 'body' },
  { is: /^U0/, about: 'network between control units' },
];

/** `other`: not of the form letter, digit, three hex digits: a maker's own numbering, kept as free text. */
export type CodeKind = 'standard' | 'maker' | 'reserved' | 'other';

/** What a trouble code says of itself. */
export interface CodeInfo {
  kind: CodeKind;
  /** What it says, or of what group it is; what to do where only the maker knows. */
  text: string;
}

/** A code as the tools write it: P0171, or with the two digits of ISO 15031-6's failure type, P0171-00. */
const FORM = /^([PCBU][0-3][0-9A-F]{3})(-[0-9A-F]{2})?$/;

/** What a code is, by its digits, and what it says in our words. Never throws: unknown is said to be unknown. */
export function codeInfo(code: string): CodeInfo {
  const plain = FORM.exec(code.trim().toUpperCase())?.[1];
  if (!plain) return { kind: 'other', text: 'the maker’s own numbering: look it up, a generic reader may mislead' };
  const kind = OWNERS.find((o) => o.is.test(plain))?.kind ?? 'reserved';
  if (kind === 'maker') return { kind, text: 'maker code: look it up, a generic reader may mislead' };
  if (kind === 'reserved') return { kind, text: 'not given out by the standard: look it up with the maker' };
  const own = codeText(plain);
  const about = GROUPS.find((g) => g.is.test(plain))?.about ?? 'engine and drive';
  return { kind, text: own ?? `standard code, ${about}: its exact words stand in the service information` };
}

/**
 * What is wrong with a code as it was typed, in one sentence; null where nothing is. A maker's own numbering passes where
 * it has digits and does not look like a standard code gone wrong.
 */
export function codeProblem(code: string): string | null {
  const text = code.trim().toUpperCase();
  if (FORM.test(text)) return null;
  const meant = codeMeant(text);
  if (meant !== null) return `“${code}” is no code: is ${meant} meant, with a figure where a letter stands?`;
  if (!/^[A-Z0-9][A-Z0-9 .-]{2,39}$/.test(text) || !/[0-9]/.test(text))
    return `“${code}” is no code: a letter P, B, C or U and four digits, as P0171, or the maker’s number`;
  if (/^[PBCU][A-Z]*[0-9]/.test(text))
    return `“${code}” is no code: after the letter come 0 to 3 and three digits 0–9 or A–F, as P0171`;
  return null;
}

/** The standard code that a slip of letters for figures was for (PO171); null where it is none. */
function codeMeant(text: string): string | null {
  const meant = text.charAt(0) + text.slice(1).replaceAll('O', '0').replaceAll(/[IL]/g, '1');
  return meant !== text && FORM.test(meant) ? meant : null;
}

/** What a code says, in our words; null for codes without a text of ours. */
export function codeText(code: string): string | null {
  return CODE_TEXTS.find((t) => code >= t.from && code <= (t.to ?? t.from))?.text ?? null;
}
