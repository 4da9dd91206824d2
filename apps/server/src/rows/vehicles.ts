import { type VehicleRequest } from '@just-balance/contract';
import { type Define, id, json, Owned, rev, shopId } from './columns.ts';

export class Vehicle extends Owned {
  declare rev: number;
  declare data: VehicleRequest;
}

export function defineVehicles(define: Define): void {
  define(Vehicle, 'vehicle', { id, shopId, rev, data: json });
}
