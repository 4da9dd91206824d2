import { ROUTES } from '@just-balance/contract';
import { Link } from 'react-router';
import { useRead } from '../../data/reads.ts';
import { BayControls } from '../../practice/BayControls.tsx';
import { NextStep } from '../../ui/NextStep.tsx';

/** The simulated bays: put a fault in, then work the car as a job. */
export function Bays() {
  const { data: bays, error } = useRead(ROUTES.bays, { refreshInterval: 2000 });
  if (error || bays?.length === 0)
    return (
      <NextStep
        tone="trouble"
        title="The simulated vehicle does not answer"
        why="It starts with the server; real adapters are not affected."
      />
    );
  return bays?.map((b) => (
    <BayControls key={b.bay} bay={b.bay}>
      <Link to={`/new?bay=${b.bay}`} className="btn btn-primary">
        New job on this car
      </Link>
    </BayControls>
  ));
}
