import type { FoundPoint, RecordedEngine } from '@just-balance/core/capture';
import type { Mapping } from '@just-balance/core/recordingFiles';

/** What passes between the import screen and its worker. Types only. */
export type Look =
  | { kind: 'csv'; delimiter: string; rows: string[][]; mapping: Mapping }
  | { kind: 'candump'; lines: string[] }
  | { kind: 'json' }
  | { kind: 'unknown'; message: string; rows: string[][] };

export interface ReadChannel {
  id: string;
  unit: string;
  n: number;
  min: number;
  max: number;
}

export interface ReadFile {
  startedAt: string | null;
  durationS: number;
  channels: ReadChannel[];
  /** Lines of what could not be read, the first fifty. */
  problems: string[];
  problemCount: number;
  leftOut: string[];
  rows: number;
  found: FoundPoint[];
}

export interface ImportPart {
  channel: string;
  part: number;
  unit: string;
  quantum: number | null;
  bytes: ArrayBuffer;
}

export type Progress = (step: 'reading' | 'finding points' | 'packing', share: number) => void;

export interface Importer {
  look(file: File): Promise<Look>;
  /** Reads the whole file and keeps it in the worker. Throws an Error whose message is for a person. */
  read(file: File, look: Look, mapping: Mapping | null, engine: RecordedEngine, progress: Progress): Promise<ReadFile>;
  /** The columns of the file read last, deflated, ready to go up. */
  parts(progress: Progress): Promise<ImportPart[]>;
}
