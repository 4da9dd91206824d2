/**
 * One invented drive, told six ways: half a minute of idle, a ramp, half a minute of hold. Lean at idle, less at the
 * hold. What any reading of them must give stands in `TRUTH`.
 */
export const TRUTH = {
  idle: { rpm: 741, mafGps: 2.92, mapKPa: 34.2, ectC: 88, total: 13.3 },
  hold: { rpm: 2562, mafGps: 11.6, mapKPa: 31.1, ectC: 90, total: 4.1 },
};

interface Moment {
  t: number;
  rpm: number;
  maf: number;
  map: number;
  ect: number;
  stft: number;
  ltft: number;
}

function* drive(hz: number): Generator<Moment> {
  for (let i = 0; i < 66 * hz; i++) {
    const t = i / hz;
    const share = Math.min(1, Math.max(0, (t - 32) / 2));
    const mix = (a: number, b: number) => a + (b - a) * share;
    const wave = Math.sin(5 * t);
    yield {
      t,
      rpm: Math.round(mix(TRUTH.idle.rpm, TRUTH.hold.rpm) + 3 * wave),
      maf: mix(TRUTH.idle.mafGps, TRUTH.hold.mafGps) * (1 + 0.006 * wave),
      map: mix(TRUTH.idle.mapKPa, TRUTH.hold.mapKPa),
      ect: t < 40 ? TRUTH.idle.ectC : TRUTH.hold.ectC,
      stft: mix(TRUTH.idle.total - 9, TRUTH.hold.total - 9) + wave,
      ltft: 9,
    };
  }
}

const f = (v: number, digits = 2) => v.toFixed(digits);
const comma = (v: number, digits = 2) => f(v, digits).replace('.', ',');
const two = (n: number, w = 2) => String(Math.floor(n)).padStart(w, '0');

/** Long words in brackets, seconds, commas; one column nobody knows; a line that was cut. */
function words(): string {
  const rows = [...drive(5)].map((m) =>
    [f(m.t, 1), m.rpm, f(m.maf), f(m.map, 1), m.ect, f(m.stft), f(m.ltft), 'D'].join(','),
  );
  rows[17] = '3.4,74';
  rows[20] = rows[20]!.replace(/^([^,]*),[^,]*/, '$1,err');
  return [
    'Time (s),Engine speed (rpm),Mass air flow (g/s),Intake manifold absolute pressure (kPa),Engine coolant temperature (°C),Short term fuel trim bank 1 (%),Long term fuel trim bank 1 (%),Selector',
    ...rows,
  ].join('\n');
}

/** Semicolons, decimal commas, units in a row of their own, time of day over midnight. */
function semicolons(): string {
  const clock = (t: number) => {
    const s = (86_370 + t) % 86_400;
    return `${two(s / 3600)}:${two((s / 60) % 60)}:${two(s % 60)},${two((s * 1000) % 1000, 3)}`;
  };
  return [
    'Zeit;RPM;MAF;MAP;ECT;STFT B1;LTFT B1',
    'h:m:s;1/min;g/s;kPa;°C;%;%',
    ...[...drive(4)].map((m) =>
      [clock(m.t), m.rpm, comma(m.maf), comma(m.map, 1), m.ect, comma(m.stft), comma(m.ltft)].join(';'),
    ),
  ].join('\r\n');
}

/** Tabs, dates, US units. */
function american(): string {
  const start = Date.UTC(2031, 2, 4, 16, 20, 0);
  return [
    'Timestamp\tEngine RPM\tMAF (lb/min)\tMAP (inHg)\tCoolant (°F)\tSTFT1 (%)\tLTFT1 (%)',
    ...[...drive(5)].map((m) =>
      [
        new Date(start + m.t * 1000).toISOString(),
        m.rpm,
        f(m.maf / 7.559873, 4),
        f(m.map / 3.386389, 3),
        f(m.ect * 1.8 + 32, 0),
        f(m.stft),
        f(m.ltft),
      ].join('\t'),
    ),
  ].join('\n');
}

/** One sample a line, with its name and unit. */
function long(): string {
  const lines = ['time,channel,value,unit'];
  for (const m of drive(4)) {
    const at = f(m.t, 2);
    lines.push(
      `${at},Engine speed,${m.rpm},rpm`,
      `${at},Mass air flow,${f(m.maf)},g/s`,
      `${at},Manifold pressure,${f(m.map, 1)},kPa`,
      `${at},Coolant temperature,${m.ect},°C`,
      `${at},Short term trim bank 1,${f(m.stft)},%`,
      `${at},Long term trim bank 1,${f(m.ltft)},%`,
      `${at},Loop status,CL,`,
    );
  }
  return lines.join('\n');
}

/** A clock for every channel, in milliseconds, behind a byte-order mark; slow channels have empty cells. */
function clocks(): string {
  const rows = [...drive(8)].map((m, i) => {
    const ms = (late: number) => String(Math.round(m.t * 1000) + late);
    const slow = i % 8 === 0;
    return [
      ms(0),
      m.rpm,
      ms(20),
      f(m.maf),
      ms(40),
      f(m.map, 1),
      slow ? ms(60) : '',
      slow ? m.ect : '',
      ms(80),
      f(m.stft),
      slow ? ms(100) : '',
      slow ? f(m.ltft) : '',
    ].join(',');
  });
  return `\uFEFFTime (ms),rpm,Time (ms),maf (g/s),Time (ms),map (kPa),Time (ms),ect (°C),Time (ms),stft1 (%),Time (ms),ltft1 (%)\n${rows.join('\n')}`;
}

/** Words before the header, quoted cells, a stretch without signal, headers nobody would guess. */
function odd(): string {
  const rows = [...drive(5)]
    .filter((m) => m.t < 14 || m.t > 19)
    .map((m) => [f(m.t, 1), `"${m.rpm}"`, f(m.maf), f(m.map, 1), m.ect, f(m.stft), f(m.ltft)].join(','));
  return ['Recorded in bay 4,,,,,,', '', 'time,rpm,Luftmasse,map,ect,KZ Bank,stft long'].concat(rows).join('\n');
}

export interface CsvLayout {
  name: string;
  text: string;
  /** What the mapping has to be told by hand: column, choice, channel. */
  correct: readonly (readonly [column: string, choice: string, channel: string])[];
  /** Words that tell what was left out. */
  says: readonly RegExp[];
}

export const CSV_LAYOUTS: readonly CsvLayout[] = [
  {
    name: 'words.csv',
    text: words(),
    says: [/line 22: Engine speed .*"err" is not a number/, /Selector/],
    correct: [],
  },
  { name: 'semicolons.csv', text: semicolons(), says: [], correct: [] },
  { name: 'american.txt', text: american(), says: [], correct: [] },
  { name: 'long.csv', text: long(), says: [], correct: [] },
  { name: 'clocks.csv', text: clocks(), says: [], correct: [] },
  {
    name: 'odd.csv',
    text: odd(),
    says: [],
    correct: [
      ['Luftmasse', 'Airflow', 'maf'],
      ['KZ Bank', 'Short-term trim, bank 1', 'stft1'],
      ['stft long', 'Long-term trim, bank 1', 'ltft1'],
    ],
  },
];
