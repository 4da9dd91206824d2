// Columns

export { ColumnError } from './byteReader.ts';
// Forms: capture JSON, CSV, candump
export { CandumpReader, candumpLines, carrierOf, framesOf, isoOf, unixOf } from './candump.ts';
export { type CaptureRead, captureHead, readCapture, writeCapture } from './captureFormat.ts';
export { COLUMN_MAX_SAMPLES, type Column, decodeColumn, encodeColumn } from './column.ts';
export { ColumnCursor } from './columnCursor.ts';
export { csvCell, csvHead, csvLines } from './csv.ts';
// Numbers of a window, and what a strip draws
export { type MinMax, minMax, statistics } from './minMax.ts';
export { type Level, pyramid, reduce } from './pyramid.ts';
export { between, type Channel, ChannelBuilder, indexAt, type Mark, type Series, type TextChannel } from './series.ts';
