import type { Procedure, RunEvent } from '@just-balance/core/procedures';
import type { EntryData, EntryKind } from '../service/index.ts';

/** A run of a service procedure: what is followed, and what has happened. Its state is `runState` of both. */
export interface RunView {
  id: string;
  at: string;
  by: string;
  procedure: Procedure;
  events: RunEvent[];
}

interface EntryOf<K extends EntryKind> {
  id: string;
  rev: number;
  at: string;
  by: string;
  undone: boolean;
  kind: K;
  data: EntryData[K];
}
/** A part, a decision, how a cleaning turned out, a figure of the vehicle, a connector's pair readings. */
export type EntryView = { [K in EntryKind]: EntryOf<K> }[EntryKind];

export interface PhotoView {
  id: string;
  rev: number;
  at: string;
  by: string;
  undone: boolean;
  run: string | null;
  step: string | null;
  label: string;
  /** The shop's picture of a good part. */
  good: boolean;
  width: number;
  height: number;
  bytes: number;
}

/** A procedure of the shop. */
/** Something of a shop's own that is kept as text. */
export interface OwnView<T> {
  id: string;
  rev: number;
  at: string;
  by: string;
  undone: boolean;
  /** The id of what it was made from. */
  copiedFrom: string | null;
  procedure: T;
}

/** A version of one of the shop's own. */
export interface OwnVersionView {
  rev: number;
  by: string;
  title: string;
}

export type OwnProcedureView = OwnView<Procedure>;

/** How this shop's cleanings of a kind of part have turned out. */
export interface CleaningOutcomes {
  part: string;
  held: number;
  failed: number;
}
