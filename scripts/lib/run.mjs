import { spawn } from 'node:child_process';
import { Trouble } from './say.mjs';

/** Run a command to its end; throws Trouble with the tail of its output when it fails. */
export function run(command, args, { cwd, env, quiet = true, label = command, onChild } = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, {
      cwd,
      env: env ?? process.env,
      stdio: quiet ? ['ignore', 'pipe', 'pipe'] : 'inherit',
    });
    onChild?.(child);
    let tail = '';
    const keep = (d) => {
      tail = (tail + d).slice(-4000);
    };
    child.stdout?.on('data', keep);
    child.stderr?.on('data', keep);
    child.on('error', (e) => reject(new Trouble(`${label}: ${e.message}`)));
    child.on('exit', (code, signal) =>
      code === 0 ? resolve(tail) : reject(new Trouble(`${label} ended with ${code ?? signal}:\n${tail}`)),
    );
  });
}
