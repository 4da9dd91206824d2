import type { ClientMessage } from './responses.ts';

const ID = /^[0-9a-f-]{36}$/i;

/** A frame from a screen as a message, or what is wrong with it. Never throws. */
export function readClientMessage(text: string): ClientMessage | string {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    return 'not JSON';
  }
  if (json === null || typeof json !== 'object') return 'unknown message';
  const { type, jobId } = json as Record<string, unknown>;
  if (type !== 'subscribe' && type !== 'unsubscribe') return 'unknown message';
  if (typeof jobId !== 'string' || !ID.test(jobId)) return 'no such job in this shop';
  return { type, jobId };
}
