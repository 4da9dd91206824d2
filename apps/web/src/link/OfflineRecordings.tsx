import { HardDriveUpload } from 'lucide-react';
import { Link } from 'react-router';
import { uploader, useOfflineRecordings } from '../data/offlineRecordings.ts';
import type { OfflineRecording } from '../data/offlineTypes.ts';
import { clock } from '../ui/figures.ts';
import { deviceLink } from './atDevice.ts';

/** Recordings of this device that are not in the shop yet. */
export function OfflineRecordings({ jobId }: { jobId: string }) {
  const recordings = useOfflineRecordings();
  const under = deviceLink()?.state.recording?.id;
  // One that goes on, and is as good as up, says so where it is taken.
  const left = recordings.filter((s) => s.id !== under || s.refused !== null || s.seconds - s.sent > 20);
  if (left.length === 0) return null;
  return (
    <section
      role="status"
      aria-label="Recordings on this device"
      className="card grid gap-3 border-2 border-dashed px-4 py-3 no-print"
    >
      {left.map((s) => (
        <Row key={s.id} recording={s} here={s.jobId === jobId} goesOn={s.id === under} />
      ))}
    </section>
  );
}

function Row({ recording: s, here, goesOn }: { recording: OfflineRecording; here: boolean; goesOn: boolean }) {
  const waits = clock(s.seconds - s.sent);
  return (
    <div className="flex flex-wrap items-center gap-3">
      <HardDriveUpload size={19} aria-hidden />
      <span className="mr-auto min-w-60 flex-1">
        {s.refused !== null
          ? `A recording of this device was not taken: ${s.refused}`
          : s.ended === null && !goesOn
            ? `A recording of this device was interrupted after ${clock(s.seconds)}. ${s.coach ? 'The coach goes on with it' : 'It goes on'} once the adapter is connected.`
            : `${waits} of a recording wait on this device and go up by themselves.`}
      </span>
      {!here && (
        <Link className="btn" to={`/jobs/${s.jobId}/${s.coach ? 'readiness?coach' : 'readings'}`}>
          To its job
        </Link>
      )}
      {s.ended === null && !goesOn && (
        <button type="button" className="btn" onClick={() => void uploader.end(s)}>
          End it there
        </button>
      )}
      {s.refused !== null && (
        <>
          <button type="button" className="btn" onClick={() => void uploader.tryAgain(s)}>
            Try again
          </button>
          <button type="button" className="btn" onClick={() => void uploader.drop(s)}>
            Delete
          </button>
        </>
      )}
    </div>
  );
}
