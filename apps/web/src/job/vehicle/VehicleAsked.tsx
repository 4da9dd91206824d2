import type { ComponentProps, ReactNode } from 'react';
import { Problem } from '../../ui/Problem.tsx';
import type { useAskVehicle } from './useAskVehicle.ts';
import { VehicleFields } from './VehicleFields.tsx';

/** The card to be filled in, and a button that lets the vehicle say what it can. */
export function VehicleAsked({
  asked: { ask, asking, askTrouble, heard },
  adapter,
  children,
  ...fields
}: ComponentProps<typeof VehicleFields> & {
  asked: ReturnType<typeof useAskVehicle>;
  /** Over which it is asked; nobody where there is none. */
  adapter: string | null;
  /** Beside the button. */
  children: ReactNode;
}) {
  return (
    <>
      <div className="flex flex-wrap items-end justify-between gap-3">
        {children}
        <button type="button" className="btn" disabled={!adapter || asking} onClick={() => ask(adapter)}>
          {asking ? 'Asking…' : 'Read from the vehicle'}
        </button>
      </div>
      <Problem trouble={askTrouble} />
      {heard && (
        <p role="status" className="m-0">
          {heard}
        </p>
      )}
      <VehicleFields {...fields} />
    </>
  );
}
