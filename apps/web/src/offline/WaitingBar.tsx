import { CloudOff, UploadCloud } from 'lucide-react';
import { discard, tryAgain, useWaiting } from './outbox.ts';

/** What was entered on this device and has not reached the server. */
export function WaitingBar() {
  const waiting = useWaiting();
  if (waiting.length === 0) return null;
  const refused = waiting.filter((w) => w.refused !== null);
  const groups = new Map(
    waiting.filter((w) => !refused.some((r) => r.group === w.group)).map((w) => [w.group, w.label]),
  );
  return (
    <section
      role="status"
      aria-label="Waiting on this device"
      className="sheet flex flex-wrap items-center gap-x-4 gap-y-2 border-2 border-dashed px-4 py-3 no-print"
    >
      {groups.size > 0 && (
        <span className="flex items-center gap-2">
          <CloudOff size={19} aria-hidden />
          <span>
            <span className="font-[650]">
              {groups.size === 1 ? 'One entry waits' : `${groups.size} entries wait`} on this device
            </span>
            : {[...groups.values()].slice(0, 3).join(', ')}
            {groups.size > 3 && ' …'}. {groups.size === 1 ? 'It goes' : 'They go'} up by{' '}
            {groups.size === 1 ? 'itself' : 'themselves'}, once, in order.
          </span>
        </span>
      )}
      {refused.map((w) => (
        <span key={w.seq} className="flex flex-wrap items-center gap-2">
          <UploadCloud size={19} aria-hidden />
          <span>
            <span className="font-[650]">{w.label}</span> was refused: {w.refused}
          </span>
          <button type="button" className="press" onClick={() => void tryAgain(w)}>
            Try again
          </button>
          <button type="button" className="press" onClick={() => void discard(w)}>
            Discard it
          </button>
        </span>
      ))}
    </section>
  );
}
