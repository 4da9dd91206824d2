/**
 * Service 01 parameters as data. Formulas are linear: value = (raw·scale) + offset over `bytes` starting at `at`
 * of the parameter's data. Source of every row: SAE J1979 (ISO 15031-5), from memory unless a test says otherwise.
 */
export interface Element {
  /** Capture id where there is one (CONTRACT), else a J1930-style name. */
  id: string;
  label: string;
  unit: string;
  at: number;
  bytes: 1 | 2 | 4;
  scale: number;
  offset: number;
  /** Two's complement raw value. */
  signed?: boolean;
  /** Raw value that means "not used": no row. */
  absent?: number;
  /** Bit of the parameter's first byte that says whether this value is there. */
  supportBit?: number;
  /** Bit mask applied to the raw value before scaling. */
  kind?: 'number' | 'hex' | 'enum';
  texts?: Record<number, string>;
}

/** A parameter of service 01 with the channels its bytes carry (SAE J1979-DA). */
export interface Pid {
  pid: number;
  length: number;
  name: string;
  elements: Element[];
}

type Opt = Partial<Omit<Element, 'id' | 'label' | 'unit'>>;
export const el = (id: string, label: string, unit: string, opt: Opt = {}): Element => ({
  id,
  label,
  unit,
  at: 0,
  bytes: 1,
  scale: 1,
  offset: 0,
  ...opt,
});
export const one = (pid: number, length: number, e: Element): Pid => ({ pid, length, name: e.label, elements: [e] });
export const PCT = 100 / 255;
export const trim = (id: string, label: string): Element => el(id, label, '%', { scale: 100 / 128, offset: -100 });
export const temp = (id: string, label: string): Element => el(id, label, '°C', { offset: -40 });
export const narrow = (pid: number, bank: number, sensor: number): Pid => ({
  pid,
  length: 2,
  name: `O2 sensor voltage, bank ${bank} sensor ${sensor}`,
  elements: [
    el(`o2s${bank}${sensor}`, `O2 sensor voltage, bank ${bank} sensor ${sensor}`, 'V', { scale: 0.005 }),
    el(sensor === 1 ? `stft${bank}` : `stft${bank}${sensor}`, `Short term fuel trim, bank ${bank}`, '%', {
      at: 1,
      scale: 100 / 128,
      offset: -100,
      absent: 0xff,
    }),
  ],
});
export const wide = (pid: number, bank: number, sensor: number, second: 'V' | 'mA'): Pid => ({
  pid,
  length: 4,
  name: `Wide-range O2 sensor, bank ${bank} sensor ${sensor}`,
  elements: [
    el(`lambda${bank}${sensor}`, `Lambda, bank ${bank} sensor ${sensor}`, 'λ', { bytes: 2, scale: 2 / 65536 }),
    second === 'V'
      ? el(`o2sWide${bank}${sensor}`, `Wide-range O2 sensor voltage`, 'V', { at: 2, bytes: 2, scale: 8 / 65536 })
      : el(`pumpCurrent${bank}${sensor}`, `Wide-range O2 sensor current`, 'mA', {
          at: 2,
          bytes: 2,
          scale: 1 / 256,
          offset: -128,
        }),
  ],
});

export const hex = (id: string, label: string, bytes: 1 | 2 | 4): Element => el(id, label, '', { bytes, kind: 'hex' });
/** Secondary oxygen sensor trim: this bank, and a second one two banks on where it is sent. */
export const narrowTrim = (pid: number, id: string, label: string): Pid => one(pid, 2, trim(id, label));
