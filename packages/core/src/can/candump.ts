import { type CanFrame, fromHex, idText, toHex } from './frame.ts';

/** A CAN frame with the moment it was logged. */
export interface LoggedFrame extends CanFrame {
  /** Seconds as written in the log. */
  timeText: string;
  iface: string;
}

/** A line of a log: its frame, or why it is none. */
export type CandumpLine = { ok: true; frame: LoggedFrame } | { ok: false; reason: string };

/**
 * One line of a candump log: `(seconds.micros) iface ID#DATA`.
 *
 *   (1436509052.249713) can0 7E8#03410C0BB8 → id 7E8, data 03 41 0C 0B B8
 */
export function parseCandumpLine(line: string): CandumpLine {
  const open = line.indexOf('(');
  const close = line.indexOf(')', open);
  if (open < 0 || close < 0) return bad('no (time) at the start');
  const timeText = line.slice(open + 1, close).trim();
  if (!/^\d+(\.\d+)?$/.test(timeText)) return bad(`time "${timeText}" is not a number of seconds`);
  const rest = line.slice(close + 1).trim();
  const space = rest.search(/\s/);
  if (space < 0) return bad('no interface and frame after the time');
  const iface = rest.slice(0, space);
  const body = rest.slice(space).trim().split(/\s/, 1)[0] ?? '';
  const hash = body.indexOf('#');
  if (hash < 0) return bad('no # between identifier and data');
  const idPart = body.slice(0, hash);
  if (!/^([0-9A-Fa-f]{3}|[0-9A-Fa-f]{8})$/.test(idPart)) return bad(`identifier "${idPart}" is not 3 or 8 hex digits`);
  const dataPart = body.slice(hash + 1);
  if (dataPart.startsWith('#')) return bad('CAN FD frame: OBD uses classic CAN');
  if (dataPart.startsWith('R')) return bad('remote frame carries no data');
  const data = fromHex(dataPart);
  if (!data) return bad(`data "${dataPart.slice(0, 20)}" is not pairs of hex digits`);
  if (data.length > 8) return bad(`${data.length} data bytes: a classic CAN frame holds 8`);
  return { ok: true, frame: { timeText, iface, id: Number.parseInt(idPart, 16), extended: idPart.length === 8, data } };
}

function bad(reason: string): CandumpLine {
  return { ok: false, reason };
}

/** A frame as a candump line, time in integer microseconds. */
export function formatCandumpLine(frame: CanFrame, timeUs: number, iface = 'can0'): string {
  const s = Math.floor(timeUs / 1e6);
  const us = String(timeUs - s * 1e6).padStart(6, '0');
  return `(${s}.${us}) ${iface} ${idText(frame.id, frame.extended)}#${toHex(frame.data)}`;
}
