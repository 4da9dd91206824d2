import type { EntryView } from '@just-balance/contract';
import type { ResetEntry } from '@just-balance/contract/service';
import { fromHex } from '@just-balance/core/can';
import { readVehicleRecord } from '@just-balance/core/link';
import { decodeMonitors } from '@just-balance/core/obd';
import { BadRequestException, ConflictException, Injectable, ServiceUnavailableException } from '@nestjs/common';
import { v7 as uuidv7 } from 'uuid';
import { conflict } from '../common/errors.ts';
import { KeyedMutex } from '../common/mutex.ts';
import type { Actor } from '../common/request.ts';
import { appendEvent } from '../jobs/events.ts';
import { entryView } from '../jobs/rowViews.ts';
import { JobWrites } from '../jobs/write.ts';
import { LinksService, READY_MS } from '../links/links.service.ts';
import { RecordsService } from '../records/records.service.ts';
import { type Job } from '../rows/jobs.ts';
import { ReadingRow } from '../rows/readings.ts';
import { VehicleRecord } from '../rows/records.ts';
import { ServiceEntry } from '../rows/service.ts';

/** Units write their memory before they answer right again, ms. [house] */
const SETTLE_MS = 800;
/** A long-term trim this far from 0 would have gone with the codes, percentage points. [house] */
const TELLS_PCT = 3;
/** Refusals in words. ISO 14229-1 negative response codes (from memory). */
const REFUSALS: Readonly<Record<number, string>> = {
  17: 'the vehicle does not know this service',
  18: 'the vehicle does not support it this way',
  34: 'conditions are not right: key on, engine off, standing still',
  49: 'the request is out of range',
  51: 'the vehicle asks for access that a generic tool does not have',
  120: 'the vehicle asked for more time and did not come back',
};

/** Clearing: only when what it wipes is on record, and never without reading again what is left. */
@Injectable()
export class ClearingService {
  private readonly turns = new KeyedMutex();

  constructor(
    private readonly jobs: JobWrites,
    private readonly records: RecordsService,
    private readonly links: LinksService,
  ) {}

  clear(who: Actor, job: Job, id: string): Promise<EntryView> {
    return this.turns.run(job.id, () => this.once(who, job, id));
  }

  private async once(who: Actor, job: Job, id: string): Promise<EntryView> {
    const before = await ServiceEntry.findByPk(id);
    if (before) {
      if (before.shopId !== who.shopId || before.jobId !== job.id) throw conflict('this id', null);
      return entryView(before);
    }
    await this.mayClear(job);
    await this.links.open(job.shopId, job.id, job.adapter!);
    if (!(await this.links.waitReady(job.id, READY_MS)))
      throw new ServiceUnavailableException({
        statusCode: 503,
        message: 'the vehicle does not answer: key on? Nothing was cleared.',
      });
    const ask = (payload: readonly number[], engineOnly?: boolean) => this.links.ask(job.id, payload, engineOnly);
    const rpm = await this.number(job.id, 0x0c);
    if (rpm !== null && rpm > 0)
      throw new ConflictException({
        statusCode: 409,
        message: 'the engine runs: switch it off, then key on without starting. Nothing was cleared.',
      });
    const read = async (phase: 'before' | 'after') => {
      const data = await readVehicleRecord(ask);
      return data && { phase, source: 'link' as const, ...data };
    };
    const record = await read('before');
    if (!record)
      throw new ServiceUnavailableException({
        statusCode: 503,
        message: 'the vehicle stopped answering before its record was read; nothing was cleared',
      });
    // On disk before anything is wiped.
    await this.records.add(who, job.id, uuidv7(), record);
    const longBefore = await this.longTerm(job.id);
    const answers = (await this.links.clear(job.id)) ?? [];
    const refusal = answers.find((a) => a.payload[0] === 0x7f);
    const cleared = answers.some((a) => a.payload[0] === 0x44);
    if (!cleared && !refusal)
      throw new ServiceUnavailableException({
        statusCode: 503,
        message: 'the vehicle did not answer the clearing: whether it cleared is not known. Read its record again.',
      });
    const code = refusal?.payload[2] ?? 0;
    const refused = cleared
      ? null
      : (REFUSALS[code] ?? `the vehicle refused (code ${code.toString(16).toUpperCase()})`);
    await new Promise((r) => setTimeout(r, SETTLE_MS));
    const after = await read(cleared ? 'after' : 'before');
    if (after && cleared) await this.records.add(who, job.id, uuidv7(), after);
    const longAfter = await this.longTerm(job.id);
    const open = (r: VehicleRecord['data'] | null) =>
      r?.monitorBytes
        ? decodeMonitors(fromHex(r.monitorBytes)!)
            .monitors.filter((m) => m.state === 'incomplete')
            .map((m) => m.id as string)
        : [];
    const stood = longBefore.filter((b) => Math.abs(b.longPct) >= TELLS_PCT);
    const data: ResetEntry = {
      refused,
      codesBefore: record.codes.length,
      codesAfter: after ? after.codes.length : null,
      openedMonitors: open(after).filter((m) => !open(record).includes(m)),
      before: longBefore,
      after: longAfter,
      adaptationKept:
        !cleared || stood.length === 0
          ? null
          : stood.some((b) => {
              const now = longAfter.find((a) => a.bank === b.bank);
              return now !== undefined && Math.abs(now.longPct - b.longPct) < Math.abs(b.longPct) / 2;
            }),
    };
    return this.jobs.write(
      who,
      job.id,
      async (_, transaction) => {
        const entry = await ServiceEntry.create(
          { id, shopId: job.shopId, jobId: job.id, rev: 1, undone: false, by: who.name, kind: 'reset', data },
          { transaction },
        );
        await appendEvent(who, job.id, refused === null ? 'cleared' : 'clear-refused', { ...data }, transaction);
        return entryView(entry);
      },
      { resources: ['entries', 'records'] },
    );
  }

  private async mayClear(job: Job): Promise<void> {
    const where = { jobId: job.id, shopId: job.shopId };
    const missing: string[] = [];
    const records = await VehicleRecord.findAll({ where });
    if (!records.some((r) => r.data?.phase === 'before')) missing.push('codes, freeze frame and monitors');
    const readings = await ReadingRow.findAll({ where: { ...where, phase: 'before' } });
    if (readings.length === 0) missing.push('readings with the trims');
    if (missing.length > 0)
      throw new ConflictException({
        statusCode: 409,
        message: `nothing is cleared before it is kept: ${missing.join(' and ')} of this visit are not on record yet`,
      });
    if (!job.adapter)
      throw new BadRequestException({
        statusCode: 400,
        message: 'adapter: choose one first. With your own tool: keep the record first, clear there, read again here.',
      });
  }

  private async number(jobId: string, pid: number): Promise<number | null> {
    const decoded = ((await this.links.ask(jobId, [0x01, pid])) ?? []).flatMap((a) => a.decoded);
    const d = decoded.find((x) => typeof x.value === 'number' && x.name !== 'negativeResponse');
    return typeof d?.value === 'number' ? d.value : null;
  }

  /** Long-term trims as they stand, PID 07 and 09. */
  private async longTerm(jobId: string): Promise<{ bank: 1 | 2; longPct: number }[]> {
    const out: { bank: 1 | 2; longPct: number }[] = [];
    for (const [bank, pid] of [
      [1, 0x07],
      [2, 0x09],
    ] as const) {
      const longPct = await this.number(jobId, pid);
      if (longPct !== null) out.push({ bank, longPct: Math.round(longPct * 100) / 100 });
    }
    return out;
  }
}
