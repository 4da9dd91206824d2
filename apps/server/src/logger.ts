import { type Logger, pino } from 'pino';

export const LOGGER = Symbol('logger');

/** Structured logs, one JSON object a line. VINs, names and cookies stay out: only ids and outcomes are logged. */
export function makeLogger(level: string): Logger {
  return pino({
    level,
    base: null,
    redact: ['req.headers.cookie', 'req.headers.authorization', 'res.headers["set-cookie"]'],
  });
}
