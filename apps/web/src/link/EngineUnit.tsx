import { WRITES } from '@just-balance/contract';
import { counted } from '@just-balance/core/units';
import type { JobLive } from '../data/live.tsx';
import { write } from '../data/writes.ts';
import { Problem } from '../ui/Problem.tsx';
import { useAction } from '../ui/useAction.ts';
import { useDeviceLink } from './atDevice.ts';

/** Which of several units that answer is the engine's: found by what each has, and open to correction. */
export function EngineUnit({ jobId, live }: { jobId: string; live: JobLive }) {
  const own = useDeviceLink(jobId);
  const { busy, problem, run } = useAction();
  const units = live.link?.units ?? [];
  if (units.length < 2) return null;
  const choose = (unit: string) =>
    run(async () => {
      if (own) own.choose(unit);
      else await write(WRITES.chooseEngine(jobId), { unit });
    });
  return (
    <>
      <label className="field">
        Unit read as the engine’s
        <select
          className="select"
          disabled={busy}
          value={units.find((u) => u.engine)?.ecu ?? ''}
          onChange={(e) => choose(e.target.value)}
        >
          {units.map((u) => (
            <option key={u.ecu} value={u.ecu}>
              {u.ecu}: {counted(u.parameters, 'parameter')}
            </option>
          ))}
        </select>
      </label>
      <Problem text={problem} />
    </>
  );
}
