import { api } from './api.ts';
import { showAnswer } from './job.ts';
import { queue, queuePost } from './queue.ts';

/** Writes to one job, paths below it. Once one is through, what it answered stands on every screen that shows the job. */
export function ofJob(jobId: string) {
  const job = `/jobs/${jobId}`;
  const shown = async <T>(path: string, write: Promise<T>): Promise<T> => {
    const answer = await write;
    await showAnswer(jobId, path, answer);
    return answer;
  };
  return {
    post: <T>(path: string, body: unknown) => shown(path, api.post<T>(job + path, body)),
    patch: <T>(path: string, body: unknown) => shown(path, api.patch<T>(job + path, body)),
    put: <T>(path: string, body: unknown) => shown(path, api.put<T>(job + path, body)),
    /** Through the outbox: kept on this device first, sent and shown when the server answers. */
    queue: (label: string, path: string, body: unknown) => queuePost(jobId, label, job + path, body),
    /** Several that belong together, in order: all are kept or none, and what is refused holds back what follows. */
    queueAll: async (writes: readonly { label: string; path: string; body: unknown }[]): Promise<void> => {
      const { refused } = await queue(
        writes.map(({ label, path, body }) => ({
          jobId,
          label,
          method: 'POST',
          path: job + path,
          body: JSON.stringify(body),
        })),
      );
      if (refused !== null) throw new Error(refused);
    },
  };
}
