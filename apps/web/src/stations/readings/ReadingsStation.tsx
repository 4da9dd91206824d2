import { FileUp } from 'lucide-react';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { CaptureRunner } from '../../capture/CaptureRunner.tsx';
import { useMay } from '../../data/session.tsx';
import type { StationProps } from '../../job/frame/station.ts';
import { ToStation } from '../../job/frame/ToStation.tsx';
import { usePhase, WhichState } from '../../job/record/WhichState.tsx';
import { DeviceAdapter } from '../../link/DeviceAdapter.tsx';
import { EngineUnit } from '../../link/EngineUnit.tsx';
import { FreeRecord } from '../../recordings/FreeRecord.tsx';
import { Recordings } from '../../recordings/Recordings.tsx';
import { later } from '../../ui/later.tsx';
import { May, Press } from '../../ui/May.tsx';

const wait = <p className="m-0 text-soft">Opening…</p>;
const ImportPanel = later(async () => (await import('../../recordings/importing/ImportPanel.tsx')).ImportPanel, wait);
const RecordingPanel = later(async () => (await import('../../recordings/RecordingPanel.tsx')).RecordingPanel, wait);

/** Guided readings; a log brought from elsewhere; and any recording looked at again. */
export function ReadingsStation({ job, live }: StationProps) {
  const [search, setSearch] = useSearchParams();
  const [dropped, setDropped] = useState<File | null>(null);
  const recording = search.get('recording');
  const may = useMay('work');
  const importing = may && search.has('import');
  const phase = usePhase(job);
  const back = () => {
    setDropped(null);
    setSearch({});
  };
  if (recording) return <RecordingPanel key={recording} job={job} captureId={recording} close={back} />;
  if (importing)
    return (
      <ImportPanel job={job} phase={phase} file={dropped} close={back} look={(id) => setSearch({ recording: id })} />
    );
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping a file is a shortcut; the button below does the same
    <div
      className="grid grid-cols-[minmax(0,1fr)] gap-3"
      onDragOver={(e) => {
        if (e.dataTransfer.types.includes('Files')) e.preventDefault();
      }}
      onDrop={(e) => {
        const file = e.dataTransfer.files[0];
        if (!file || !may) return;
        e.preventDefault();
        setDropped(file);
        setSearch({ import: '1' });
      }}
    >
      <May>
        <WhichState job={job} />
      </May>
      <CaptureRunner
        key={phase}
        job={job}
        live={live}
        phase={phase}
        next={
          phase === 'after' ? (
            <ToStation station="prove">To Prove</ToStation>
          ) : (
            <ToStation station="balance">To Balance</ToStation>
          )
        }
        below={(free) => (
          <Recordings job={job} look={(id) => setSearch({ recording: id })}>
            <May>
              {(live.atDevice || !job.adapter) && (
                <DeviceAdapter jobId={job.id} detail={live.atDevice ? live.link?.detail : undefined} />
              )}
              <EngineUnit jobId={job.id} live={live} />
              {job.adapter && <FreeRecord {...free} banks={job.vehicle.banks ?? 1} />}
            </May>
            <Press className="btn" onClick={() => setSearch({ import: '1' })}>
              <FileUp size={18} aria-hidden /> Import a log
            </Press>
          </Recordings>
        )}
      />
    </div>
  );
}
