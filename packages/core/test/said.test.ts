import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { CALCULATORS } from '../src/calculators/index.ts';
import { FAULTS, NOTICES, sizeFigure, TESTS } from '../src/catalogue/index.ts';
import { diagnose } from '../src/diagnosis/index.ts';
import { trailSentence } from '../src/job/index.ts';
import { CAUTIONS, SHIPPED_PROCEDURES } from '../src/procedures/index.ts';
import { DRIVE_PROCEDURES, INSPECTION_RULES, planDrive } from '../src/readiness/index.ts';
import { figure, inWords, joined, type Said, said, significant, wordsOf } from '../src/units/index.ts';

describe('a sentence in the units of its reader', () => {
  const degC = (...v: number[]) => figure(v, '°C', 0, { between: ' of ' });
  const fuel = (...v: number[]) => figure(v, 'kPa', 0, { role: 'fuel' });
  test.each<[Said, string, string]>([
    [said`Warm: ${degC(62, 80)}, about 4 min.`, 'Warm: 62 of 80 °C, about 4 min.', 'Warm: 144 of 176 °F, about 4 min.'],
    [
      said`About ${fuel(63)} short at ${figure(11, 'g/s', 0)} (${fuel(50, 80)}).`,
      'About 63 kPa short at 11 g/s (50–80 kPa).',
      'About 9.1 psi short at 1.46 lb/min (7.3–11.6 psi).',
    ],
    [said`Idle: ${figure(34, 'kPa', 0)} measured.`, 'Idle: 34 kPa measured.', 'Idle: 10.0 inHg measured.'],
    [
      said`Intake air ${degC(-10)} with ${degC(4)} outside.`,
      'Intake air −10 °C with 4 °C outside.',
      'Intake air 14 °F with 39 °F outside.',
    ],
    [said`coolant ${figure(5, 'K', 0)} from the air`, 'coolant 5 K from the air', 'coolant 9 °F from the air'],
    [said`${figure([90, 2], '°C', 0, { between: ' ± ' })}`, '90 ± 2 °C', '194 ± 4 °F'],
    [said`every ${figure([16_000, 24_000], 'km', 0)}`, 'every 16,000–24,000 km', 'every 9,942–14,913 mi'],
    [said`from ${figure([40, 43], 'mph', 0, { between: ' to ' })}`, 'from 64 to 69 km/h', 'from 40 to 43 mph'],
    [said`at most ${figure(8000, 'ft')}`, 'at most 2,438 m', 'at most 8,000 ft'],
    [
      said`${figure(-0.002, 'g/s', 1)} and ${figure(1.5, '°', 1, { signed: true })}`,
      '0.0 g/s and +1.5°',
      '0.00 lb/min and +1.5°',
    ],
  ])('%j', (s, metric, us) => {
    expect([wordsOf(s, 'metric'), wordsOf(s, 'us')]).toEqual([metric, us]);
  });

  test('as it was given, for formats; airflow in g/s for a US reader who wants it so', () => {
    const s = said`${figure(40, 'mph')}, ${figure(3.1, 'g/s')}, ${figure(90, '°C')}`;
    expect(wordsOf(s, 'own')).toBe('40 mph, 3.1 g/s, 90 °C');
    expect(wordsOf(s, 'us-gps')).toBe('40 mph, 3.1 g/s, 194 °F');
  });

  test('two significant digits have no exponent', () => {
    expect([112, 11.2, 1.12, 0.0112, -0.0112, 0, 1e-7].map((v) => significant(v, 2))).toEqual([
      ...['110', '11', '1.1', '0.011', '−0.011', '0', '0.00000010'],
    ]);
    expect(wordsOf(said`${sizeFigure('fuel-low', 'kPa', 112)}`, 'metric')).toBe('110 kPa');
  });

  test('sentences are put together without losing a figure', () => {
    const s = joined([said`a ${figure(1, 'mm')}`, 'b', said`${said`c ${figure(2, 'mm')}`}!`], '; ');
    expect(wordsOf(s, 'metric')).toBe('a 1 mm; b; c 2 mm!');
    expect(said`plain ${'text'} of ${3}`).toBe('plain text of 3');
  });
});

