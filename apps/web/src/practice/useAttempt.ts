import type { AttemptLine, AttemptView } from '@just-balance/contract';
import useSWR from 'swr';

/** The try that a practice job belongs to; null for a job that is none. */
export function useAttempt(job: { id: string; practice: boolean }): AttemptView | null {
  const { data: lines } = useSWR<AttemptLine[]>(job.practice ? '/practice/attempts' : null);
  const line = lines?.find((l) => l.job === job.id);
  const { data } = useSWR<AttemptView>(line ? `/practice/attempts/${line.id}` : null);
  return data ?? null;
}
