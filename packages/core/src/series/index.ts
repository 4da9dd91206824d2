// Columns

// Forms: capture JSON, CSV, candump
export { CandumpReader, candumpLines, isoOf, unixOf } from './candump.ts';
export { type CaptureRead, readCapture, writeCapture } from './captureFormat.ts';
export { COLUMN_MAX_SAMPLES, type Column, ColumnError, decodeColumn, encodeColumn } from './column.ts';
export { csvLines } from './csv.ts';
// Numbers of a window, and what a strip draws
export { type MinMax, minMax, statistics } from './minMax.ts';
export { type Level, pyramid, reduce } from './pyramid.ts';
export { between, type Channel, ChannelBuilder, indexAt, type Mark, type Series, type TextChannel } from './series.ts';
