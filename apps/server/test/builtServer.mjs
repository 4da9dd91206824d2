import { readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';

const SRC = join(import.meta.dirname, '../src');
const DIST = join(import.meta.dirname, '../dist');
/** It is what listens and ends: never read by a test. */
const MAIN = 'main.ts';

let modules = null;

/** What was built of a source file of the server, by its name. Throws where the build is older than a source. */
export async function builtServer() {
  modules ??= await read();
  return (file) => {
    const found = modules.get(file);
    if (!found) throw new Error(`${file}: not in the build of the server`);
    return found;
  };
}

async function read() {
  const files = readdirSync(SRC, { recursive: true }).filter((f) => f.endsWith('.ts') && !f.endsWith('.d.ts'));
  const built = statSync(join(DIST, '.tsbuildinfo')).mtimeMs;
  const newer = files.filter((f) => statSync(join(SRC, f)).mtimeMs > built);
  if (newer.length > 0)
    throw new Error(`The build of the server is older than ${newer.slice(0, 3).join(', ')}: run npm run build first`);
  const all = new Map();
  for (const f of files)
    if (f !== MAIN) all.set(f, await import(pathToFileURL(join(DIST, f.replace(/\.ts$/, '.js'))).href));
  return all;
}
