import { pointLabel } from '@just-balance/core/case';
import { QUANTITY_LABEL, QUANTITY_UNIT } from '@just-balance/core/expected';
import { numberText } from '@just-balance/core/units';
import { useShown } from '../../ui/preferences.tsx';
import { JobsBehind, type L, Rows } from './Rows.tsx';

export function Figures({ l }: { l: L }) {
  const show = useShown();
  if (l.figures.length === 0)
    return (
      <section className="card p-4">
        <h2 className="card-title">Known good</h2>
        <p className="m-0 text-soft">Four proven jobs of one engine family are needed for a band.</p>
      </section>
    );
  return (
    <section className="card grid gap-3 p-4" aria-labelledby="figures">
      <h2 id="figures" className="card-title">
        Known good, by engine family
      </h2>
      <Rows
        label="Known-good figures"
        head={['Engine family', 'Reading', 'Figure', 'Middle', 'Band (95 % of the next)', 'From']}
        rows={l.figures.map((f) => {
          const text = (v: number) => {
            const s = show(v, QUANTITY_UNIT[f.quantity], 2);
            return numberText(s.value, s.digits);
          };
          return [
            f.family,
            pointLabel(f.at as Parameters<typeof pointLabel>[0]),
            `${QUANTITY_LABEL[f.quantity]}, ${show(0, QUANTITY_UNIT[f.quantity], 0).unit}`,
            text(f.middle),
            `${text(Math.max(0, f.low))} to ${text(f.high)}`,
            <JobsBehind key="j" jobs={f.jobs} />,
          ];
        })}
      />
    </section>
  );
}
