import { type RecordingView, ROUTES } from '@just-balance/contract';
import { type Channel, type Level, pyramid, type Series, type TextChannel } from '@just-balance/core/series';
import { totalChannel } from '@just-balance/core/trims';
import { type Remote, wrap } from 'comlink';
import { useEffect, useMemo, useRef, useState } from 'react';
import { said } from '../data/api.ts';
import { useRead } from '../data/reads.ts';
import type { Columns } from './columns.worker.ts';

let worker: Remote<Columns> | null = null;

function columns(): Remote<Columns> {
  worker ??= wrap<Columns>(new Worker(new URL('./columns.worker.ts', import.meta.url), { type: 'module' }));
  return worker;
}

type Loaded = { channel: Channel; levels: Level[] } | { text: TextChannel };

export interface LoadedRecording {
  view: RecordingView | undefined;
  /** Channels loaded so far, with the derived totals. A channel once loaded stays the same object. */
  series: Series;
  levels: ReadonlyMap<string, Level[]>;
  loading: boolean;
  problem: string | null;
}

/** A recording's description, and those of its channels that are wanted, decoded off the interface's thread. */
export function useRecording(jobId: string, captureId: string, wanted: readonly string[]): LoadedRecording {
  const { data: view, error } = useRead(ROUTES.recording(jobId, captureId));
  const [loaded, setLoaded] = useState<ReadonlyMap<string, Loaded>>(new Map());
  const [problem, setProblem] = useState<string | null>(null);
  const asked = useRef(new Set<string>());
  useEffect(() => {
    const missing = (view?.channels ?? []).filter((c) => wanted.includes(c.id) && !asked.current.has(c.id));
    if (missing.length === 0) return;
    for (const c of missing) asked.current.add(c.id);
    const load = async (c: RecordingView['channels'][number]): Promise<readonly [string, Loaded]> => {
      const { id, time, value, levels } = await columns().load(jobId, captureId, c.id, c.parts);
      if (!(value instanceof Float64Array)) return [id, { text: { id, time, value } }];
      const quantum = c.quantum === null ? {} : { quantum: c.quantum };
      return [id, { channel: { id, unit: c.unit, ...quantum, time, value }, levels }];
    };
    // Shown together: one drawing, not one per channel.
    Promise.all(missing.map(load)).then(
      (all) => setLoaded((old) => new Map([...old, ...all])),
      (e: unknown) => {
        for (const c of missing) asked.current.delete(c.id);
        setProblem(said(e));
      },
    );
  }, [view, wanted, jobId, captureId]);

  const channelOf = (id: string) => {
    const hit = loaded.get(id);
    return hit && 'channel' in hit ? hit.channel : undefined;
  };
  const total1 = useTotal(1, channelOf('stft1'), channelOf('ltft1'));
  const total2 = useTotal(2, channelOf('stft2'), channelOf('ltft2'));
  const series = useMemo((): Series => {
    const s: Series = { startedAt: view?.startedAt ?? null, channels: [], texts: [], marks: view?.marks ?? [] };
    for (const c of loaded.values()) {
      if ('channel' in c) s.channels.push(c.channel);
      else s.texts!.push(c.text);
    }
    for (const t of [total1, total2]) if (t) s.channels.push(t.channel);
    return s;
  }, [loaded, view, total1, total2]);
  const levels = useMemo(() => {
    const all = new Map<string, Level[]>();
    for (const [id, c] of loaded) if ('levels' in c) all.set(id, c.levels);
    for (const t of [total1, total2]) if (t) all.set(t.channel.id, t.levels);
    return all;
  }, [loaded, total1, total2]);
  const loading = !view || wanted.some((id) => view.channels.some((c) => c.id === id) && !loaded.has(id));
  return { view, series, levels, loading, problem: problem ?? (error ? said(error) : null) };
}

/** Short plus long of a bank, made once. */
function useTotal(bank: 1 | 2, short: Channel | undefined, long: Channel | undefined) {
  return useMemo(() => {
    if (!short) return null;
    const channel = totalChannel({ channels: long ? [short, long] : [short] }, bank);
    return channel && { channel, levels: pyramid(channel.time, channel.value) };
  }, [bank, short, long]);
}
