import type { JobView } from '@just-balance/contract';
import { FAULTS, faultLabel } from '@just-balance/core/catalogue';
import { chanceText } from '@just-balance/core/units';
import type { SelectHTMLAttributes } from 'react';

/** Causes offered first, by their chance. */
const FIRST = 6;

/**
 * What a repair was for, as a person says it: the likeliest causes first, then all others. Nothing is chosen by itself:
 * what is not said is not written down as found.
 */
export function WorkedFor({
  job,
  only,
  ...select
}: { job: JobView; only?: readonly string[] } & SelectHTMLAttributes<HTMLSelectElement>) {
  const fits = (fault: string) => fault !== 'balanced' && (!only || only.includes(fault));
  const causes = (job.diagnoses.at(-1)?.output.causes ?? []).filter((c) => fits(c.fault));
  const first = causes.slice(0, FIRST);
  const rest = FAULTS.filter((f) => fits(f.id) && !first.some((c) => c.fault === f.id));
  return (
    <select className="select" {...select}>
      <option value="">not said, or not known</option>
      {first.length > 0 && (
        <optgroup label="What fits best">
          {first.map((c) => (
            <option key={c.fault} value={c.fault}>
              {faultLabel(c.fault)}, {chanceText(c.probability)}
            </option>
          ))}
        </optgroup>
      )}
      {rest.length > 0 && (
        <optgroup label={first.length > 0 ? 'Other causes' : 'Causes'}>
          {rest.map((f) => (
            <option key={f.id} value={f.id}>
              {f.label}
            </option>
          ))}
        </optgroup>
      )}
    </select>
  );
}
