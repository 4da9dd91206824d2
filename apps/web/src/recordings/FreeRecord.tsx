import { useState } from 'react';
import { channelLabel } from './importing/channels.ts';

/** Alone, these are worth the bus's whole rate. */
const ALONE = ['o2s11', 'o2s12', 'o2s21', 'o2s22', 'lambda11', 'lambda21', 'maf', 'map', 'rpm', 'tp', 'stft1'];

/** Record everything that comes, or one channel as fast as the bus goes, until stopped. */
export function FreeRecord({
  disabled,
  banks,
  start,
}: {
  disabled: boolean;
  banks: 1 | 2;
  start: (only: string | undefined) => void;
}) {
  const [only, setOnly] = useState('');
  return (
    <span className="flex items-center gap-2">
      <span className="field">
        <select
          className="select"
          aria-label="What to record freely"
          value={only}
          onChange={(e) => setOnly(e.target.value)}
        >
          <option value="">all channels</option>
          {ALONE.filter((id) => banks === 2 || !/2[12]$/.test(id) || id === 'o2s12').map((id) => (
            <option key={id} value={id}>
              {channelLabel(id)} alone
            </option>
          ))}
        </select>
      </span>
      <button type="button" className="btn" disabled={disabled} onClick={() => start(only || undefined)}>
        Record freely
      </button>
    </span>
  );
}
