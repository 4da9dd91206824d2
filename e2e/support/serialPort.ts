import type { Browser } from './app.ts';

/** A simulated vehicle of its own, and a serial port of the page that is wired to it: scripts/lib/pagePort.mjs. */
export interface PagePort {
  vehicle(command: Record<string, unknown>): Promise<unknown>;
  /** Pull the plug, or put it back. */
  plugged(on: boolean): void;
  stop(): Promise<void>;
}

export const { pagePort } = (globalThis as unknown as { jb: { pagePort(browser: Browser): Promise<PagePort> } }).jb;
