import { type JobView, ROUTES } from '@just-balance/contract';
import type { MonitorId } from '@just-balance/core/obd';
import { DRIVE_PROCEDURES, type DriveProcedure, provingMonitors } from '@just-balance/core/readiness';
import { useState } from 'react';
import { useRead } from '../../data/reads.ts';

type Record_ = JobView['records'][number];

/** Ours and the shop's own, those taken off the list left out. */
export function useDriveProcedures(): readonly DriveProcedure[] {
  const { data } = useRead(ROUTES.driveProcedures);
  return [...(data ?? []).filter((p) => !p.undone).map((p) => p.procedure), ...DRIVE_PROCEDURES];
}

/** The drive procedure in hand, and the field that chooses it. */
export function useDriveChoice(
  label: string,
  className = '',
  /** Where it is kept; absent: here. */
  kept?: { id: string; choose: (id: string) => void },
): { procedure: DriveProcedure; choice: React.ReactNode; choose: (id: string) => void } {
  const own = useState(DRIVE_PROCEDURES[0]!.id);
  const [id, setId] = kept ? [kept.id, kept.choose] : own;
  const all = useDriveProcedures();
  const procedure = all.find((p) => p.id === id) ?? DRIVE_PROCEDURES[0]!;
  return {
    procedure,
    choose: setId,
    choice: (
      <label className={`field ${className}`}>
        {label}
        <select className="select" value={procedure.id} onChange={(e) => setId(e.target.value)}>
          {all.map((p) => (
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
export function openMonitors(record: Record_ | undefined): MonitorId[] | null {
  return record?.monitors?.monitors.filter((m) => m.state === 'incomplete').map((m) => m.id) ?? null;
}

/** The monitors that prove the work on this job: by the codes it came with, else by the cause it was given. */
export function provenBy(job: JobView): MonitorId[] {
  const first = job.records.find((r) => r.phase === 'before');
  const codes = first?.codes.map((c) => c.code) ?? [];
  return provingMonitors(codes, codes.length > 0 ? null : (job.diagnoses.at(-1)?.output.causes[0]?.fault ?? null));
}

/** Drives of this vehicle, in every job of it, oldest first. */
export function useAttempts(vehicleId: string) {
  return useRead(ROUTES.vehicleDrives(vehicleId));
}
