export { ColumnError } from './byteReader.ts';
export { COLUMN_MAX_SAMPLES, type Column, decodeColumn, encodeColumn } from './column.ts';
export { ColumnCursor } from './columnCursor.ts';
export { covered, type Gap, gapsOf, LEAST_GAP_S, thinned } from './gaps.ts';
export { heldAt, heldIndex, holdOnto } from './hold.ts';
export { type Level, type MinMax, pyramid, reduce } from './pyramid.ts';
export {
  between,
  type Channel,
  ChannelBuilder,
  Clock,
  indexAt,
  type Mark,
  type Series,
  TextBuilder,
  type TextChannel,
} from './series.ts';
export { median, statistics } from './statistics.ts';
