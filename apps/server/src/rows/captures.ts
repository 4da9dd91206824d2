import { type CaptureCommand, type CaptureStatus, type ImportSummary } from '@just-balance/contract';
import { type SetAside } from '@just-balance/core/link';
import { type Mark } from '@just-balance/core/series';
import { DataTypes, Model } from 'sequelize';
import { count, type Define, id, json, Owned, shopId, text, uuid } from './columns.ts';

/** What a capture is beside its samples. Times in s from its start, wall-clock times in ms since 1970. */
interface CaptureMeta {
  /** Free recording of one channel alone. */
  only?: string;
  /** The good window of a guided capture. */
  window?: { fromMs: number; toMs: number };
  /** Time of the first sample, once the rows are columns; 0 where nobody knows. */
  startedAtMs?: number;
  seconds?: number;
  /** Frames that did not count while it ran, by “unit: reason”. */
  setAside?: SetAside;
  gaps?: { from: number; to: number }[];
  marks?: Mark[];
  /** Of an import: what was read and what was left out. */
  summary?: ImportSummary;
}

/** `receiving`: an import whose columns are still coming up; nobody sees it before it is whole. */
export class Capture extends Owned {
  declare jobId: string;
  declare at: string;
  declare phase: 'before' | 'after';
  declare state: 'running' | 'done' | 'stopped' | 'failed' | 'receiving';
  declare source: 'link' | 'import';
  declare name: string | null;
  declare gaps: number;
  declare endedAt: Date | null;
  /** Where its samples lie: a row a second, or packed by channel once it has ended. */
  declare form: 'rows' | 'columns';
  declare meta: CaptureMeta | null;
  /** Where it stands, for the screens of other servers; written after every committed second. */
  declare status: CaptureStatus | null;
  /** Of an import: what has come up so far. */
  declare receivedSamples: number;
  declare receivedBytes: number;
  declare receivedParts: number;
  /** What another server was asked to do with it; its owner does it and takes it away. */
  declare command: { command: CaptureCommand['command']; by: string; accountId: string } | null;
}

/** A channel of an ended capture, or a part of it: `encodeColumn`'s bytes, deflated. */
export class CaptureColumn extends Model {
  declare captureId: string;
  declare channel: string;
  declare part: number;
  declare shopId: string;
  declare unit: string;
  declare quantum: number | null;
  declare kind: 'number' | 'text';
  declare n: number;
  declare fromS: number;
  declare toS: number;
  declare data: Buffer;
}

/** What was on the bus while a capture ran, some seconds of it: `packFrames`' bytes, deflated. */
export class CaptureFrames extends Model {
  declare captureId: string;
  declare epoch: number;
  declare seq: number;
  declare shopId: string;
  /** Wall-clock time of the first, ms since 1970. */
  declare atMs: number;
  declare n: number;
  /** Frames that came and were more than is kept. */
  declare lost: number;
  declare data: Buffer;
}

export class CaptureRow extends Model {
  declare captureId: string;
  declare epoch: number;
  declare seq: number;
  declare shopId: string;
  declare atMs: number;
  declare data: Record<string, [number, number | string][]>;
}

export function defineCaptures(define: Define): void {
  define(Capture, 'capture', {
    id,
    shopId,
    jobId: uuid,
    at: text(20),
    phase: text(8),
    state: text(10),
    gaps: { type: DataTypes.INTEGER, allowNull: false, defaultValue: 0 },
    endedAt: { type: DataTypes.DATE(3) },
    source: { ...text(8), defaultValue: 'link' },
    name: { type: DataTypes.STRING(200) },
    form: { ...text(8), defaultValue: 'rows' },
    meta: { type: DataTypes.JSON },
    status: { type: DataTypes.JSON },
    command: { type: DataTypes.JSON },
    receivedSamples: count,
    receivedBytes: count,
    receivedParts: count,
  });
  define(
    CaptureColumn,
    'capture_column',
    {
      captureId: { ...uuid, primaryKey: true },
      channel: { ...text(60), primaryKey: true },
      part: { type: DataTypes.INTEGER, primaryKey: true },
      shopId,
      unit: text(20),
      quantum: { type: DataTypes.DOUBLE },
      kind: text(8),
      n: { type: DataTypes.INTEGER, allowNull: false },
      fromS: { type: DataTypes.DOUBLE, allowNull: false },
      toS: { type: DataTypes.DOUBLE, allowNull: false },
      data: { type: DataTypes.BLOB('medium'), allowNull: false },
    },
    false,
  );
  define(
    CaptureFrames,
    'capture_frames',
    {
      captureId: { ...uuid, primaryKey: true },
      epoch: { type: DataTypes.INTEGER, primaryKey: true },
      seq: { type: DataTypes.INTEGER, primaryKey: true },
      shopId,
      atMs: { type: DataTypes.BIGINT, allowNull: false },
      n: { type: DataTypes.INTEGER, allowNull: false },
      lost: count,
      data: { type: DataTypes.BLOB('medium'), allowNull: false },
    },
    false,
  );
  define(
    CaptureRow,
    'capture_row',
    {
      captureId: { ...uuid, primaryKey: true },
      epoch: { type: DataTypes.INTEGER, primaryKey: true },
      seq: { type: DataTypes.INTEGER, primaryKey: true },
      shopId,
      atMs: { type: DataTypes.BIGINT, allowNull: false },
      data: json,
    },
    false,
  );
}
