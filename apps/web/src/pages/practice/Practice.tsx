import type { BayView } from '@just-balance/contract';
import { Link } from 'react-router';
import useSWR from 'swr';
import { useAccount } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { BayControls } from '../../practice/BayControls.tsx';
import { NextStep } from '../../ui/NextStep.tsx';

/** The simulated bays: put a fault in, then work the car as a job. */
export function Practice() {
  const { data: bays, error } = useSWR<BayView[]>('/bays', { refreshInterval: 2000 });
  const account = useAccount();
  return (
    <Frame title="Practice bays" subtitle={account.shop.name} side={<HouseNav current="practice" />}>
      {error || bays?.length === 0 ? (
        <NextStep
          tone="trouble"
          title="The simulated vehicle does not answer"
          why="It starts with the server; real adapters are not affected."
        />
      ) : (
        <NextStep
          title="Put a fault in, then find it"
          why="These cars are simulated: faults act on the physics, the wire and the ECU are as on a vehicle."
        />
      )}
      {bays?.map((b) => (
        <BayControls key={b.bay} bay={b.bay}>
          <Link to={`/new?bay=${b.bay}`} className="btn btn-primary">
            New job on this car
          </Link>
        </BayControls>
      ))}
    </Frame>
  );
}
