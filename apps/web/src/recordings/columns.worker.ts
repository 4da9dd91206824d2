import { type Channel, decodeColumn, type Level, pyramid } from '@just-balance/core/series';
import { expose, transfer } from 'comlink';

/** A channel as the charts take it. */
export interface LoadedColumn {
  id: string;
  time: Float64Array;
  value: Float64Array | string[];
  levels: Level[];
}

async function part(address: string): Promise<ReturnType<typeof decodeColumn>> {
  const r = await fetch(address);
  if (!r.ok) throw new Error(`the server answered ${r.status} for a channel`);
  return decodeColumn(new Uint8Array(await r.arrayBuffer()));
}

export const columns = {
  /** Fetch, decode and join the parts of a channel, with its min/max pyramid. */
  async load(jobId: string, captureId: string, id: string, parts: number): Promise<LoadedColumn> {
    const at = `/api/jobs/${jobId}/captures/${captureId}/columns/${encodeURIComponent(id)}`;
    const pieces = [];
    for (let k = 0; k < parts; k++) pieces.push(await part(`${at}?part=${k}`));
    const n = pieces.reduce((s, p) => s + p.time.length, 0);
    const time = new Float64Array(n);
    let from = 0;
    for (const p of pieces) {
      time.set(p.time, from);
      from += p.time.length;
    }
    if (pieces.some((p) => Array.isArray(p.value)))
      return { id, time, value: pieces.flatMap((p) => p.value as string[]), levels: [] };
    const value = new Float64Array(n);
    from = 0;
    for (const p of pieces) {
      value.set(p.value as Float64Array, from);
      from += p.value.length;
    }
    const levels = pyramid(time, value);
    return transfer({ id, time, value, levels }, [
      time.buffer,
      value.buffer,
      ...levels.flatMap((l) => [l.time.buffer, l.end.buffer, l.min.buffer, l.max.buffer]),
    ]);
  },
};

export type Columns = typeof columns;
/** What a chart draws of a channel. */
export type Drawn = Channel & { levels: Level[] };

expose(columns);
