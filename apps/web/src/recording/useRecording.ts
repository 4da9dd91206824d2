import type { RecordingView } from '@just-balance/contract';
import { type Level, pyramid, type Series } from '@just-balance/core/series';
import { totalChannel } from '@just-balance/core/trims';
import { type Remote, wrap } from 'comlink';
import { useEffect, useMemo, useRef, useState } from 'react';
import useSWR from 'swr';
import { api, said } from '../shared/api.ts';
import type { Columns, LoadedColumn } from './columns.worker.ts';

let worker: Remote<Columns> | null = null;

function columns(): Remote<Columns> {
  worker ??= wrap<Columns>(new Worker(new URL('./columns.worker.ts', import.meta.url), { type: 'module' }));
  return worker;
}

export interface LoadedRecording {
  view: RecordingView | undefined;
  /** Channels loaded so far, with the derived totals. */
  series: Series;
  levels: ReadonlyMap<string, Level[]>;
  loading: boolean;
  problem: string | null;
}

/** A recording's description, and those of its channels that are wanted, decoded off the interface's thread. */
export function useRecording(jobId: string, captureId: string, wanted: readonly string[]): LoadedRecording {
  const { data: view, error } = useSWR<RecordingView>(`/jobs/${jobId}/captures/${captureId}/recording`, api.get);
  const [loaded, setLoaded] = useState<ReadonlyMap<string, LoadedColumn>>(new Map());
  const [problem, setProblem] = useState<string | null>(null);
  const asked = useRef(new Set<string>());
  useEffect(() => {
    for (const id of wanted) {
      const c = view?.channels.find((x) => x.id === id);
      if (!c || asked.current.has(id)) continue;
      asked.current.add(id);
      columns()
        .load(jobId, captureId, id, c.parts)
        .then(
          (column) => setLoaded((old) => new Map(old).set(id, column)),
          (e: unknown) => {
            asked.current.delete(id);
            setProblem(said(e));
          },
        );
    }
  }, [view, wanted, jobId, captureId]);
  const series = useMemo((): Series => {
    const s: Series = { startedAt: view?.startedAt ?? null, channels: [], texts: [], marks: view?.marks ?? [] };
    for (const c of loaded.values()) {
      const about = view?.channels.find((x) => x.id === c.id);
      if (c.value instanceof Float64Array)
        s.channels.push({
          id: c.id,
          unit: about?.unit ?? '',
          ...(about?.quantum == null ? {} : { quantum: about.quantum }),
          time: c.time,
          value: c.value,
        });
      else s.texts!.push({ id: c.id, time: c.time, value: c.value });
    }
    for (const bank of [1, 2] as const) {
      const total = totalChannel(s, bank);
      if (total) s.channels.push(total);
    }
    return s;
  }, [loaded, view]);
  const levels = useMemo(
    () =>
      new Map(
        series.channels.map((c) => [c.id, loaded.get(c.id)?.levels ?? pyramid(c.time, c.value)] as [string, Level[]]),
      ),
    [series, loaded],
  );
  const loading = !view || wanted.some((id) => view.channels.some((c) => c.id === id) && !loaded.has(id));
  return { view, series, levels, loading, problem: problem ?? (error ? said(error) : null) };
}
