import type { JobView } from '@just-balance/contract';
import { pointLabel, type Reading } from '@just-balance/core/case';
import { airPerStrokeMg } from '@just-balance/core/engine';
import { airflowBand, type Band, DIESEL_BOOST } from '@just-balance/core/expected';
import { figure, numberText, type Said, said } from '@just-balance/core/units';
import { Ruler } from '../../charts/Ruler.tsx';
import { newestReadings } from '../../job/judgement/figures.ts';
import { engineFacts } from '../../job/vehicle/engineFacts.ts';
import { Say, useSay, useShown } from '../../ui/preferences.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { Table } from '../../ui/Table.tsx';

interface Line {
  key: string;
  what: string;
  measured: number;
  digits: number;
  band: Band;
  /** The ends of the band are recirculation open and closed. */
  recirculates: boolean;
  /** What recirculation was, where that decides the band. */
  recirculation: Reading['recirculation'] | null;
  beside: Said | null;
}

/** What a diesel is judged by: its air between recirculation open and closed, and its boost. It has no trims. */
export function DieselFigures({ job }: { job: JobView }) {
  const show = useShown();
  const say = useSay();
  const lines = newestReadings(job, 'before').flatMap((r) => linesOf(r.reading, job));
  const span = (l: Line, v: number) => {
    const s = show(v, l.band.unit, l.digits);
    return numberText(s.value, s.digits);
  };
  return (
    <Scrolls label="Air and boost">
      <h2 className="card-title">Air and boost</h2>
      {lines.length === 0 ? (
        <p className="m-0 py-6 text-soft">
          A diesel has no trims. Airflow at idle and at full load, and the boost there, are what it is judged by: take
          them under Readings.
        </p>
      ) : (
        <Table
          rows={lines}
          keyOf={(l) => l.key}
          columns={[
            { head: 'Reading', cell: (l) => l.what },
            {
              head: 'Measured',
              className: 'right',
              cellClass: 'whitespace-nowrap',
              cell: (l) => {
                const m = show(l.measured, l.band.unit, l.digits);
                return (
                  <>
                    <span className="figure font-bold">{numberText(m.value, m.digits)}</span>{' '}
                    <span className="text-soft">{m.unit}</span>
                    {l.beside && (
                      <span className="block text-[0.87rem] text-soft">
                        <Say text={l.beside} />
                      </span>
                    )}
                  </>
                );
              },
            },
            {
              head: 'Drawn',
              unseen: true,
              className: 'w-[32%] max-sm:hidden',
              cell: (l) => <Ruler low={l.band.low} high={l.band.high} value={l.measured} />,
            },
            {
              head: 'Expected',
              cell: (l) => (
                <span title={l.band.note && say(l.band.note)}>
                  {l.recirculates ? (
                    <>
                      recirculation open <span className="figure">{span(l, l.band.low)}</span>, closed{' '}
                      <span className="figure">{span(l, l.band.high)}</span>
                    </>
                  ) : (
                    <>
                      {l.recirculation && `recirculation ${l.recirculation} `}
                      <span className="figure whitespace-nowrap">
                        {span(l, l.band.low)}–{span(l, l.band.high)}
                      </span>
                    </>
                  )}
                </span>
              ),
            },
          ]}
        />
      )}
    </Scrolls>
  );
}

function linesOf(r: Reading, job: JobView): Line[] {
  const facts = engineFacts(job);
  const at = pointLabel(r.at);
  const out: Line[] = [];
  const band = airflowBand(r.at, facts, r);
  if (r.mafGps !== undefined && band) {
    const mg = airPerStrokeMg(r.mafGps, r.rpm ?? Number.NaN, job.vehicle.cylinders);
    // At full load recirculation is closed: the ends are those of filling.
    const full = r.at === 'full-load' || r.at === 'boost';
    out.push({
      key: `${r.at}-air`,
      what: `Airflow, ${at.toLowerCase()}`,
      measured: r.mafGps,
      digits: 1,
      band,
      recirculates: !full && r.recirculation === undefined,
      beside: Number.isNaN(mg) ? null : said`${figure(mg, 'mg/stroke', 0)}`,
      recirculation: full ? null : (r.recirculation ?? null),
    });
  }
  if (r.mapKPa !== undefined && (r.at === 'full-load' || r.at === 'boost')) {
    const target = job.tests.findLast((t) => !t.undone && t.test.id === 'boost-compare')?.test.values?.targetKPa;
    out.push({
      key: `${r.at}-boost`,
      what: `Boost, ${at.toLowerCase()}`,
      measured: r.mapKPa - facts.baroKPa,
      digits: 0,
      band: DIESEL_BOOST,
      recirculates: false,
      recirculation: null,
      beside: typeof target === 'number' ? said`target ${figure(target, 'kPa', undefined, { role: 'boost' })}` : null,
    });
  }
  return out;
}
