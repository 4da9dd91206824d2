import { type CanFrame, decodeSlcanFrame, encodeSlcan } from '@just-balance/core/can';

const MAX_LINE = 64;

/** What one slcan client sees of the adapter: channel open or closed, acknowledgements, error bells. */
export class SlcanPort {
  private open = false;
  private line = '';

  constructor(
    private readonly reply: (text: string) => void,
    private readonly transmit: (frame: CanFrame) => void,
  ) {}

  /** Feed bytes from the client, in any segmentation. */
  feed(text: string): void {
    for (const c of text) {
      if (c === '\r') {
        this.command(this.line);
        this.line = '';
      } else if (c !== '\n' && this.line.length < MAX_LINE) this.line += c;
    }
  }

  /** A frame on the bus: shown to the client while its channel is open. */
  deliver(frame: CanFrame): void {
    if (this.open) this.reply(encodeSlcan(frame));
  }

  private command(line: string) {
    const ok = () => this.reply('\r');
    const bell = () => this.reply('\x07');
    switch (line[0]) {
      case undefined:
        return ok();
      case 'O':
        if (this.open) return bell();
        this.open = true;
        return ok();
      case 'C':
        this.open = false;
        return ok();
      case 'S':
        return !this.open && /^S[0-8]$/.test(line) ? ok() : bell();
      case 'V':
        return this.reply('V0100\r');
      case 'N':
        return this.reply('NJB01\r');
      case 'F':
        return this.reply('F00\r');
      case 'Z':
        return /^Z[01]$/.test(line) ? ok() : bell();
      case 'r':
      case 'R':
        // A remote frame asks for data that no unit of a car offers: taken, acknowledged, unanswered.
        return this.open && /^(r[0-9A-Fa-f]{3}|R[0-9A-Fa-f]{8})[0-8]$/.test(line)
          ? this.reply(line[0] === 'r' ? 'z\r' : 'Z\r')
          : bell();
      case 't':
      case 'T': {
        const frame = decodeSlcanFrame(line);
        if (!frame || !this.open) return bell();
        this.reply(line[0] === 't' ? 'z\r' : 'Z\r');
        return this.transmit(frame);
      }
      default:
        return bell();
    }
  }
}
