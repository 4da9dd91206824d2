import { useState } from 'react';
import { Choice } from '../../ui/Choice.tsx';
import { Field } from '../../ui/Field.tsx';
import { Press, type Send } from './Press.tsx';

const PARTS = {
  'airflow-sensor': 'Airflow sensor',
  'pressure-sensor': 'Pressure sensor',
  'oxygen-sensor': 'Oxygen sensor',
  'throttle-body': 'Throttle body',
} as const;

/** Hands on the simulated car: what is done to a part changes its physics, not the figures. */
export function WorkOnIt({ send, busy }: { send: Send; busy: boolean }) {
  const [part, setPart] = useState<keyof typeof PARTS>('airflow-sensor');
  const work = (name: string) => () => send('work', { work: name, part });
  return (
    <div className="flex flex-wrap items-end gap-3" role="group" aria-label="Work on it">
      <Field label="Part" className="w-48">
        {(aria) => (
          <Choice value={part} choose={(p) => setPart(p as keyof typeof PARTS)} {...aria}>
            {Object.entries(PARTS).map(([id, label]) => (
              <option key={id} value={id}>
                {label}
              </option>
            ))}
          </Choice>
        )}
      </Field>
      <Press busy={busy} act={work('clean')}>
        Clean it
      </Press>
      <Press busy={busy} act={work('replace')}>
        Replace it
      </Press>
      {part === 'airflow-sensor' && (
        <>
          <Press busy={busy} act={work('refit')}>
            Refit right
          </Press>
          <Press busy={busy} act={work('refit-backwards')}>
            Refit backwards
          </Press>
          <Press busy={busy} act={work('refit-without-ring')}>
            Without its ring
          </Press>
        </>
      )}
      {part === 'throttle-body' && (
        <Press busy={busy} act={work('throttle-relearn')}>
          Relearn it
        </Press>
      )}
    </div>
  );
}
