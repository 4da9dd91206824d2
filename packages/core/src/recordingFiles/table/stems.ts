/**
 * What tools call the channels in English, German, French, Spanish, Italian and Dutch: by channel, stems of words of which
 * all in a row must stand in the header, accents left out. Those that say more come first. Common practice, no source.
 */
const STEMS: readonly (readonly [channel: string, unit: string, words: readonly string[]])[] = [
  // Trims: long before short, since one header may speak of both terms of something else.
  ...(
    [
      ['long term', 'trim'],
      ['long term', 'ft'],
      ['langzeit', ''],
      ['long terme', ''],
      ['largo plazo', ''],
      ['lungo termine', ''],
      ['lange termijn', ''],
    ] as const
  ).map((words) => ['ltft', '%', words] as const),
  ...(
    [
      ['short term', 'trim'],
      ['short term', 'ft'],
      ['kurzzeit', ''],
      ['court terme', ''],
      ['corto plazo', ''],
      ['breve termine', ''],
      ['korte termijn', ''],
    ] as const
  ).map((words) => ['stft', '%', words] as const),
  ['ambient', '°C', ['aussen', 'temp']],
  ['ambient', '°C', ['umgebung', 'temp']],
  ['ambient', '°C', ['temp', 'exter']],
  ['ambient', '°C', ['temp', 'estern']],
  ['ambient', '°C', ['buitentemp']],
  ['baro', 'kPa', ['umgebungsdruck']],
  ['baro', 'kPa', ['atmospharendruck']],
  ['baro', 'kPa', ['luftdruck']],
  ['baro', 'kPa', ['pres', 'atmos']],
  ['baro', 'kPa', ['luchtdruk']],
  ['baro', 'kPa', ['omgevingsdruk']],
  ['iat', '°C', ['ansaugluft', 'temp']],
  ['iat', '°C', ['temp', 'air', 'admission']],
  ['iat', '°C', ['temp', 'aire']],
  ['iat', '°C', ['temp', 'aria']],
  ['iat', '°C', ['inlaatlucht', 'temp']],
  ['ect', '°C', ['kuhlmittel']],
  ['ect', '°C', ['kuehlmittel']],
  ['ect', '°C', ['kuhlwasser']],
  ['ect', '°C', ['kuehlwasser']],
  ['ect', '°C', ['refroidissement']],
  ['ect', '°C', ['refrigerante']],
  ['ect', '°C', ['raffreddamento']],
  ['ect', '°C', ['koelvloeistof']],
  ['ect', '°C', ['koelwater']],
  ['map', 'kPa', ['manifold', 'pres']],
  ['map', 'kPa', ['intake', 'pres']],
  ['map', 'kPa', ['saugrohr', 'druck']],
  ['map', 'kPa', ['ansaug', 'druck']],
  ['map', 'kPa', ['pres', 'admis']],
  ['map', 'kPa', ['pres', 'collect']],
  ['map', 'kPa', ['pres', 'colector']],
  ['map', 'kPa', ['pres', 'collettore']],
  ['map', 'kPa', ['pres', 'aspira']],
  ['map', 'kPa', ['inlaatspruitstuk', 'druk']],
  ['map', 'kPa', ['inlaat', 'druk']],
  ['maf', 'g/s', ['luftmasse']],
  ['maf', 'g/s', ['debit', 'air']],
  ['maf', 'g/s', ['masse', 'air']],
  ['maf', 'g/s', ['caudal', 'aire']],
  ['maf', 'g/s', ['flujo', 'aire']],
  ['maf', 'g/s', ['masa', 'aire']],
  ['maf', 'g/s', ['portata', 'aria']],
  ['maf', 'g/s', ['massa', 'aria']],
  ['maf', 'g/s', ['luchtmassa']],
  ['maf', 'g/s', ['luchtstroom']],
  ['rpm', 'rpm', ['drehzahl']],
  ['rpm', 'rpm', ['regime']],
  ['rpm', 'rpm', ['regimen']],
  ['rpm', 'rpm', ['revoluciones']],
  ['rpm', 'rpm', ['giri']],
  ['rpm', 'rpm', ['toerental']],
  ['rpm', 'rpm', ['speed']],
  ['vss', 'km/h', ['geschwindigkeit']],
  ['vss', 'km/h', ['vitesse']],
  ['vss', 'km/h', ['velocidad']],
  ['vss', 'km/h', ['velocita']],
  ['vss', 'km/h', ['snelheid']],
  ['tp', '%', ['drosselklappe']],
  ['tp', '%', ['papillon']],
  ['tp', '%', ['mariposa']],
  ['tp', '%', ['farfalla']],
  ['tp', '%', ['gasklep']],
  ['load', '%', ['motorlast']],
  ['load', '%', ['charge', 'moteur']],
  ['load', '%', ['carga', 'motor']],
  ['load', '%', ['carico', 'motore']],
  ['load', '%', ['motorbelasting']],
  ['fuelLevel', '%', ['tankfullstand']],
  ['fuelLevel', '%', ['kraftstoffstand']],
  ['fuelLevel', '%', ['niveau', 'carburant']],
  ['fuelLevel', '%', ['nivel', 'combustible']],
  ['fuelLevel', '%', ['livello', 'carburante']],
  ['fuelLevel', '%', ['brandstof', 'niveau']],
  ['vbat', 'V', ['bordspannung']],
  ['vbat', 'V', ['batteriespannung']],
  ['vbat', 'V', ['tension', 'batterie']],
  ['vbat', 'V', ['tension', 'bateria']],
  ['vbat', 'V', ['voltaje', 'bateria']],
  ['vbat', 'V', ['tensione', 'batteria']],
  ['vbat', 'V', ['accuspanning']],
];

/** How such tools call the clock. */
const CLOCKS = ['zeit', 'uhrzeit', 'temps', 'heure', 'tiempo', 'hora', 'tempo', 'ora', 'tijd'];

const BANK = /\b(?:bank|banc|banque|banco|bancata|rangee|zylinderbank|b)\W*([12])\b/;

/** Small letters without accents; whatever parts words as a space. */
export function plainWords(header: string): string {
  return header
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .replaceAll('ß', 'ss')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim();
}

/** Whether a header is one of the words for a clock. */
export const isClockWord = (header: string): boolean => CLOCKS.includes(plainWords(header));

/**
 * The channel that a header's words name, of those that can be in the unit it is written in (`fits`); undefined where none
 * is named. A trim's bank is the one named, else the first.
 */
export function stemmed(header: string, fits: (unit: string) => boolean): string | undefined {
  const words = plainWords(header);
  const found = STEMS.find(([, unit, stems]) => fits(unit) && stems.every((s) => words.includes(s)))?.[0];
  return found === 'stft' || found === 'ltft' ? `${found}${BANK.exec(words)?.[1] ?? 1}` : found;
}
