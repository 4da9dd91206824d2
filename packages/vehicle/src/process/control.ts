/** One line of the control channel. */
export interface ControlCommand {
  id?: number;
  do: string;
  token?: string;
  bay?: number;
  clientPort?: number;
  fault?: string;
  severity?: number;
  on?: boolean;
  rpm?: number;
}

export interface ControlReply {
  ok: boolean;
  error?: string;
  bays?: unknown[];
}

/** Parse a line; anything unreadable becomes a command nobody knows. */
export function readCommand(line: string): ControlCommand {
  try {
    const c = JSON.parse(line) as ControlCommand;
    if (c !== null && typeof c === 'object' && typeof c.do === 'string') return c;
  } catch {
    // answered as unknown below
  }
  return { do: 'unreadable' };
}
