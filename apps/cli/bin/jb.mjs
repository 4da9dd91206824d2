#!/usr/bin/env node
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const main = new URL('../dist/main.js', import.meta.url);
if (!existsSync(fileURLToPath(main))) {
  process.stderr.write('jb: nothing is built yet: run npm run build\n');
  process.exit(2);
}
await import(main.href);
