import type { VehicleRequest } from '@just-balance/contract';
import type { Reading } from '@just-balance/core/case';

/** One job of the demo shop. */
export interface DemoJob {
  by: string;
  vehicle: VehicleRequest;
  adapter: string | null;
  complaint: { story: string; symptoms: string[]; recentWork?: { part: string; days?: number }[] };
  ambient: { baroKPa?: number; airC?: number };
  record?: {
    codes: { code: string; state: 'stored' | 'pending' | 'permanent' }[];
    lampOn: boolean;
    monitorBytes: string;
  };
  before?: Reading[];
  tests?: { id: string; outcome?: string; values?: Record<string, number> }[];
  repair?: { text: string; fault: string; part: string };
  after?: Reading[];
  recordAfter?: { monitorBytes: string };
}
