import type { FoundPoint, RecordedEngine } from '@just-balance/core/capture';
import type {
  DoubtfulChannel,
  LayoutChoice,
  Mapping,
  NumberQuestion,
  Separator,
  StepBack,
} from '@just-balance/core/recordingFiles';

/** What passes between the import screen and its worker. Types only. */
export type Look =
  | {
      kind: 'csv';
      delimiter: Separator;
      encoding: string;
      rows: string[][];
      mapping: Mapping;
      /** What has to be said before it can be read. */
      missing: string | null;
      /** Columns whose numbers may mean two things. */
      asks: NumberQuestion[];
    }
  | { kind: 'candump'; lines: string[] }
  | { kind: 'json' }
  | { kind: 'unknown'; message: string };

/** What a person says of a table's layout; what is not said is proposed. */
export interface LayoutSaid extends LayoutChoice {
  delimiter?: Separator;
}

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
  leftOut: { name: string; why: string }[];
  rows: number;
  /** Where the clock of a table steps back: what that means is asked before anything is kept. */
  stepsBack: StepBack[];
  stepsBackCount: number;
  found: FoundPoint[];
  /** Channels that cannot be what they are taken for: nothing is taken from them until it is said that they are. */
  doubts: DoubtfulChannel[];
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
  look(file: File, said?: LayoutSaid): Promise<Look>;
  /** Reads the whole file and keeps it in the worker. Throws an Error whose message is for a person. */
  read(file: File, look: Look, mapping: Mapping | null, engine: RecordedEngine, progress: Progress): Promise<ReadFile>;
  /** Operating points of the file read last, with what has been said of its doubtful channels: those that are right. */
  findAgain(engine: RecordedEngine, right: string[], progress: Progress): Promise<FoundPoint[]>;
  /** The columns of the file read last, deflated, ready to go up. */
  parts(progress: Progress): Promise<ImportPart[]>;
}
