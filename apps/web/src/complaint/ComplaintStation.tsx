import type { AdapterView, RecordView } from '@just-balance/contract';
import { COMPLAINTS } from '@just-balance/contract';
import { MONITORS } from '@just-balance/core/obd';
import { recentlyCleared } from '@just-balance/core/readiness';
import { useState } from 'react';
import useSWR, { mutate } from 'swr';
import { queuePost } from '../offline/outbox.ts';
import { api, newId } from '../shared/api.ts';
import { Cautions } from '../shared/Cautions.tsx';
import { NextStep } from '../shared/NextStep.tsx';
import { Problem } from '../shared/Problem.tsx';
import type { StationProps } from '../shared/station.ts';
import { useAction } from '../shared/useAction.ts';
import { SymptomPicker } from './SymptomPicker.tsx';

export function ComplaintStation({ job, go }: StationProps) {
  const record = job.records.filter((r) => r.phase === 'before').at(-1);
  const { busy, problem, run } = useAction();
  const [byHand, setByHand] = useState(false);
  const read = () =>
    run(async () => {
      await api.post(`/jobs/${job.id}/records`, { id: newId(), phase: 'before' });
      await mutate(`/jobs/${job.id}`);
    });
  return (
    <>
      {record ? (
        <NextStep
          title={`Kept: ${record.codes.length === 0 ? 'no codes' : `${record.codes.length} codes`}${record.freezeFrame.length > 0 ? ', freeze frame' : ''}${record.monitors ? ', monitors' : ''}`}
          why={
            record.codes.length === 0
              ? 'No code, no lamp and all monitors complete does not mean no fault. Readings come next.'
              : 'Readings come next: idle, then a 2,500 rpm hold.'
          }
        >
          <button type="button" className="press" disabled={busy || !job.adapter} onClick={read}>
            Read again
          </button>
          <button type="button" className="press press-act press-big" onClick={() => go('readings')}>
            To Readings
          </button>
        </NextStep>
      ) : (
        <NextStep
          title="Keep codes, freeze frame and monitors first"
          why={
            job.adapter
              ? 'Key on. Half a minute; nothing is cleared.'
              : 'No adapter chosen: choose one below, or enter what your tool shows.'
          }
        >
          <button type="button" className="press" onClick={() => setByHand(true)}>
            Enter by hand
          </button>
          <button type="button" className="press press-act press-big" disabled={busy || !job.adapter} onClick={read}>
            {busy ? 'Reading…' : 'Read from the vehicle'}
          </button>
        </NextStep>
      )}
      <Problem text={problem} />
      <Cautions job={job} step="record" />
      {byHand && !record && <HandRecord jobId={job.id} done={() => setByHand(false)} />}
      <div className="grid items-start gap-3 lg:grid-cols-[1.2fr_1fr]">
        <Story job={job} />
        <div className="grid gap-3">
          {record ? (
            <RecordCard record={record} />
          ) : (
            <section className="sheet p-4 text-soft">
              Nothing recorded yet. What stands in the ECU now is the evidence that clearing would wipe.
            </section>
          )}
          <AdapterChoice job={job} />
        </div>
      </div>
    </>
  );
}

function Story({ job }: Pick<StationProps, 'job'>) {
  const { busy, problem, run } = useAction();
  const [work, setWork] = useState('');
  const patch = (complaint: typeof job.complaint) =>
    run(async () => {
      await api.patch(`/jobs/${job.id}`, { rev: job.rev, complaint });
      await mutate(`/jobs/${job.id}`);
    });
  const recent = job.complaint.recentWork ?? [];
  return (
    <section className="sheet grid gap-4 p-4" aria-busy={busy}>
      <h2 className="sheet-title">Complaint</h2>
      <p className="m-0 text-[1.1rem]">{job.complaint.story || 'No words written down.'}</p>
      <SymptomPicker
        all={COMPLAINTS}
        chosen={job.complaint.symptoms}
        change={(symptoms) => patch({ ...job.complaint, symptoms })}
      />
      <div>
        <h3 className="m-0 mb-1 text-[0.93rem] font-[550]">What was touched last</h3>
        <ul className="m-0 mb-2 flex list-none flex-wrap gap-2 p-0">
          {recent.map((w) => (
            <li key={w.part} className="tag tag-off py-1">
              {w.part.replaceAll('-', ' ')}
              {w.days !== undefined && ` · ${w.days} days ago`}
            </li>
          ))}
          {recent.length === 0 && <li className="text-soft">Nothing known. “Already replaced” proves little.</li>}
        </ul>
        <form
          className="flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            if (work.trim())
              void patch({
                ...job.complaint,
                recentWork: [...recent, { part: work.trim().toLowerCase().replaceAll(' ', '-') }],
              }).then(() => setWork(''));
          }}
        >
          <label className="field flex-1">
            <span className="sr-only">Part or work</span>
            <input value={work} onChange={(e) => setWork(e.target.value)} placeholder="part or work" />
          </label>
          <button type="submit" className="press">
            Add
          </button>
        </form>
      </div>
      <Problem text={problem} />
    </section>
  );
}

