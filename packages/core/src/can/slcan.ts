import { type CanFrame, fromHex, idText, toHex } from './frame.ts';

/** Bit rate command of slcan: S6 is 500 kbit/s (ISO 15765-4). */
export const SLCAN_500K = 'S6';
/** Longest legal line: T, 8 id digits, 1 length, 16 data digits, 4 timestamp digits. Longer is noise. */
const MAX_LINE = 30;

/**
 * What an adapter sends: a frame, an acknowledgement with its text, a refusal (BEL), or bytes that are none of these.
 */
export type SlcanMessage =
  | { kind: 'frame'; frame: CanFrame }
  | { kind: 'ok'; text: string }
  | { kind: 'error' }
  | { kind: 'junk'; text: string };

/** A frame as an slcan command, with its carriage return. `t7E880341…\r`, `T` for 29-bit identifiers. */
export function encodeSlcan(frame: CanFrame): string {
  return `${frame.extended ? 'T' : 't'}${idText(frame.id, frame.extended)}${frame.data.length}${toHex(frame.data)}\r`;
}

/** The frame in a `t`/`T` line (without its CR); a four-digit timestamp after the data is ignored. Null when malformed. */
export function decodeSlcanFrame(line: string): CanFrame | null {
  const extended = line[0] === 'T';
  if (!extended && line[0] !== 't') return null;
  const idDigits = extended ? 8 : 3;
  const idPart = line.slice(1, 1 + idDigits);
  if (!/^[0-9A-Fa-f]+$/.test(idPart) || idPart.length !== idDigits) return null;
  const length = Number(line[1 + idDigits]);
  if (!(length >= 0 && length <= 8)) return null;
  const start = 2 + idDigits;
  const data = fromHex(line.slice(start, start + 2 * length));
  const after = line.length - start - 2 * length;
  if (!data || data.length !== length || (after !== 0 && after !== 4)) return null;
  const id = Number.parseInt(idPart, 16);
  if (id > (extended ? 0x1fffffff : 0x7ff)) return null;
  return { id, extended, data };
}

/** Cuts a byte stream into slcan messages; keeps at most one unfinished line of bounded length. */
export class SlcanReader {
  private line = '';
  private overflow = false;

  /** Feed received text (bytes as latin-1); returns the complete messages in it. */
  feed(text: string): SlcanMessage[] {
    const out: SlcanMessage[] = [];
    for (const c of text) {
      if (c === '\x07') {
        this.reset();
        out.push({ kind: 'error' });
      } else if (c === '\r') {
        out.push(this.overflow ? { kind: 'junk', text: this.line } : classify(this.line));
        this.reset();
      } else if (c !== '\n') {
        if (this.line.length >= MAX_LINE) this.overflow = true;
        else this.line += c;
      }
    }
    return out;
  }

  private reset() {
    this.line = '';
    this.overflow = false;
  }
}

function classify(line: string): SlcanMessage {
  if (line[0] === 't' || line[0] === 'T') {
    const frame = decodeSlcanFrame(line);
    return frame ? { kind: 'frame', frame } : { kind: 'junk', text: line };
  }
  return { kind: 'ok', text: line };
}
