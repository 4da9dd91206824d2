import { type EntryData, type EntryKind } from '@just-balance/contract/service';
import { type Happened, type Procedure } from '@just-balance/core/procedures';
import { count, countOrNull, type Define, flag, id, json, Owned, rev, shopId, text, uuid } from './columns.ts';

/** A run of a service procedure; `data` is what is followed, as it was when the run began. */
export class ServiceRun extends Owned {
  declare jobId: string;
  declare by: string;
  declare data: Procedure;
  /** Where it was asked for with `include`. */
  declare events?: ServiceEvent[];
}

/** What happened in a run; never changed. */
export class ServiceEvent extends Owned {
  declare jobId: string;
  declare runId: string;
  declare by: string;
  declare atMs: number;
  /** Its place among the run's others, where it came at once. */
  declare orderMs: number | null;
  declare data: Happened;
}

/** Parts, decisions, outcomes, figures of the vehicle, pair readings. */
export class ServiceEntry extends Owned {
  declare jobId: string;
  declare rev: number;
  declare undone: boolean;
  declare by: string;
  declare kind: EntryKind;
  declare data: EntryData[EntryKind];
}

export function defineService(define: Define): void {
  const ofJob = { id, shopId, jobId: uuid, by: text(120) };
  define(ServiceRun, 'service_run', { ...ofJob, data: json });
  define(ServiceEvent, 'service_event', { ...ofJob, runId: uuid, atMs: count, orderMs: countOrNull, data: json });
  define(ServiceEntry, 'service_entry', { ...ofJob, rev, undone: flag, kind: text(12), data: json });
  ServiceRun.hasMany(ServiceEvent, { as: 'events', foreignKey: 'runId', constraints: false });
}
