import type { HandRecordRequest, RecordChangeRequest, RecordView } from '@just-balance/contract';
import { toHex } from '@just-balance/core/can';
import { encodeMonitors, type MonitorId, type MonitorState } from '@just-balance/core/obd';
import { ConflictException, Injectable } from '@nestjs/common';
import type { Actor } from '../common/request.ts';
import { recordView } from '../jobs/rowViews.ts';
import { readVehicle } from '../jobs/stored.ts';
import { JobWrites } from '../jobs/write.ts';
import { type RecordData, VehicleRecord } from '../rows/records.ts';
import { Vehicle } from '../rows/vehicles.ts';

const RECORDS = { model: VehicleRecord, view: recordView, resource: 'records', kind: 'record' } as const;

/** Codes, lamp, freeze frame and monitors, as the vehicle gave them or as a person read them off. */
@Injectable()
export class RecordsService {
  constructor(private readonly jobs: JobWrites) {}

  list(who: Actor, id: string): Promise<RecordView[]> {
    return this.jobs.rows(who, id, 'record', VehicleRecord, recordView);
  }

  /** One that is kept already under this id; null otherwise. */
  async kept(who: Actor, jobId: string, id: string): Promise<RecordView | null> {
    const row = await VehicleRecord.findOne({ where: { id, jobId, shopId: who.shopId } });
    return row && recordView(row);
  }

  /** A record as the vehicle gave it, or as a person read it off another tool. */
  add(who: Actor, jobId: string, id: string, data: VehicleRecord['data']): Promise<RecordView> {
    const { phase, source } = data;
    const told = { phase, source, codes: data.codes.length };
    return this.jobs.insertOnce(who, jobId, RECORDS, id, async (own) => ({ ...own, rev: 1, data }), told);
  }

  async addByHand(who: Actor, jobId: string, { id, ...body }: HandRecordRequest): Promise<RecordView> {
    const job = await this.jobs.find(who, jobId);
    const vehicle = (await Vehicle.findOne({ where: { id: job.vehicleId, shopId: who.shopId } }))!;
    return this.add(who, jobId, id, typedRecord(body, readVehicle(vehicle).value.fuel));
  }

  correct(who: Actor, jobId: string, id: string, { rev, ...body }: RecordChangeRequest): Promise<RecordView> {
    return this.jobs.change(who, jobId, RECORDS, id, rev, async (row, job, t) => {
      if (row.data.source !== 'hand')
        throw new ConflictException({
          statusCode: 409,
          message: 'this record was read from the vehicle: it stands as it was read',
        });
      return { data: typedRecord(body, (await this.jobs.vehicleOf(job, t)).facts.fuel) };
    });
  }
}

/** A record typed off another tool, as one that was read from the vehicle stands. */
function typedRecord(body: Omit<HandRecordRequest, 'id'>, fuel: 'petrol' | 'diesel'): RecordData {
  const codes = (['stored', 'pending', 'permanent'] as const).flatMap((state) =>
    [...new Set((body[state] ?? []).map((c) => c.trim().toUpperCase()))].map((code) => ({ code, state })),
  );
  const monitors = Object.entries(body.monitors ?? {}) as [MonitorId, MonitorState][];
  return {
    phase: body.phase,
    source: 'hand',
    codes,
    lampOn: body.lampOn,
    monitorBytes:
      monitors.length === 0
        ? null
        : toHex(
            encodeMonitors({
              lampOn: body.lampOn,
              codeCount: Math.min(codes.filter((c) => c.state === 'stored').length, 127),
              ignition: fuel === 'diesel' ? 'compression' : 'spark',
              monitors: monitors.map(([id, state]) => ({ id, state })),
            }),
          ),
    freezeFrame: body.freezeFrame ?? [],
    vin: null,
    warmupsSinceClear: body.warmupsSinceClear ?? null,
    distanceSinceClearKm: body.distanceSinceClearKm ?? null,
    counters: {
      runTimeS: null,
      lampDistanceKm: body.lampDistanceKm ?? null,
      lampMinutes: null,
      minutesSinceClear: body.minutesSinceClear ?? null,
    },
  };
}
