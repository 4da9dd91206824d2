import { type AttemptView, ROUTES } from '@just-balance/contract';
import { useRead } from '../data/reads.ts';

/** The try that a practice job belongs to; null for a job that is none. */
export function useAttempt(job: { id: string; practice: boolean }): AttemptView | null {
  const { data: lines } = useRead(job.practice ? ROUTES.attempts : null);
  const line = lines?.find((l) => l.job === job.id);
  const { data } = useRead(line ? ROUTES.attempt(line.id) : null);
  return data ?? null;
}
