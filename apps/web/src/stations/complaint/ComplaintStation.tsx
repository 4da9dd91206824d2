import { counted } from '@just-balance/core/units';
import { useState } from 'react';
import { CameBack } from '../../job/compare/CameBack.tsx';
import type { StationProps } from '../../job/frame/station.ts';
import { ToStation } from '../../job/frame/ToStation.tsx';
import { usePhase, WhichState } from '../../job/record/WhichState.tsx';
import { Cautions } from '../../job/work/Cautions.tsx';
import { useAdapter } from '../../link/captures.ts';
import { later } from '../../ui/later.tsx';
import { May, MayChange, Press } from '../../ui/May.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';
import { AdapterChoice } from './AdapterChoice.tsx';
import { RecordCard, VehicleCard } from './RecordCard.tsx';
import { Story } from './Story.tsx';
import { Surroundings } from './Surroundings.tsx';

const HandRecord = later(async () => (await import('../../job/record/HandRecord.tsx')).HandRecord);
const BayControls = later(async () => (await import('../../practice/BayControls.tsx')).BayControls);

export function ComplaintStation({ job, live }: StationProps) {
  const adapter = useAdapter(job, live);
  const phase = usePhase(job);
  const kept = job.records.filter((r) => r.phase === phase).at(-1);
  // Until it is read again what was read before stands there, and can be put right.
  const record = kept ?? job.records.at(-1);
  const { busy, trouble, run } = useAction();
  const [byHand, setByHand] = useState<'new' | 'correct' | null>(null);
  const read = () =>
    run(async () => {
      await adapter.readRecord(phase);
    });
  return (
    <>
      {kept ? (
        <NextStep
          title={`${phase === 'after' ? 'Kept after the repair' : 'Kept'}: ${kept.codes.length === 0 ? 'no codes' : counted(kept.codes.length, 'code')}${kept.freezeFrame.length > 0 ? ', freeze frame' : ''}${kept.monitors ? ', monitors' : ''}`}
          why={
            kept.codes.length === 0
              ? 'No code, no lamp and all monitors complete does not mean no fault. Readings come next.'
              : 'Readings come next: idle, then a 2,500 rpm hold.'
          }
        >
          <Press className="btn" onClick={() => setByHand('new')}>
            Enter by hand
          </Press>
          {job.adapter && (
            <Press className="btn" disabled={busy} onClick={read}>
              Read again
            </Press>
          )}
          <ToStation station="readings">To Readings</ToStation>
        </NextStep>
      ) : (
        <NextStep
          title={
            phase === 'after'
              ? 'Codes, freeze frame and monitors after the repair'
              : 'Keep codes, freeze frame and monitors first'
          }
          why={
            job.adapter
              ? 'Key on. Half a minute; nothing is cleared.'
              : 'No adapter chosen: choose one below, or enter what your tool shows.'
          }
        >
          <Press className="btn" onClick={() => setByHand('new')}>
            Enter by hand
          </Press>
          <Press className="btn btn-primary btn-lg" disabled={busy || !job.adapter} onClick={read}>
            {busy ? 'Reading…' : 'Read from the vehicle'}
          </Press>
        </NextStep>
      )}
      <May>
        <WhichState job={job} />
      </May>
      <Problem trouble={trouble} />
      <Cautions job={job} step="record" />
      {byHand && (
        <HandRecord
          key={byHand}
          job={job}
          phase={phase}
          {...(byHand === 'correct' && record ? { record } : {})}
          done={() => setByHand(null)}
        />
      )}
      <div className="grid items-start gap-3 lg:grid-cols-[1.2fr_1fr]">
        <MayChange>
          <Story job={job} />
        </MayChange>
        <div className="grid gap-3">
          <VehicleCard job={job} record={record} />
          {record ? (
            <RecordCard record={record} correct={() => setByHand('correct')} />
          ) : (
            <section className="card p-4 text-soft">
              Nothing recorded yet. What stands in the ECU now is the evidence that clearing would wipe.
            </section>
          )}
          <MayChange>
            <Surroundings job={job} />
            <AdapterChoice job={job} live={live} />
          </MayChange>
        </div>
      </div>
      {job.adapter?.startsWith('sim:') && <BayControls bay={Number(job.adapter.slice(4))} compact />}
      <CameBack job={job} />
    </>
  );
}
