import { WRITES } from '@just-balance/contract';
import { useState } from 'react';
import { api } from '../../data/api.ts';
import { useAction } from '../../ui/useAction.ts';
import { fromVehicle } from './fromVehicle.ts';
import type { VehicleForm } from './vehicleForm.ts';

/** The vehicle asked what it is, over an adapter: `take` is given what it said, `heard` says it in a sentence until it is forgotten. */
export function useAskVehicle(take: (card: Partial<VehicleForm>) => void) {
  const [heard, setHeard] = useState<string | null>(null);
  const { busy, trouble, run } = useAction();
  const ask = (adapter: string | null) =>
    run(async () => {
      if (adapter === null) throw new Error('Choose an adapter first.');
      const { card, words } = fromVehicle(await api.send(WRITES.identify, { adapter }));
      take(card);
      setHeard(words);
    });
  return { ask, asking: busy, askTrouble: trouble, heard, forget: () => setHeard(null) };
}
