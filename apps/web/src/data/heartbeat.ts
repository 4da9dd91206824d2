/** The other end is asked so often whether it is there. Two unanswered are at most five seconds: then it is said. [house] */
const BEAT_MS = 1500;
const UNANSWERED = 2;

/**
 * A network that is frozen closes no socket: what it carries just stops. Asks the other end every second and a half, and says once
 * that it is gone where two in a row stay without an answer. A page in the background is woken seldom: only what was asked
 * counts, not the time.
 */
export function heartbeat(parts: {
  ask: () => void;
  gone: () => void;
  often: (f: () => void, ms: number) => () => void;
}): { heard: () => void; stop: () => void } {
  let open = 0;
  const stop = parts.often(() => {
    if (open >= UNANSWERED) {
      stop();
      parts.gone();
      return;
    }
    open++;
    parts.ask();
  }, BEAT_MS);
  return {
    heard: () => {
      open = 0;
    },
    stop,
  };
}

/** By the timers of this browser. */
export function byInterval(f: () => void, ms: number): () => void {
  const timer = setInterval(f, ms);
  return () => clearInterval(timer);
}
