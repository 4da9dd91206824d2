/** Headers as tools of six languages write them: known without help, by their words and their unit. Common practice. */
import { describe, expect, test } from '@jest/globals';
import { roleOf } from '../src/recordingFiles/index.ts';

const HEADERS: readonly (readonly [header: string, channel: string, from?: string])[] = [
  // English
  ['Manifold Abs Press (kPa)', 'map'],
  ['Manifold Abs Press', 'map'],
  ['Intake Manifold Abs. Pressure [psi]', 'map', 'psi'],
  ['Fuel trim short term bank 1', 'stft1'],
  ['Fuel Trim, Long Term, Bank 2 (%)', 'ltft2'],
  ['Speed rpm', 'rpm'],
  ['Speed (mph)', 'vss', 'mph'],
  ['Engine speed [1/min]', 'rpm'],
  ['Coolant temp F', 'ect'],
  ['Air flow rate (lb/min)', 'maf', 'lb/min'],
  // German
  ['Drehzahl [1/min]', 'rpm'],
  ['Motordrehzahl (U/min)', 'rpm'],
  ['Luftmasse [g/s]', 'maf'],
  ['Luftmassenstrom (kg/h)', 'maf', 'kg/h'],
  ['Saugrohrdruck [hPa]', 'map', 'hPa'],
  ['Saugrohr-Druck (mbar)', 'map', 'mbar'],
  ['Geschwindigkeit [km/h]', 'vss'],
  ['Kühlmitteltemperatur (°C)', 'ect'],
  ['Kuehlwassertemp. [°C]', 'ect'],
  ['Ansauglufttemperatur [°C]', 'iat'],
  ['Drosselklappenwinkel [%]', 'tp'],
  ['Gemischkorrektur Kurzzeit Bank 1 [%]', 'stft1'],
  ['Langzeit-Kraftstofftrimm Bank 2 (%)', 'ltft2'],
  ['Umgebungsdruck [hPa]', 'baro', 'hPa'],
  ['Außentemperatur [°C]', 'ambient'],
  ['Bordspannung [V]', 'vbat'],
  ['Motorlast [%]', 'load'],
  // French
  ['Régime moteur (tr/min)', 'rpm'],
  ["Débit d'air (g/s)", 'maf'],
  ['Pression collecteur d’admission (kPa)', 'map'],
  ['Vitesse véhicule (km/h)', 'vss'],
  ['Temp. liquide de refroidissement (°C)', 'ect'],
  ["Température d'air d'admission (°C)", 'iat'],
  ['Correction court terme banc 1 (%)', 'stft1'],
  ['Correction carburant long terme banc 2 (%)', 'ltft2'],
  ['Papillon des gaz (%)', 'tp'],
  ['Pression atmosphérique (mbar)', 'baro', 'mbar'],
  ['Tension batterie (V)', 'vbat'],
  ['Niveau de carburant (%)', 'fuelLevel'],
  // Spanish
  ['Régimen del motor (rpm)', 'rpm'],
  ['Revoluciones', 'rpm'],
  ['Caudal de aire (g/s)', 'maf'],
  ['Presión de admisión (kPa)', 'map'],
  ['Velocidad (km/h)', 'vss'],
  ['Temperatura del refrigerante (°C)', 'ect'],
  ['Temperatura aire admisión (°C)', 'iat'],
  ['Ajuste combustible corto plazo banco 1 (%)', 'stft1'],
  ['Ajuste largo plazo banco 2', 'ltft2'],
  ['Mariposa (%)', 'tp'],
  // Italian
  ['Giri motore', 'rpm'],
  ['Portata aria (kg/h)', 'maf', 'kg/h'],
  ['Pressione collettore (mbar)', 'map', 'mbar'],
  ['Velocità veicolo (km/h)', 'vss'],
  ['Temperatura liquido raffreddamento (°C)', 'ect'],
  ['Temperatura aria aspirata (°C)', 'iat'],
  ['Correzione breve termine bancata 1 (%)', 'stft1'],
  ['Correzione lungo termine', 'ltft1'],
  ['Farfalla (%)', 'tp'],
  // Dutch
  ['Motortoerental (rpm)', 'rpm'],
  ['Luchtmassa (g/s)', 'maf'],
  ['Inlaatspruitstukdruk (kPa)', 'map'],
  ['Snelheid (km/h)', 'vss'],
  ['Koelvloeistoftemperatuur (°C)', 'ect'],
  ['Inlaatluchttemperatuur (°C)', 'iat'],
  ['Brandstofcorrectie korte termijn bank 1 (%)', 'stft1'],
  ['Lange termijn bank 2 (%)', 'ltft2'],
  ['Gasklepstand (%)', 'tp'],
  ['Accuspanning (V)', 'vbat'],
];

test('sixty of them', () => expect(HEADERS.length).toBeGreaterThanOrEqual(60));

test.each(HEADERS.map(([header, id, from]) => [header, id, from ?? null] as const))('%s is %s', (header, id, from) => {
  const role = roleOf(header);
  expect([header, role.kind === 'channel' ? role.id : role.kind]).toEqual([header, id]);
  if (from && role.kind === 'channel') expect(role.from).toBe(from);
});

describe('what is none of them', () => {
  test.each(['Zeit', 'Temps', 'Tiempo', 'Tempo', 'Tijd', 'Hora', 'Uhrzeit'])('%s is the clock', (word) => {
    expect(roleOf(word)).toEqual({ kind: 'time' });
  });
  test.each(['Ladedruck Soll (bar)', 'Gang', 'Öltemperatur (°C)', 'Position GPS', 'Consommation'])(
    '%s is left to a person',
    (header) => {
      expect(roleOf(header)).toEqual({ kind: 'ignore' });
    },
  );
  test('a unit that the channel cannot have is not overlooked; volts without a curve stay volts', () => {
    expect(roleOf('Luftmasse [bar]')).toEqual({ kind: 'ignore' });
    expect(roleOf('Coolant (psi)')).toEqual({ kind: 'ignore', why: 'written in psi, which is no °C' });
    expect(roleOf('MAF sensor (mV)')).toEqual({ kind: 'channel', id: 'MAF sensor (mV)', unit: 'V', from: 'mV' });
  });
});
