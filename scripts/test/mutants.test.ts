import { describe, expect, test } from '@jest/globals';
import { changesOf } from '../mutants/changes.mjs';

const of = (line: string): string[] => changesOf(line).map((c) => c.to.trim());

describe('single-line changes that tests should notice', () => {
  test.each<[string, string]>([
    ['  const far = a.x < 3 && b;', 'const far = a.x >= 3 && b;'],
    ['  const far = a.x < 3 && b;', 'const far = a.x < 3 || b;'],
    ['  const far = a.x < 3 && b;', 'const far = a.x < 4 && b;'],
    ['  if (late) return 0;', 'if (!(late)) return 0;'],
    ['  return list.some((x) => x.on);', 'return list.every((x) => x.on);'],
    ['  return known ?? 1;', 'return known && 1;'],
    ['  await kept(row);', 'void kept(row);'],
    ['const LIMIT = 2.5;', 'const LIMIT = 3.5;'],
  ])('%s → %s', (line, to) => expect(of(line)).toContain(to));

  test.each([
    '// more than 3 of them',
    ' * at 5 < 6',
    "import { a } from '../b.ts';",
    'export interface A { n: 1 }',
    "  'the 2 that are left',",
    '      <p className="m-0 p-4">',
    '}',
  ])('left alone: %s', (line) => expect(of(line)).toEqual([]));

  test('what stands in quotes is no code; lines of a type are none', () => {
    expect(of("  say('3 < 4 && true');")).toEqual([]);
    expect(of('export interface Range {\n  low: 1;\n}\nconst n = 1;')).toEqual(['const n = 2;']);
  });
});
