export { CandumpReader, candumpLines, carrierOf, framesOf } from './candump.ts';
export { type CaptureRead, captureHead, readCapture, writeCapture } from './captureJson.ts';
export { csvCell, csvHead, csvLines } from './csv.ts';
export { loopOf, numberOf, secondsOf, type TimeFormat, timeFormatOf } from './table/cells.ts';
export { convertible, type Role, roleOf, unitOfChannel, unitWord } from './table/headers.ts';
export { type ImportSummary, type Mapping, type Proposal, propose, separatorOf, TableReader } from './table/table.ts';
