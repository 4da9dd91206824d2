/**
 * What each principle of the weighing brings: drawn cases played once more with the principle taken out of its table, as
 * JSON. `node scripts/accuracy/ablation.mjs NAME CASES SEED`. The tables are worked out once a process: one name a run.
 */
import { fileURLToPath } from 'node:url';
import { FAULT_BY_ID, MOST_ODDS, NOTICES, RESULTS, SCATTER, TESTS } from '@just-balance/core/catalogue';
import { playDrawn } from './play.mjs';
import { summary } from './summary.mjs';

/** Hit and false alarm by class, the same for every fault and outcome: the tests as they were weighed before. */
const CLASS = { instrument: [0.95, 0.03], physical: [0.9, 0.05], looked: [0.7, 0.1], crude: [0.6, 0.35] };

function byClass() {
  for (const t of TESTS) {
    const row = RESULTS[t.id];
    if (!row) continue;
    const [hit, falseAlarm] = CLASS[t.reliability];
    const outcomes = Object.keys(row.shows);
    for (const o of outcomes) {
      row.anyway[o] = falseAlarm / outcomes.length;
      for (const f of Object.keys(row.shows[o]))
        row.shows[o][f] = hit / outcomes.filter((x) => row.shows[x][f] !== undefined).length;
    }
  }
}

function gasketIsNoPlace() {
  for (const [test, places] of [
    ['smoke-intake', ['gasket-bank1', 'gasket-bank2']],
    ['enrich-survey', ['bank1', 'bank2']],
  ])
    for (const o of places) {
      RESULTS[test].shows.other['vac-leak'] += RESULTS[test].shows[o]['vac-leak'];
      delete RESULTS[test].shows[o]['vac-leak'];
    }
}

export const ABLATIONS = {
  'as it is': () => {},
  'the intake gasket is no place of the common leak': gasketIsNoPlace,
  'each test by its class alone': byClass,
  'a single result may say anything': () => {
    for (const c of Object.keys(MOST_ODDS)) MOST_ODDS[c] = 1e6;
  },
  'idle speed and pressure say nothing of a leak': () => {
    SCATTER.idle.takenBack = 1;
  },
  'complaints say nothing': () => {
    for (const row of Object.values(NOTICES)) row.owner = 0;
  },
  'airflow without a pressure as good as with one': () => {
    Object.assign(SCATTER.airflow, { withoutPressure: SCATTER.airflow.withPressure, baro: 0, rpm: 0, charge: 0 });
    for (const k of SCATTER.airflowKinds) k.ownWithoutPressure = k.own;
  },
  'a dirty wire reads right at one flow': () => {
    FAULT_BY_ID.get('maf-dirty').variants = [{ weight: 1, shape: { kind: 'skew', crossing: 0.26 } }];
  },
  'full load is never wrong, and learnt trim is not carried': () => {
    SCATTER.fullLoad.wrong = { share: 1e-6, sd: 0.35 };
    SCATTER.fullLoad.carried = [0];
  },
  'a missing code says nothing': () => {
    for (const row of Object.values(NOTICES)) row.code = 0;
  },
  'fuel pressure low or right, not by how much': () => {
    SCATTER.rail.load = 1;
  },
};

// Asked for by itself, and not for its table.
if (process.argv[1] === fileURLToPath(import.meta.url)) {
  const [name, cases, seed] = process.argv.slice(2);
  ABLATIONS[name]();
  process.stdout.write(JSON.stringify(summary(playDrawn(Number(cases), Number(seed)))));
}
