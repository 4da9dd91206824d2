import { judgeDownstream, judgeNarrow, judgeWide, switching } from '@just-balance/core/oxygen';
import { between, type Channel, type Series } from '@just-balance/core/series';
import { numberText } from '@just-balance/core/units';
import type { Range } from '../charts/range.ts';
import { Table } from '../ui/Table.tsx';

const WORDS: Readonly<Record<string, { text: string; tag: string }>> = {
  switching: { text: '✓ switches', tag: 'badge-success' },
  'at-target': { text: '✓ at its target', tag: 'badge-success' },
  steady: { text: '✓ steady', tag: 'badge-success' },
  slow: { text: '✗ slow', tag: 'badge-warning' },
  few: { text: '✗ few crossings', tag: 'badge-warning' },
  follows: { text: '✗ follows', tag: 'badge-warning' },
  'off-target': { text: '✗ off target', tag: 'badge-warning' },
  restless: { text: '✗ restless', tag: 'badge-warning' },
  'stays-lean': { text: '▶ stays lean', tag: 'badge-lean' },
  'stays-rich': { text: '◀ stays rich', tag: 'badge-rich' },
  undecided: { text: '? undecided', tag: 'badge-outline border-dashed' },
};

interface Line {
  id: string;
  what: string;
  verdict: string;
  why: string;
  figures: string;
}

function lines(series: Series, range: Range): Line[] {
  const find = (id: string) => series.channels.find((c) => c.id === id);
  const cut = (c: Channel) => between(c, range.from, range.to);
  const out: Line[] = [];
  for (const bank of [1, 2]) {
    const narrow = find(`o2s${bank}1`);
    const wide = find(`lambda${bank}1`);
    if (wide) {
      const w = cut(wide);
      const j = judgeWide(w.time, w.value);
      if (j)
        out.push({
          id: wide.id,
          what: `Bank ${bank} sensor 1, wide-band`,
          verdict: j.verdict,
          why: j.why,
          figures: `${w.value.length} samples`,
        });
    } else if (narrow) {
      const n = cut(narrow);
      const s = switching(n.time, n.value);
      if (s) {
        const j = judgeNarrow(s);
        out.push({
          id: narrow.id,
          what: `Bank ${bank} sensor 1, narrow-band`,
          verdict: j.verdict,
          why: j.why,
          figures: `${numberText(s.minV, 2)} to ${numberText(s.maxV, 2)} V at ${numberText(s.sampleHz, 1)} samples/s`,
        });
      }
    }
    const down = find(`o2s${bank}2`);
    if (!down) continue;
    const d = cut(down);
    if (d.value.length === 0) continue;
    const up = !wide && narrow ? cut(narrow) : null;
    const [low, high] = d.value.reduce(
      ([l, h], v) => [Math.min(l!, v), Math.max(h!, v)],
      [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY],
    );
    const j = judgeDownstream(up ? { time: up.time, volts: up.value } : null, { time: d.time, volts: d.value });
    out.push({
      id: down.id,
      what: `Bank ${bank} sensor 2, downstream`,
      verdict: j.verdict,
      why: j.why,
      figures: `${numberText(low!, 2)} to ${numberText(high!, 2)} V`,
    });
  }
  return out;
}

/** What the oxygen sensors did in the part shown. Judge them in a steady closed-loop hold. */
export function OxygenSensors({ series, range }: { series: Series; range: Range }) {
  const all = lines(series, range);
  if (all.length === 0) return <p className="m-0 py-6 text-soft">This part of the recording holds no oxygen sensor.</p>;
  return (
    <>
      <Table
        rows={all}
        keyOf={(l) => l.id}
        columns={[
          { head: 'Sensor', cellClass: 'font-[650]', cell: (l) => l.what },
          {
            head: 'Says',
            cell: (l) => <span className={`badge ${WORDS[l.verdict]!.tag}`}>{WORDS[l.verdict]!.text}</span>,
          },
          { head: 'Because', cell: (l) => l.why },
          { head: 'Signal', cellClass: 'figure text-soft', cell: (l) => l.figures },
        ]}
      />
      <p className="mb-0 text-soft">
        Of the part shown. Judged in a steady closed-loop hold near 2,500 rpm; a sensor that stays at one end may be
        telling the truth about the mixture.
      </p>
    </>
  );
}
