import { labelOf, MOST_STRIPS } from './views.ts';

export function ChannelChoice({
  available,
  chosen,
  choose,
}: {
  available: readonly string[];
  chosen: readonly string[];
  choose: (ids: readonly string[]) => void;
}) {
  return (
    <section className="card p-4">
      <h2 className="card-title">Strips, at most {MOST_STRIPS}</h2>
      <div className="mt-2 flex max-h-56 flex-wrap gap-2 overflow-y-auto">
        {available.map((id) => {
          const on = chosen.includes(id);
          return (
            <button
              key={id}
              type="button"
              aria-pressed={on}
              disabled={!on && chosen.length >= MOST_STRIPS}
              className={`btn px-3 ${on ? 'btn-neutral' : ''}`}
              onClick={() => choose(on ? chosen.filter((x) => x !== id) : [...chosen, id])}
            >
              {labelOf(id)}
            </button>
          );
        })}
      </div>
    </section>
  );
}
