/** Progress lines for a person; one place so that they look alike. */
const started = Date.now();

export function say(text) {
  process.stdout.write(`[${((Date.now() - started) / 1000).toFixed(1).padStart(5)} s] ${text}\n`);
}

/** End with one line that says what to do. */
export class Trouble extends Error {}
