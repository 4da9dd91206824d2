import { pointLabel } from '@just-balance/core/diagnosis';
import { compareTrims, matchConditions, proofOf } from '@just-balance/core/trims';
import { Check } from 'lucide-react';
import { Beam } from '../beam/Beam.tsx';
import { CaptureRunner } from '../readings/CaptureRunner.tsx';
import { Precedence } from '../shared/Cautions.tsx';
import { bankTotals, newestReadings, signed } from '../shared/figures.ts';
import { useLimits } from '../shared/limits.ts';
import { NextStep } from '../shared/NextStep.tsx';
import { Quantity } from '../shared/preferences.tsx';
import type { StationProps } from '../shared/station.ts';

export function ProveStation({ job, live, go }: StationProps) {
  const before = newestReadings(job, 'before');
  if (before.length === 0) {
    return (
      <NextStep
        title="Nothing to compare with yet"
        why="A proof is the same readings before and after. Take the first ones before the repair."
      >
        <button type="button" className="press press-act press-big" onClick={() => go('readings')}>
          To Readings
        </button>
      </NextStep>
    );
  }
  return (
    <CaptureRunner job={job} live={live} phase="after" doneLabel="To Readiness" done={() => go('readiness')}>
      <BeforeAfter job={job} />
      <Precedence />
    </CaptureRunner>
  );
}

const VERDICT = { better: 'tag-ok', worse: 'tag-caution', 'no change': 'tag-off' } as const;

/** Before and after on one beam, the change with its uncertainty, and whether the conditions matched. */
export function BeforeAfter({ job }: Pick<StationProps, 'job'>) {
  const limits = useLimits();
  const before = newestReadings(job, 'before');
  const after = newestReadings(job, 'after');
  const changes = compareTrims(
    before.flatMap((r) => bankTotals(r.reading)),
    after.flatMap((r) => bankTotals(r.reading)),
    limits.watchPct,
  );
  const proof = proofOf(changes, limits.watchPct);
  const matches = after.flatMap((a) => {
    const b = before.find((x) => x.reading.at === a.reading.at);
    return b ? matchConditions(b.reading, a.reading) : [];
  });
  const settling = after.some((r) =>
    Object.values(r.reading.trims ?? {}).some(
      (t) => t && Math.abs(t.stft ?? 0) >= 3 && (t.stft ?? 0) * (t.ltft ?? 0) < 0,
    ),
  );
  const banks = job.vehicle.banks ?? 1;
  const rungs = before.flatMap((b) => {
    const marks = bankTotals(b.reading);
    if (marks.length === 0) return [];
    const a = after.find((x) => x.reading.at === b.reading.at);
    const now = a ? bankTotals(a.reading) : [];
    const drawn = (list: typeof marks) => list.map((m) => ({ bank: m.bank, totalPct: m.totalPct, sdPct: m.sd }));
    return [
      {
        at: b.reading.at,
        label: pointLabel(b.reading.at),
        airflowGps: b.reading.mafGps ?? b.reading.rpm ?? 0,
        marks: drawn(now),
        before: drawn(marks),
      },
    ];
  });
  return (
    <>
      {changes.length > 0 && (
        <section
          className={`sheet flex flex-wrap items-center gap-4 px-5 py-3 ${proof === 'proven' ? '' : 'border-caution'}`}
          aria-label="Verdict"
          aria-live="polite"
        >
          <strong className="text-[1.2rem]">
            {proof === 'proven'
              ? 'Proven by the trims.'
              : proof === 'better, not proven'
                ? 'Better, not proven yet.'
                : 'Not proven.'}
          </strong>
          <span className="text-soft">
            {proof === 'proven'
              ? `Back inside ±${limits.watchPct} % at every point that was off. No pending code after two trips is the other half.`
              : settling
                ? 'Short-term runs against long-term: the memory is still settling. Drive a few minutes and take them again.'
                : 'A point is still outside the band. A second fault may be there: the after readings can be weighed as a job of their own.'}
          </span>
        </section>
      )}
      <div className="grid items-start gap-3 lg:grid-cols-[minmax(0,1fr)_340px]">
        <section className="sheet p-4">
          <div className="flex flex-wrap items-baseline justify-between gap-x-4">
            <h2 className="sheet-title">Before and after, one picture</h2>
            <span className="text-[0.93rem] text-soft">
              grey before · solid after{banks === 2 ? ' · ● bank 1 ◇ bank 2' : ''}
            </span>
          </div>
          <Beam caption="Total trim before and after the repair" banks={banks} limits={limits} rungs={rungs} />
        </section>
        <section className="sheet p-4">
          <div className="flex items-center justify-between">
            <h2 className="sheet-title">Matched?</h2>
            {matches.length > 0 && (
              <span className={`tag ${matches.every((m) => m.matched) ? 'tag-ok' : 'tag-caution'}`}>
                {matches.every((m) => m.matched) ? '✓ same conditions' : 'not the same'}
              </span>
            )}
          </div>
          <table className="plain mt-2">
            <tbody>
              {matches.map((m) => (
                <tr key={`${m.at}${m.quantity}`}>
                  <td>
                    {m.quantity}, {pointLabel(m.at as never).toLowerCase()}
                  </td>
                  <td className="right whitespace-nowrap">
                    <Quantity value={m.before} unit={m.unit} digits={0} /> →{' '}
                    <Quantity value={m.after} unit={m.unit} digits={0} />
                    {!m.matched && <span className="tag tag-caution ml-2">differs</span>}
                  </td>
                </tr>
              ))}
              {matches.length === 0 && (
                <tr>
                  <td className="text-soft">The after readings are compared here.</td>
                </tr>
              )}
            </tbody>
          </table>
          <p className="m-0 mt-3 text-[0.93rem] text-soft">Nothing cleared: readiness survives.</p>
        </section>
      </div>
      {changes.length > 0 && (
        <section className="sheet overflow-x-auto p-4">
          <h2 className="sheet-title">Total trim, %</h2>
          <table className="plain">
            <thead>
              <tr>
                <th scope="col">Point</th>
                {banks === 2 && <th scope="col">Bank</th>}
                <th scope="col" className="right">
                  Before
                </th>
                <th scope="col" className="right">
                  After
                </th>
                <th scope="col" className="right">
                  Change
                </th>
                <th scope="col">
                  <span className="sr-only">Verdict</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {changes.map((c) => (
                <tr key={`${c.at}${c.bank}`}>
                  <td>{pointLabel(c.at as never)}</td>
                  {banks === 2 && <td>{c.bank === 1 ? '● 1' : '◇ 2'}</td>}
                  <td className="figure right">{signed(c.beforePct)}</td>
                  <td className="figure right font-bold">{signed(c.afterPct)}</td>
                  <td className="figure right">
                    {signed(c.changePct)} ± {c.uncertaintyPct.toFixed(1)}
                  </td>
                  <td>
                    <span className={`tag ${VERDICT[c.verdict]}`}>
                      {c.verdict === 'better' && <Check size={14} aria-hidden />} {c.verdict}
                      {c.inBand ? ', in band' : ''}
                    </span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
    </>
  );
}
