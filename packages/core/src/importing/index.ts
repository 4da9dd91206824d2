export { loopOf, numberOf, secondsOf, type TimeFormat, timeFormatOf } from './cells.ts';
export { convertible, type Role, roleOf, unitOfChannel, unitWord } from './headers.ts';
export { type ImportSummary, type Mapping, type Proposal, propose, separatorOf, TableReader } from './table.ts';
