import type { VehicleIdentity } from '@just-balance/core/link';
import { modelYear } from '@just-balance/core/obd';
import type { VehicleForm } from './vehicleForm.ts';

/** What the vehicle said of itself as fields of its card, and in one sentence what was taken from it and what was not. */
export function fromVehicle(v: VehicleIdentity): { card: Partial<VehicleForm>; words: string } {
  const year = v.vin ? modelYear(v.vin, new Date().getFullYear() + 1) : null;
  const count = (bank: number) => v.sensors?.filter((s) => s.bank === bank).length ?? 0;
  const took = [
    v.vin && 'VIN',
    year !== null && 'model year by its tenth character',
    v.fuel && `fuel (${v.fuel})`,
    v.sensors && 'oxygen sensors',
    v.banks && `${v.banks === 2 ? 'two banks' : 'one bank'}`,
    v.metering && 'how its air is metered',
  ].filter(Boolean);
  const not = [!v.vin && 'no VIN', v.fuelName && !v.fuel && `fuel: ${v.fuelName}, which is not judged here`].filter(
    Boolean,
  );
  return {
    card: {
      ...(v.vin ? { vin: v.vin } : {}),
      ...(year === null ? {} : { year: String(year) }),
      ...(v.fuel ? { fuel: v.fuel } : {}),
      ...(v.banks ? { banks: v.banks === 2 ? '2' : '1' } : {}),
      ...(v.metering ? { metering: v.metering } : {}),
      ...(v.sensors
        ? {
            sensors1: count(1) ? String(count(1)) : '',
            sensors2: count(2) ? String(count(2)) : '',
            wide: v.sensors.some((s) => s.wide),
          }
        : {}),
    },
    words: `Read from the vehicle: ${took.join(', ')}${not.length > 0 ? `; ${not.join('; ')}` : ''}. ${
      v.metering === 'both' ? 'It answers for airflow and for pressure: which of them meters its air, look up. ' : ''
    }Displacement and cylinders it does not say.`,
  };
}
