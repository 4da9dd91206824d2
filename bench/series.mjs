import { performance } from 'node:perf_hooks';
import { propose, TableReader } from '@just-balance/core/recordingFiles';
import { reduce } from '@just-balance/core/series';
import Papa from 'papaparse';

const ROWS = 1_000_000;
const WIDE = 9998;
const COLUMNS = ['rpm', 'maf', 'map', 'ect', 'iat', 'stft1', 'ltft1', 'stft2', 'ltft2', 'vss', 'load'];

/** CSV import into typed columns against the CSV library's bare chunked parse; min/max reduction of a long capture. */
export async function measure() {
  const lines = [['time', ...COLUMNS].join(',')];
  for (let i = 0; i < ROWS; i++) lines.push(`${i / 10},${COLUMNS.map((_, k) => ((i * (k + 3)) % 997) / 4).join(',')}`);
  const text = lines.join('\n');
  const parse = (take) =>
    new Promise((resolve) => {
      const start = performance.now();
      Papa.parse(text, {
        chunkSize: 1 << 20,
        delimiter: ',',
        chunk: (r) => take(r.data),
        complete: () => resolve(performance.now() - start),
      });
    });
  let n = 0;
  const bare = await parse((rows) => {
    n += rows.length;
  });
  let reader = null;
  const ours = await parse((rows) => {
    reader ??= new TableReader(propose(rows.slice(0, 60)).mapping);
    for (const r of rows) reader.row(r);
  });
  const samples = reader.finish().channels.reduce((s, c) => s + c.time.length, 0);
  // As the page looks at a file: its first rows cut into cells, then what each column is taken for.
  const wide = [
    ['Time (s)', 'RPM', ...Array.from({ length: WIDE }, (_, k) => `Signal ${k} (V)`)].join(','),
    ...Array.from({ length: 60 }, (_, i) =>
      [i / 10, 740, ...Array.from({ length: WIDE }, (_, k) => (i + k) % 5)].join(','),
    ),
  ].join('\n');
  const lookStart = performance.now();
  const cells = Papa.parse(wide, { delimiter: ',' }).data;
  const cut = performance.now() - lookStart;
  propose(cells);
  const look = performance.now() - lookStart;
  const channels = Array.from({ length: 12 }, (_, k) =>
    Float64Array.from({ length: 72_000 }, (_, i) => Math.sin(i / (k + 2))),
  );
  const time = Float64Array.from({ length: 72_000 }, (_, i) => i / 10);
  const reduceAll = () => {
    for (const v of channels) reduce({ time, value: v, levels: [] }, 0, 7200, 800);
  };
  // The first rounds are compiled while they run.
  for (let i = 0; i < 5; i++) reduceAll();
  const reductions = Array.from({ length: 30 }, () => {
    const t = performance.now();
    reduceAll();
    return performance.now() - t;
  }).sort((a, b) => a - b);
  const copy = Array.from({ length: 30 }, () => {
    const t = performance.now();
    for (const v of channels) v.slice();
    return performance.now() - t;
  }).sort((a, b) => a - b);
  return [
    {
      what: `CSV import, ${ROWS} rows × ${COLUMNS.length + 1} columns`,
      ours: `${(ours / 1000).toFixed(2)} s, ${samples} samples`,
      reference: `the CSV library's bare chunked parse ${(bare / 1000).toFixed(2)} s (${n} rows)`,
      ratio: `${(ours / bare).toFixed(2)}×`,
      aim: '≤ 1.5×',
    },
    {
      what: `mapping proposed for ${(WIDE + 2).toLocaleString('en-US')} columns`,
      ours: `${look.toFixed(0)} ms`,
      reference: `cutting its first 60 rows into cells ${cut.toFixed(0)} ms`,
      ratio: `${(look / cut).toFixed(1)}×`,
      aim: '≤ 1 s',
    },
    {
      what: 'min/max reduction, 2 h × 12 channels × 10 Hz to 800 pairs',
      ours: `p95 ${reductions[28].toFixed(1)} ms`,
      reference: `copying the columns ${copy[15].toFixed(1)} ms`,
      ratio: `${(reductions[15] / copy[15]).toFixed(1)}×`,
      aim: '≤ 8 ms',
    },
  ];
}
