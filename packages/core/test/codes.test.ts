import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { PARTS, partOf } from '../src/case/index.ts';
import { codeInfo, codeProblem, dtcBytes, dtcText } from '../src/obd/index.ts';

/** Structure of SAE J2012 and ISO 15031-6, from memory: first digit, and for P3 the second, say whose a code is. */
describe('whose a code is', () => {
  test.each([
    ['P0171', 'standard', /bank 1 lean/],
    ['P0606', 'standard', /control unit/],
    ['P0700', 'standard', /transmission/],
    ['P0A80', 'standard', /hybrid/],
    ['P2096', 'standard', /fuel, air/],
    ['P2300', 'standard', /ignition/],
    ['P3400', 'standard', /cylinder deactivation/],
    ['P1171', 'maker', /maker/],
    ['P3000', 'maker', /maker/],
    ['P33FF', 'maker', /maker/],
    ['C0035', 'standard', /chassis/],
    ['C1201', 'maker', /maker/],
    ['B0001', 'standard', /body/],
    ['U0100', 'standard', /network/],
    ['U1900', 'maker', /maker/],
    ['B3000', 'reserved', /not given out/],
    ['p0171-00', 'standard', /bank 1 lean/],
    ['16486', 'other', /own numbering/],
  ])('%s is %s', (code, kind, text) => {
    const info = codeInfo(code);
    expect(info.kind).toBe(kind);
    expect(info.text).toMatch(text);
  });
  test('letters where figures stand: the code that is meant is offered', () => {
    expect(codeProblem('PO171')).toBe('“PO171” is no code: is P0171 meant, with a figure where a letter stands?');
    expect(codeProblem('p0l71')).toMatch(/is P0171 meant/);
    expect(codeProblem('POOR')).not.toMatch(/meant/);
  });

  test('every code that two bytes can carry has an owner and a text, and passes by its form', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 0xffff }), (n) => {
        const code = dtcText(n >> 8, n & 0xff);
        expect(codeInfo(code).kind).not.toBe('other');
        expect(codeInfo(code).text.length).toBeGreaterThan(5);
        expect(codeProblem(code)).toBeNull();
        expect(dtcBytes(code)).toEqual([n >> 8, n & 0xff]);
      }),
    );
  });
});

describe('a code as it was typed', () => {
  test.each(['FOO', '', 'P', 'P01', 'P01711', 'P4171', 'PX171', 'P017G', 'lean', 'P0171 P0174x'])(
    '“%s” is refused',
    (c) => {
      expect(codeProblem(c)).toMatch(/is no code/);
    },
  );
  test.each(['P0171', 'p0171', 'U0100', 'P0A80', 'P0171-7F', '16486', '2A82', 'DF-105'])('“%s” is taken', (c) => {
    expect(codeProblem(c)).toBeNull();
  });
});

describe('parts by the names of the trade (common practice, no source)', () => {
  test.each([
    ['mass air flow sensor', 'maf-sensor'],
    ['MAF', 'maf-sensor'],
    ['maf-sensor', 'maf-sensor'],
    ['timing chain', 'timing-chain'],
    ['Timing belts', 'timing-belt'],
    ['oxygen sensor', 'o2-sensor'],
    ['lambda probe, bank 2', 'o2-sensor'],
    ['spark plugs', 'ignition-plugs'],
    ['EGR valve', 'egr-valve'],
    ['exhaust gas recirculation valve', 'egr-valve'],
    ['exhaust manifold gasket', 'exhaust'],
    ['intake manifold gasket', 'intake-gasket'],
    ['brake booster hose', 'vacuum-hose'],
    ['fuel cap', 'fuel-cap'],
    ['fuel pump', 'fuel-pump'],
    ['A/C compressor', 'air-conditioning'],
    ['drive belt', 'alternator'],
    ['catalytic converter', 'catalyst'],
    ['DPF', 'particulate-filter'],
    ['egr', 'egr-valve'],
    ['refuel', 'refuelled'],
    ['air-filter', 'air-filter'],
    ['intercooler', 'turbo-pipe'],
  ])('%s', (text, id) => {
    expect(partOf(text)?.id).toBe(id);
  });
  test.each(['tow bar', 'windscreen', 'smap', ''])('“%s” names none', (text) => {
    expect(partOf(text)).toBeNull();
  });
  test('every name of a part finds that part, and no two share one', () => {
    const all = PARTS.flatMap((p) => [p.label, ...p.also].map((name) => [name, p.id] as const));
    for (const [name, id] of all) expect([name, partOf(name)?.id]).toEqual([name, id]);
    expect(new Set(PARTS.map((p) => p.id)).size).toBe(PARTS.length);
  });
});
