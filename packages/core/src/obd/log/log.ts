import { IsoTpReceiver, idText, parseCandumpLine, toHex } from '../../can/index.ts';
import { type Decoded, decodeResponse } from '../decode.ts';

/** One decoded value of a log: when, by whom, what. */
export interface LogValue extends Decoded {
  /** As the log writes it. */
  timeText: string;
  timeS: number;
  ecu: string;
}

/** As a line of `jb decode`: time, ECU, service and parameter in hex, name, value, unit. */
export function logLine(v: LogValue): string {
  const pid = v.pid === null ? '' : toHex([v.pid]);
  return `${v.timeText}\t${v.ecu}\t${toHex([v.service])}\t${pid}\t${v.name}\t${v.value}\t${v.unit}\n`;
}

/** Frames of a log in, channels out; told when the log is over. */
export interface LogDecoder {
  /** Take one line; returns the values completed by it. Bad lines are counted, not thrown. */
  line(text: string): LogValue[];
  /** Count lines that somebody else has dealt with: good frames with nothing for this decoder. */
  skip(lines: number): void;
  /** Whether a multi-frame message of this 11-bit identifier is under way. */
  busy(id: number): boolean;
  summary(): {
    frames: number;
    badLines: { line: number; reason: string }[];
    badCount: number;
    transportErrors: string[];
  };
}

const KEPT_REASONS = 20;

/** Response identifiers: 7E8–7EF (ISO 15765-4, 11 bit), 18DAF1xx (29 bit). */
export function isResponseId(id: number, extended: boolean): boolean {
  return extended ? id >>> 8 === 0x18daf1 : id >= 0x7e8 && id <= 0x7ef;
}

/** Streaming decoder of a candump log: one value after the other, interleaved ECUs kept apart. */
export function logDecoder(): LogDecoder {
  const receivers = new Map<string, IsoTpReceiver>();
  const byNumber = new Map<number, IsoTpReceiver>();
  const badLines: { line: number; reason: string }[] = [];
  const transportErrors: string[] = [];
  let lineNumber = 0;
  let frames = 0;
  let badCount = 0;
  return {
    skip(lines) {
      lineNumber += lines;
      frames += lines;
    },
    busy: (id) => byNumber.get(id)?.busy ?? false,
    line(text) {
      lineNumber++;
      const trimmed = text.trim();
      if (trimmed === '') return [];
      const parsed = parseCandumpLine(trimmed);
      if (!parsed.ok) {
        badCount++;
        if (badLines.length < KEPT_REASONS) badLines.push({ line: lineNumber, reason: parsed.reason });
        return [];
      }
      frames++;
      const f = parsed.frame;
      if (!isResponseId(f.id, f.extended)) return [];
      const ecu = idText(f.id, f.extended);
      let receiver = receivers.get(ecu);
      if (!receiver) {
        receiver = new IsoTpReceiver();
        receivers.set(ecu, receiver);
        if (!f.extended) byNumber.set(f.id, receiver);
      }
      const values: LogValue[] = [];
      const { timeText } = f;
      const timeS = Number(timeText);
      for (const r of receiver.feed(f.data, Math.round(timeS * 1e6))) {
        if (r.kind === 'error' && transportErrors.length < KEPT_REASONS) {
          transportErrors.push(`line ${lineNumber}, ${ecu}: ${r.error}: ${r.detail}`);
        }
        if (r.kind === 'message')
          // Field by field: a spread here makes the whole decoder several times slower.
          for (const { service, pid, name, value, unit } of decodeResponse(r.payload))
            values.push({ service, pid, name, value, unit, timeText, timeS, ecu });
      }
      return values;
    },
    summary: () => ({ frames, badLines, badCount, transportErrors }),
  };
}
