import { CloudOff, UploadCloud, UserRound } from 'lucide-react';
import { useState } from 'react';
import { said } from '../data/api.ts';
import type { Waiting } from '../data/Outbox.ts';
import { useOthersOfflineRecordings } from '../data/offlineRecordings.ts';
import { outbox, useOthersNames, useOthersWaiting, useWaiting } from '../data/queue.ts';
import { Problem } from '../ui/Problem.tsx';

/** What was entered on this device and has not reached the server. */
export function WaitingBar() {
  const waiting = useWaiting();
  const others = useOthersWaiting() + useOthersOfflineRecordings();
  const names = useOthersNames();
  const whose = names.length > 0 ? names.join(', ') : 'somebody else';
  if (waiting.length === 0 && others === 0) return null;
  const refused = waiting.filter((w) => w.refused !== null);
  const groups = new Map(
    waiting.filter((w) => !refused.some((r) => r.group === w.group)).map((w) => [w.group, w.label]),
  );
  return (
    <section
      role="status"
      aria-label="Waiting on this device"
      className="card grid gap-3 border-2 border-dashed px-4 py-3 no-print"
    >
      {groups.size > 0 && (
        <span className="flex items-center gap-2">
          <CloudOff size={19} aria-hidden />
          <span>
            <span className="font-[650]">
              {groups.size === 1 ? 'One entry waits' : `${groups.size} entries wait`} on this device
            </span>
            : {[...groups.values()].join(', ')}. {groups.size === 1 ? 'It goes' : 'They go'} up by{' '}
            {groups.size === 1 ? 'itself' : 'themselves'}, once, in order.
          </span>
        </span>
      )}
      {refused.map((w) => (
        <SetAside key={w.seq} entry={w} />
      ))}
      {others > 0 && (
        <span className="flex items-center gap-2">
          <UserRound size={19} aria-hidden />
          <span>
            {others === 1 ? `One entry of ${whose} waits` : `${others} entries of ${whose} wait`} on this device and{' '}
            {others === 1 ? 'goes' : 'go'} up once {names.length > 1 ? 'each of them' : 'that person'} signs in here.
          </span>
        </span>
      )}
    </section>
  );
}

/** An entry that cannot go up as it is: the others go on, this one waits for a person. */
function SetAside({ entry }: { entry: Waiting }) {
  const [text, setText] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const pretty = () => {
    try {
      return JSON.stringify(JSON.parse(entry.body as string), null, 2);
    } catch {
      return String(entry.body);
    }
  };
  const again = () => {
    let body: string | undefined;
    if (text !== null) {
      try {
        body = JSON.stringify(JSON.parse(text));
      } catch (e) {
        return setProblem(`This is not JSON: ${said(e)}`);
      }
    }
    setProblem(null);
    void outbox.tryAgain(entry, body);
  };
  const save = () => {
    const { label, path, method, refused, body } = entry;
    const content = typeof body === 'string' ? JSON.stringify({ label, method, path, refused, body: pretty() }) : body;
    const link = document.createElement('a');
    link.href = URL.createObjectURL(new Blob([content]));
    link.download = `not-sent-${entry.seq}.${typeof body === 'string' ? 'json' : 'bin'}`;
    link.click();
    URL.revokeObjectURL(link.href);
  };
  return (
    <div className="grid gap-2">
      <span className="flex flex-wrap items-center gap-2">
        <UploadCloud size={19} aria-hidden />
        <span className="mr-auto">
          <span className="font-[650]">{entry.label}</span> was not taken: {entry.refused}
        </span>
        <button type="button" className="btn" onClick={again}>
          Try again
        </button>
        {typeof entry.body === 'string' && text === null && (
          <button type="button" className="btn" onClick={() => setText(pretty())}>
            Edit
          </button>
        )}
        <button type="button" className="btn" onClick={save}>
          Save as a file
        </button>
        <button type="button" className="btn" onClick={() => void outbox.drop(entry)}>
          Delete
        </button>
      </span>
      {text !== null && (
        <label className="field">
          What goes up
          <textarea
            className="textarea figure min-h-48 text-[0.9rem]"
            spellCheck={false}
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
        </label>
      )}
      <Problem text={problem} />
    </div>
  );
}
