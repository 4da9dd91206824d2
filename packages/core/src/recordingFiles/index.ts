export { CandumpReader, candumpLines, type LeftOut, LogFrames, type LoggedChannel, logOrigin } from './candump.ts';
export {
  type CaptureRead,
  captureChannel,
  captureHead,
  captureProblem,
  captureTexts,
  readCapture,
  writeCapture,
} from './captureJson.ts';
export { csvCell, csvHead, csvLines } from './csv.ts';
export { type DoubtfulChannel, doubtfulChannels } from './doubtful.ts';
export { type Encoding, encodingOf, isText } from './encoding.ts';
export { convertible, isWords, type Role, roleOf, unitOfChannel, unitWord, writtenUnits } from './table/headers.ts';
export {
  COMMA,
  isNothing,
  type NumberQuestion,
  type NumberStyle,
  numberOf,
  numberStyles,
  POINT,
  plainNumber,
  quantityOf,
} from './table/numbers.ts';
export {
  type BackStep,
  type LayoutChoice,
  type Mapping,
  missingOf,
  namesOf,
  type Proposal,
  propose,
  type Separator,
  separatorOf,
} from './table/propose.ts';
export { type ImportSummary, type StepBack, TableReader } from './table/table.ts';
export { loopOf, secondsOf, TIME_FORMATS, type TimeFormat, timeFormatOf } from './table/times.ts';