test('what a person typed comes back byte for byte, whatever it looks like, in every shape and every system', () => {
  const typed = fc.oneof(
    fc.string(),
    fc.constantFrom('vacuum hose 8 mm, 2 m', 'screw M6 x 20 mm', '22 mm socket, 90 °C'),
  );
  fc.assert(
    fc.property(
      typed,
      fc.constantFrom('metric' as const, 'us' as const, 'us-gps' as const, 'own' as const),
      (words, units) => {
        const shape = { parked: words, list: [words, { note: words }], beside: said`x ${figure(8, 'mm')}` };
        const out = inWords(shape, units);
        expect([out.parked, out.list]).toEqual([words, [words, { note: words }]]);
        expect(wordsOf(said`parked: ${words}`, units)).toBe(`parked: ${words}`);
        expect(wordsOf(trailSentence('A', 'run-parked', { reason: words }), units)).toBe(
          `A parked the work: ${words}.`,
        );
      },
    ),
  );
});

/** Every text in a value that is no id and no source. */
function* textsOf(v: unknown, key = ''): Generator<string> {
  if (typeof v === 'string') {
    if (!/^(id|source|unit|format|from)$/.test(key)) yield v;
  } else if (Array.isArray(v)) for (const x of v) yield* textsOf(x, key);
  else if (v && typeof v === 'object') for (const [k, x] of Object.entries(v)) if (k !== 'tools') yield* textsOf(x, k);
}

describe('no figure of the other system in anything that the tables and the arithmetic say', () => {
  const metricOnly = /\d\s?(kPa|°C|g\/s|km\/h|km|cm|mm|mL|N·m)(?![\w/²])/;
  const usOnly = /\d\s?(psi|inHg|°F|lb\/min|mph|mi|ft|lbf|in)(?![\w/²])/;
  const state = {
    coolantC: 78,
    intakeC: 16,
    altitudeM: 2600,
    fuelPct: 91,
    tankL: 50,
    consumptionLPer100Km: 8,
    ambientC: 44,
  };
  const plans = DRIVE_PROCEDURES.map((procedure) =>
    planDrive({ procedure, now: '2026-03-02T18:00:00Z', state, forecast: [], cooling: [] }),
  );
  const reading = { at: 'idle' as const, rpm: 700, mafGps: 2.6, mapKPa: 38, ectC: 61, iatC: 140 };
  const judged = (['fuel-pressure', 'boost-compare', 'koeo-baro', 'backpressure'] as const).map((id) =>
    diagnose({
      ...{ format: 'just-balance/case', version: 1, id: 'x' },
      vehicle: { fuel: 'petrol', metering: 'both', displacementL: 2, cylinders: 4, induction: 'turbo' },
      ambient: { baroKPa: 99, airC: 60 },
      readings: [
        { ...reading, trims: { bank1: { stft: 4, ltft: 14 } } },
        { at: 'snap', mafGps: 6, sampleHz: 20 },
      ],
      tests: [
        {
          id,
          values: {
            idleKPa: 300,
            loadKPa: 210,
            specKPa: 380,
            measuredKPa: 40,
            targetKPa: 90,
            differenceKPa: 6,
            at2500KPa: 30,
          },
        },
      ],
    }),
  );
  const all = {
    TESTS,
    NOTICES,
    SHIPPED_PROCEDURES,
    DRIVE_PROCEDURES,
    CAUTIONS,
    FAULTS,
    INSPECTION_RULES,
    plans,
    judged,
    how: CALCULATORS.map((c) => c.how),
  };
  test.each([
    ['metric', usOnly],
    ['us', metricOnly],
  ] as const)('%s', (units, other) => {
    const texts = [...textsOf(inWords(all, units))];
    expect(texts.length).toBeGreaterThan(1500);
    expect(texts.filter((t) => other.test(t))).toEqual([]);
  });
});
