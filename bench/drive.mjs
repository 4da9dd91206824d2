/** The drive: a three-hour log reviewed, one moment of the coach, a plan. */

import {
  coachSample,
  coachStart,
  DRIVE_PROCEDURES,
  driveSamples,
  planDrive,
  reviewDrive,
} from '@just-balance/core/readiness';

const median = (list) => list.toSorted((a, b) => a - b)[Math.floor(list.length / 2)];
const time = (f) => {
  const from = performance.now();
  f();
  return performance.now() - from;
};

/** Three hours, four channels five times a second: town, road and standing by turns. */
function log() {
  const n = 3 * 3600 * 5;
  const t = Float64Array.from({ length: n }, (_, i) => i / 5);
  const vss = t.map((s) => (s % 400 < 60 ? 0 : s % 400 < 200 ? 40 : 67));
  return {
    startedAt: null,
    marks: [],
    channels: [
      { id: 'vss', unit: 'km/h', time: t, value: vss },
      { id: 'rpm', unit: 'rpm', time: t, value: vss.map((v) => (v === 0 ? 750 : 1500 + v)) },
      { id: 'ect', unit: '°C', time: t, value: t.map((s) => Math.min(90, 15 + s / 5)) },
      { id: 'iat', unit: '°C', time: t, value: t.map(() => 22) },
    ],
  };
}

export async function measure() {
  const rows = [];
  const series = log();
  const text = JSON.stringify(series.channels.map((c) => ({ ...c, time: [...c.time], value: [...c.value] })));
  const parse = median(Array.from({ length: 5 }, () => time(() => JSON.parse(text))));
  for (const p of DRIVE_PROCEDURES) {
    const took = median(Array.from({ length: 3 }, () => time(() => reviewDrive(p, series, null))));
    rows.push({
      what: `drive: 3 h log against ${p.id}`,
      ours: `${took.toFixed(0)} ms`,
      reference: `${parse.toFixed(0)} ms (reading its JSON)`,
      ratio: `${(took / parse).toFixed(2)}×`,
      aim: 'under 1 s',
    });
  }
  const [, stations] = DRIVE_PROCEDURES;
  const samples = [...driveSamples(stations, series)].slice(0, 5000);
  const all = time(() => {
    let s = coachStart(stations, new Set(['vss', 'rpm', 'ect', 'iat']));
    for (const x of samples) s = coachSample(s, x);
  });
  const request = {
    procedure: DRIVE_PROCEDURES[0],
    now: '2026-02-10T16:30:00Z',
    state: { engineOffSince: '2026-02-10T16:00:00Z', fuelPct: 60, altitudeM: 100, lamp: 'off', codes: [] },
    forecast: Array.from({ length: 240 }, (_, h) => ({
      at: new Date(Date.UTC(2026, 1, 10, h)).toISOString(),
      airC: 6 + 8 * Math.sin(h / 4),
    })),
  };
  planDrive(request);
  const plan = median(Array.from({ length: 20 }, () => time(() => planDrive(request))));
  const asText = median(Array.from({ length: 20 }, () => time(() => JSON.parse(JSON.stringify(request)))));
  rows.push(
    {
      what: 'drive: one moment of the coach',
      ours: `${((1000 * all) / samples.length).toFixed(1)} µs`,
      reference: '200 ms (between two answers of a car)',
      ratio: `${(all / samples.length / 200).toFixed(5)}×`,
      aim: 'far below',
    },
    {
      what: 'drive: a plan over ten days of forecast',
      ours: `${plan.toFixed(2)} ms`,
      reference: `${asText.toFixed(2)} ms (its request written and read)`,
      ratio: `${(plan / asText).toFixed(1)}×`,
      aim: 'under 50 ms',
    },
  );
  return rows;
}
