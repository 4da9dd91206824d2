import type { VehicleSpec } from '../../case/index.ts';
import type { FaultRow } from '../../catalogue/index.ts';

/** Whether a fault can exist on this vehicle. `banks` is the resolved number of banks. */
export function canExist(row: FaultRow, vehicle: VehicleSpec, banks: 1 | 2): boolean {
  return (row.needs ?? []).every((need) => {
    switch (need) {
      case 'maf':
        return vehicle.metering !== 'speed-density';
      case 'map':
        return vehicle.metering !== 'maf';
      case 'turbo':
        return vehicle.induction === 'turbo';
      case 'petrol':
        return vehicle.fuel === 'petrol';
      case 'bank2':
        return banks === 2;
    }
    return true;
  });
}
