import { type VehicleRecordData } from '@just-balance/core/link';
import { type Define, id, json, Owned, rev, shopId, uuid } from './columns.ts';

/** Records from before something was read lack it. */
export interface RecordData extends Partial<Pick<VehicleRecordData, 'cycleBytes' | 'sensors' | 'counters' | 'tests'>> {
  phase: 'before' | 'after';
  source: 'link' | 'hand';
  codes: { code: string; state: 'stored' | 'pending' | 'permanent' }[];
  lampOn: boolean;
  monitorBytes: string | null;
  freezeFrame: { name: string; value: number | string; unit: string }[];
  vin: string | null;
  warmupsSinceClear: number | null;
  distanceSinceClearKm: number | null;
}

export class VehicleRecord extends Owned {
  declare jobId: string;
  declare rev: number;
  declare data: RecordData;
}

export function defineRecords(define: Define): void {
  define(VehicleRecord, 'vehicle_record', { id, shopId, jobId: uuid, rev, data: json });
}
