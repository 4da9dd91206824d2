import { ROUTES, WRITES } from '@just-balance/contract';
import { type LearningChoice } from '@just-balance/core/shop';
import { api } from '../../data/api.ts';
import { useMay, useSession } from '../../data/session.tsx';
import { useAction } from '../../ui/useAction.ts';

/** What of the learned is weighed with; the lead alone chooses. */
export function useChoice(changed: () => Promise<unknown>) {
  const lead = useMay('lead');
  const { refresh } = useSession();
  const { busy, trouble, run } = useAction();
  const set = (id: keyof LearningChoice, on: boolean) =>
    run(async () => {
      const { rev, settings } = await api.get(ROUTES.settings);
      await api.send(WRITES.settings, { rev, settings: { ...settings, learning: { ...settings.learning, [id]: on } } });
      await changed();
      await refresh();
    });
  return { lead, busy, trouble, set };
}
