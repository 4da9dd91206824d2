import { complaintLabel } from '@just-balance/core/case';
/** Symptoms by situation, as toggles. */
export function SymptomPicker({
  all,
  chosen,
  change,
}: {
  all: readonly string[];
  chosen: string[];
  change: (s: string[]) => void;
}) {
  return (
    <fieldset className="m-0 border-0 p-0">
      <legend className="mb-1 p-0 text-[0.93rem] font-[550]">What it does</legend>
      <div className="flex flex-wrap gap-2">
        {all.map((s) => {
          const on = chosen.includes(s);
          return (
            <button
              key={s}
              type="button"
              aria-pressed={on}
              className={`btn px-3 font-[550] ${on ? 'btn-neutral' : ''}`}
              onClick={() => change(on ? chosen.filter((x) => x !== s) : [...chosen, s])}
            >
              {complaintLabel(s)}
            </button>
          );
        })}
      </div>
    </fieldset>
  );
}
