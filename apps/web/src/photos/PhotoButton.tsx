import { WRITES } from '@just-balance/contract';
import { Camera } from 'lucide-react';
import { useRef } from 'react';
import { newId } from '../data/api.ts';
import { waits } from '../data/Outbox.ts';
import { useMay } from '../data/session.tsx';
import { queueAll } from '../data/writes.ts';
import { Problem } from '../ui/Problem.tsx';
import { useAction } from '../ui/useAction.ts';
import { preparePhoto } from './preparePhoto.ts';

interface Props {
  jobId: string;
  run?: string;
  step?: string;
  label: string;
  /** What the button says. */
  children: React.ReactNode;
  primary?: boolean;
  /** Told the picture's id once it is kept on this device. */
  taken: (id: string) => unknown;
}

/** Take a picture with the tablet's camera, or choose a file. It is kept here first and goes up by itself. */
export function PhotoButton({ jobId, run, step, label, children, primary, taken }: Props) {
  const may = useMay('work');
  const input = useRef<HTMLInputElement>(null);
  const { busy, trouble, run: act } = useAction();
  const take = (file: File) =>
    act(async () => {
      const { bytes } = await preparePhoto(file);
      const id = newId();
      const write = WRITES.addPhoto(jobId, id, { label: label.slice(0, 120), run, step });
      await queueAll([waits(`Picture: ${label}`.slice(0, 80), write, bytes)]);
      await taken(id);
    });
  if (!may) return null;
  return (
    <span className="grid gap-2">
      <input
        ref={input}
        type="file"
        accept="image/*"
        capture="environment"
        aria-label={label}
        className="sr-only"
        tabIndex={-1}
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = '';
          if (file) void take(file);
        }}
      />
      <button
        type="button"
        className={`btn ${primary ? 'btn-primary btn-xl' : ''}`}
        disabled={busy}
        onClick={() => input.current?.click()}
      >
        <Camera size={20} aria-hidden /> {busy ? 'Keeping it…' : children}
      </button>
      <Problem trouble={trouble} />
    </span>
  );
}
