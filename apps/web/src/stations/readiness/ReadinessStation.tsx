import { MONITORS } from '@just-balance/core/obd';
import { phaseNow } from '@just-balance/core/proof';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import type { StationProps } from '../../job/frame/station.ts';
import { ToNext } from '../../job/frame/ToNext.tsx';
import { Cautions, Precedence } from '../../job/work/Cautions.tsx';
import { openMonitors, provenBy } from '../../job/work/drives.tsx';
import { useAdapter } from '../../link/captures.ts';
import { later } from '../../ui/later.tsx';
import { Press } from '../../ui/May.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';
import { Attempts } from './Attempts.tsx';
import { Cleared } from './Cleared.tsx';
import { InspectionSheet } from './InspectionSheet.tsx';
import { MonitorTable } from './MonitorTable.tsx';
import { Settles } from './Settles.tsx';
import { WouldPass } from './WouldPass.tsx';

const DrivePlan = later(async () => (await import('./DrivePlan.tsx')).DrivePlan);
const Coach = later(async () => (await import('./Coach.tsx')).Coach);
const HandRecord = later(async () => (await import('../../job/record/HandRecord.tsx')).HandRecord);

export function ReadinessStation(props: StationProps) {
  const [asked] = useSearchParams();
  if (asked.has('coach')) return <Coach {...props} />;
  if (asked.has('inspection')) return <InspectionSheet {...props} />;
  return <Monitors {...props} />;
}

function Monitors({ job, live }: StationProps) {
  const adapter = useAdapter(job, live);
  const { busy, trouble, run } = useAction();
  const record = job.records.at(-1);
  const read_ = [...job.records].reverse().find((r) => r.monitors);
  const open = openMonitors(record) ?? [];
  const proves = provenBy(job);
  const longPct = job.readings.flatMap(({ reading }) =>
    Object.values(reading.trims ?? {}).flatMap((t) => (t.ltft === undefined ? [] : [t.ltft])),
  );
  const phase = phaseNow(job);
  const read = () =>
    run(async () => {
      await adapter.readRecord(phase);
    });
  const [byHand, setByHand] = useState(false);
  const names = open.map((m) => MONITORS[m]).join(', ');
  const readAgain = (
    <>
      <Press className="btn btn-lg" onClick={() => setByHand(true)}>
        Enter by hand
      </Press>
      <Press className="btn btn-lg" disabled={busy || !job.adapter} onClick={read}>
        {busy ? 'Reading…' : record?.monitors ? 'Read again' : 'Read the monitors'}
      </Press>
    </>
  );
  return (
    <>
      {!record?.monitors ? (
        <NextStep
          title="Read the monitors"
          why={
            job.adapter
              ? 'Complete or not, one by one, straight from the vehicle.'
              : 'No adapter on this job: enter what your tool shows of each.'
          }
        >
          {readAgain}
        </NextStep>
      ) : open.length === 0 ? (
        <NextStep
          title="All supported monitors are complete"
          why="Necessary for an inspection. The mixture repair itself is proven by the trims, not by the fuel-system monitor."
        >
          {readAgain}
          <ToNext job={job} here="readiness" then="hand-over" />
        </NextStep>
      ) : (
        <NextStep
          title={`Still open: ${names}`}
          why="Drive it under the monitor's own conditions, then read again. A hand-over may say that it is open."
        >
          {readAgain}
          <Link className="btn btn-lg" to={`/jobs/${job.id}/readiness?coach`}>
            Coach the drive
          </Link>
          <ToNext job={job} here="readiness" then="hand-over" />
        </NextStep>
      )}
      <Problem trouble={trouble} />
      {byHand && <HandRecord job={job} phase={phase} done={() => setByHand(false)} />}
      <Cautions job={job} step="readiness-drive" />
      {open.length > 0 && <DrivePlan job={job} live={live} />}
      <div className="grid items-start gap-3 lg:grid-cols-[1.5fr_1fr]">
        {read_ ? (
          <MonitorTable record={read_} proves={proves} />
        ) : (
          <p className="card m-0 p-4 text-soft">
            Not read yet. Once they are: which monitors the car has, which have completed, by how much they passed.
          </p>
        )}
        <div className="grid gap-3">
          <WouldPass job={job} record={read_} />
          {record && <Cleared record={record} longPct={longPct} />}
          <Settles job={job} />
          <Attempts job={job} />
        </div>
      </div>
      {!read_ && <DrivePlan job={job} live={live} />}
      <Precedence />
    </>
  );
}
