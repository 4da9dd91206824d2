import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from '@jest/globals';

const CORE = join(__dirname, '../../packages/core/src');

test('everything that core gives to others says what it is', () => {
  const files = readdirSync(CORE, { recursive: true, encoding: 'utf8' }).filter((f) => f.endsWith('.ts'));
  const texts = files.map((f) => [f, readFileSync(join(CORE, f), 'utf8')] as const);
  const given = new Set(
    texts
      .filter(([f]) => f.endsWith('index.ts'))
      .flatMap(([, text]) => [...text.matchAll(/export (?:type )?\{([^}]*)\}/g)])
      .flatMap(([, names]) =>
        names!.split(',').map(
          (n) =>
            n
              .trim()
              .replace(/^type /, '')
              .split(' as ')
              .at(-1)!,
        ),
      ),
  );
  const bare = texts.flatMap(([f, text]) =>
    [...text.matchAll(/^export (?:async )?(?:function|class|const|interface|type) (\w+)/gm)]
      .filter((m) => given.has(m[1]!) && !text.slice(0, m.index).trimEnd().endsWith('*/'))
      .map((m) => `${f}: ${m[1]}`),
  );
  expect(given.size).toBeGreaterThan(500);
  expect(bare).toEqual([]);
});
