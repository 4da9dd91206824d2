import type { JobView } from '@just-balance/contract';
import type { MonitorId } from '@just-balance/core/obd';
import { DRIVE_PROCEDURES, type DriveProcedure } from '@just-balance/core/readiness';
import { useState } from 'react';

/** The drive procedure in hand, and the field that chooses it. */
export function useDriveChoice(label: string, className = ''): { procedure: DriveProcedure; choice: React.ReactNode } {
  const [id, setId] = useState(DRIVE_PROCEDURES[0]!.id);
  return {
    procedure: DRIVE_PROCEDURES.find((p) => p.id === id)!,
    choice: (
      <label className={`field ${className}`}>
        {label}
        <select className="select" value={id} onChange={(e) => setId(e.target.value)}>
          {DRIVE_PROCEDURES.map((p) => (
            <option key={p.id} value={p.id}>
              {p.title}
            </option>
          ))}
        </select>
      </label>
    ),
  };
}

/** Monitors that a record says are incomplete; null where it says nothing of them. */
export function openMonitors(record: JobView['records'][number] | undefined): MonitorId[] | null {
  return record?.monitors?.monitors.filter((m) => m.state === 'incomplete').map((m) => m.id) ?? null;
}
