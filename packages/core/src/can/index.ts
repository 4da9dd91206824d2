export { type CandumpLine, formatCandumpLine, type LoggedFrame, parseCandumpLine } from './candump.ts';
export { type CanFrame, fromHex, idText, toHex } from './frame.ts';
export { FrameBatch, MOST_BUS_BYTES, MOST_IN_BATCH, type TakenFrames } from './frameBatch.ts';
export { packFrames, type TimedFrame, unpackFrames } from './frameLog.ts';
export {
  flowControlFrame,
  ISOTP_MAX,
  ISOTP_TIMEOUT_US,
  type IsoTpError,
  type IsoTpReceived,
  IsoTpReceiver,
  segment,
  stMinUs,
} from './isotp.ts';
export { decodeSlcanFrame, encodeSlcan, SLCAN_500K, type SlcanMessage, SlcanReader } from './slcan.ts';
