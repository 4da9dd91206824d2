import { accessSync, constants, existsSync } from 'node:fs';
import { delimiter, join } from 'node:path';
import { run } from './run.mjs';
import { say, Trouble } from './say.mjs';

/** Debian packages by what needs them: the program that proves each is there. */
export const DATABASE = [
  { program: 'mariadbd', package: 'mariadb-server-core' },
  { program: 'mariadb-install-db', package: 'mariadb-server-core' },
  { program: 'mariadb', package: 'mariadb-client-core' },
];
export const BROWSER = [
  { program: 'chromium', package: 'chromium' },
  { program: 'chromedriver', package: 'chromium-driver' },
];
/** Programs that read what ours has written, in the tests. */
export const READERS = [
  { program: 'pdftotext', package: 'poppler-utils' },
  { program: 'unzip', package: 'unzip' },
];
export const PEERS = [
  { program: 'tshark', package: 'tshark' },
  { program: 'units', package: 'units' },
  { program: '/usr/lib/python3/dist-packages/can/__init__.py', package: 'python3-can' },
];

const PLACES = [...(process.env.PATH ?? '').split(delimiter), '/usr/sbin', '/usr/local/sbin'];

/** Full path of a program, or null. */
export function which(program) {
  if (program.startsWith('/')) return existsSync(program) ? program : null;
  for (const dir of PLACES) {
    try {
      accessSync(join(dir, program), constants.X_OK);
      return join(dir, program);
    } catch {
      // look further
    }
  }
  return null;
}

/** Install what is missing, as root or with sudo; else say the one command to run. Touches the network only then. */
export async function ensurePrograms(wanted) {
  const packages = [...new Set(wanted.filter((w) => !which(w.program)).map((w) => w.package))];
  if (packages.length === 0) return;
  const command = `apt-get install -y --no-install-recommends ${packages.join(' ')}`;
  const root = process.getuid?.() === 0;
  if (!which('apt-get') || (!root && !which('sudo'))) {
    throw new Trouble(
      `Missing: ${packages.join(', ')}. Run this once as root, then start again:\n  apt-get update && ${command}`,
    );
  }
  const asRoot = (args) => {
    const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
    return root
      ? run('apt-get', args, { env })
      : run('sudo', ['-n', 'DEBIAN_FRONTEND=noninteractive', 'apt-get', ...args], { env });
  };
  say(`installing ${packages.join(', ')} (Debian packages, once)`);
  try {
    await asRoot(['update', '-q']);
    await asRoot(['install', '-y', '-q', '--no-install-recommends', ...packages]);
  } catch (e) {
    throw new Trouble(
      `Could not install ${packages.join(', ')}. Run this once as root, then start again:\n  apt-get update && ${command}\n${e.message}`,
    );
  }
}
