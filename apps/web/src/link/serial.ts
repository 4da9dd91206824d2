/** What is used of the Web Serial standard (W3C community draft); TypeScript's own library does not know it yet. */
export interface SerialPort {
  readonly readable: ReadableStream<Uint8Array> | null;
  readonly writable: WritableStream<Uint8Array> | null;
  open(options: { baudRate: number }): Promise<void>;
  close(): Promise<void>;
}
interface Serial {
  requestPort(): Promise<SerialPort>;
  getPorts(): Promise<SerialPort[]>;
}

const serial = (): Serial | undefined => (navigator as Navigator & { serial?: Serial }).serial;

/** Why an adapter cannot be used on this device; null where it can. */
export function whyNoSerial(): string | null {
  if (serial()) return null;
  if (!window.isSecureContext)
    return 'This page came without TLS: a browser gives out its serial port only over https, or on the machine itself. Ask for the shop’s https address.';
  return 'This browser has no Web Serial. Browsers built on Chromium have it, on computers and on Android from a recent version on. The adapters of the shop and entry by hand work everywhere.';
}

/** A person chooses the port. Throws where none was chosen. */
export function choosePort(): Promise<SerialPort> {
  const s = serial();
  if (!s) return Promise.reject(new Error(whyNoSerial() ?? 'No serial port.'));
  return s.requestPort().catch(() => {
    throw new Error('No port was chosen.');
  });
}

/** The port a person has chosen before, after a reload; null where there is none, or more than one. */
export async function knownPort(): Promise<SerialPort | null> {
  const ports = (await serial()?.getPorts()) ?? [];
  return ports.length === 1 ? ports[0]! : null;
}