export function RecordCard({ record }: { record: RecordView }) {
  const open = record.monitors?.monitors.filter((m) => m.state === 'incomplete') ?? [];
  const cleared = recentlyCleared(record.warmupsSinceClear, record.distanceSinceClearKm);
  return (
    <section className="sheet grid gap-3 p-4">
      <h2 className="sheet-title">
        On record, {record.source === 'link' ? 'read from the vehicle' : 'entered by hand'}
      </h2>
      <table className="plain">
        <caption className="sr-only">Codes</caption>
        <thead>
          <tr>
            <th scope="col">Code</th>
            <th scope="col">State</th>
            <th scope="col">Says</th>
          </tr>
        </thead>
        <tbody>
          {record.codes.map((c) => (
            <tr key={`${c.code}${c.state}`}>
              <td className="figure font-bold">{c.code}</td>
              <td>{c.state}</td>
              <td>{c.text ?? 'maker code: a generic reader may mislead'}</td>
            </tr>
          ))}
          {record.codes.length === 0 && (
            <tr>
              <td colSpan={3}>No codes: stored, pending or permanent.</td>
            </tr>
          )}
        </tbody>
      </table>
      <dl className="m-0 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
        <dt className="text-soft">Lamp</dt>
        <dd className="m-0">{record.lampOn ? 'on' : 'off'}</dd>
        <dt className="text-soft">Monitors</dt>
        <dd className="m-0">
          {record.monitors
            ? open.length === 0
              ? 'all complete'
              : `open: ${open.map((m) => MONITORS[m.id]).join(', ')}`
            : 'not read'}
        </dd>
        {record.vin && (
          <>
            <dt className="text-soft">VIN</dt>
            <dd className="figure m-0">{record.vin}</dd>
          </>
        )}
        {cleared !== null && (
          <>
            <dt className="text-soft">Since clear</dt>
            <dd className="m-0">
              {record.warmupsSinceClear ?? '—'} warm-ups, {record.distanceSinceClearKm ?? '—'} km
              {cleared ? ': cleared not long ago' : ''}
            </dd>
          </>
        )}
      </dl>
      {record.freezeFrame.length > 0 && (
        <details>
          <summary className="min-h-8 cursor-pointer font-[650]">
            Freeze frame, {record.freezeFrame.length} values
          </summary>
          <ul className="figure m-0 mt-1 grid list-none gap-1 p-0 text-[0.9rem]">
            {record.freezeFrame.map((f) => (
              <li key={f.name} className="flex justify-between gap-4">
                <span>{f.name}</span>
                <span>
                  {typeof f.value === 'number' ? Math.round(f.value * 100) / 100 : f.value} {f.unit}
                </span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}

function AdapterChoice({ job }: Pick<StationProps, 'job'>) {
  const { data } = useSWR<AdapterView[]>('/adapters', api.get);
  const { problem, run } = useAction();
  const choose = (adapter: string) =>
    run(async () => {
      await api.patch(`/jobs/${job.id}`, { rev: job.rev, adapter });
      await mutate(`/jobs/${job.id}`);
    });
  return (
    <section className="sheet grid gap-2 p-4">
      <label className="field">
        Adapter
        <select value={job.adapter ?? ''} onChange={(e) => choose(e.target.value)}>
          <option value="" disabled>
            None: readings by hand
          </option>
          {data?.map((a) => (
            <option key={a.address} value={a.address}>
              {a.label}
            </option>
          ))}
        </select>
      </label>
      <Problem text={problem} />
    </section>
  );
}

function HandRecord({ jobId, done }: { jobId: string; done: () => void }) {
  const [stored, setStored] = useState('');
  const [pending, setPending] = useState('');
  const [lampOn, setLampOn] = useState(false);
  const { busy, problem, run } = useAction();
  const codes = (s: string) =>
    s
      .toUpperCase()
      .split(/[\s,;]+/)
      .filter(Boolean);
  return (
    <form
      className="sheet grid gap-3 p-4 md:grid-cols-2"
      onSubmit={(e) => {
        e.preventDefault();
        void run(async () => {
          await queuePost(jobId, 'Record by hand', `/jobs/${jobId}/records/by-hand`, {
            id: newId(),
            phase: 'before',
            stored: codes(stored),
            pending: codes(pending),
            lampOn,
          });
          await mutate(`/jobs/${jobId}`);
          done();
        });
      }}
    >
      <label className="field">
        Stored codes
        <input value={stored} onChange={(e) => setStored(e.target.value)} />
      </label>
      <label className="field">
        Pending codes
        <input value={pending} onChange={(e) => setPending(e.target.value)} />
      </label>
      <label className="flex min-h-12 items-center gap-3 font-[550]">
        <input type="checkbox" className="checkbox" checked={lampOn} onChange={(e) => setLampOn(e.target.checked)} />
        Lamp is on
      </label>
      <button type="submit" className="press press-act" disabled={busy}>
        Keep this record
      </button>
      <Problem text={problem} />
    </form>
  );
}
