import { mutate } from 'swr';
import { api } from './api.ts';
import { queuePost } from './queue.ts';

/** Writes to one job, paths below it. Once one is through, everything on screen that shows the job has it. */
export function ofJob(jobId: string) {
  const job = `/jobs/${jobId}`;
  const shown = async <T>(answer: Promise<T>): Promise<T> => {
    const value = await answer;
    await mutate(job);
    return value;
  };
  return {
    post: <T>(path: string, body: unknown) => shown(api.post<T>(job + path, body)),
    patch: <T>(path: string, body: unknown) => shown(api.patch<T>(job + path, body)),
    put: <T>(path: string, body: unknown) => shown(api.put<T>(job + path, body)),
    /** Through the outbox: kept on this device first, sent when the server answers. */
    queue: (label: string, path: string, body: unknown) => shown(queuePost(jobId, label, job + path, body)),
  };
}
