/**
 * Tables of many layouts, invented, each with the channels it holds. All but the refused tell the same four moments where
 * nothing else is said: half seconds, 700 to 730 rpm, 2.1 to 2.4 g/s, trim 1.5 to 4.5 %.
 */
export interface OddTable {
  name: string;
  text: string;
  /** Values by channel; times of the first channel where they are not 0, 0.5, 1, 1.5. */
  channels?: Record<string, number[]>;
  times?: number[];
  loop?: string[];
  /** Columns left out, each with words of the reason. */
  left?: Record<string, RegExp>;
  /** Sentences about cells that could not be read. */
  problems?: RegExp[];
  /** Nothing can be read before something is said. */
  missing?: RegExp;
  /** Columns whose numbers may mean two things. */
  asks?: string[];
}

const RPM = [700, 710, 720, 730];
const MAF = [2.1, 2.2, 2.3, 2.4];
const TRIM = [1.5, 2.5, 3.5, 4.5];
const ALL = { rpm: RPM, maf: MAF, stft1: TRIM };

/** The four moments as lines: `line` is given moment, rpm, airflow and trim. */
const four = (line: (i: number, rpm: number, maf: number, trim: number) => string) =>
  RPM.map((r, i) => line(i, r, MAF[i]!, TRIM[i]!)).join('\n');
const dec = (v: number, sign = ',') => String(v).replace('.', sign);

export const ODD_TABLES: readonly OddTable[] = [
  {
    name: 'commas, units in round brackets',
    text: `Time (s),Engine speed (rpm),MAF (g/s),STFT Bank 1 (%)\n${four((i, r, m, t) => `${i / 2},${r},${m},${t}`)}`,
    channels: ALL,
  },
  {
    name: 'square brackets, semicolons, decimal commas',
    text: `Time [s];RPM [1/min];Mass air flow [g/s];STFT B1 [%]\n${four((i, r, m, t) => `${dec(i / 2)};${r};${dec(m)};${dec(t)}`)}`,
    channels: ALL,
  },
  {
    name: 'pipes',
    text: `Time|RPM|MAF|STFT B1\n${four((i, r, m, t) => `${i / 2}|${r}|${m}|${t}`)}`,
    channels: ALL,
  },
  {
    name: 'pipes with spaces round the cells',
    text: `Time | RPM | MAF (g/s) | STFT B1\n${four((i, r, m, t) => `${i / 2} | ${r} | ${m} | ${t}`)}`,
    channels: ALL,
  },
  {
    name: 'tabs, milliseconds by its unit',
    text: `Time (ms)\tRPM\tMAF\tSTFT B1\n${four((i, r, m, t) => `${i * 500}\t${r}\t${m}\t${t}`)}`,
    channels: ALL,
  },
  {
    name: 'milliseconds by its steps',
    text: `time,rpm,maf,stft1\n${four((i, r, m, t) => `${i * 500},${r},${m},${t}`)}`,
    channels: ALL,
  },
  {
    name: 'microseconds by its unit',
    text: `time (us),rpm,maf,stft1\n${four((i, r, m, t) => `${i * 500_000},${r},${m},${t}`)}`,
    channels: ALL,
  },
  {
    name: 'milliseconds since 1970',
    text: `timestamp (ms),rpm,maf,stft1\n${four((i, r, m, t) => `${1_700_000_000_000 + i * 500},${r},${m},${t}`)}`,
    channels: ALL,
  },
  {
    name: 'seconds since 1970, with a fraction',
    text: `timestamp,rpm,maf,stft1\n${four((i, r, m, t) => `${(1_700_000_000 + i / 2).toFixed(1)},${r},${m},${t}`)}`,
    channels: ALL,
  },
  {
    name: 'time of day with a fraction',
    text: `Time,RPM,MAF,STFT B1\n${four((i, r, m, t) => `09:12:3${i >> 1}.${i % 2 ? 5 : 0},${r},${m},${t}`)}`,
    channels: ALL,
  },
  {
    name: 'time of day over noon, with AM and PM',
    text: `Time,RPM,MAF,STFT B1\n11:59:59.0 AM,700,2.1,1.5\n11:59:59.5 AM,710,2.2,2.5\n12:00:00.0 PM,720,2.3,3.5\n12:00:00.5 PM,730,2.4,4.5`,
    channels: ALL,
  },
  {
    name: 'time of day over midnight',
    text: `Time,RPM,MAF,STFT B1\n23:59:59.0,700,2.1,1.5\n23:59:59.5,710,2.2,2.5\n00:00:00.0,720,2.3,3.5\n00:00:00.5,730,2.4,4.5`,
    channels: ALL,
  },
  {
    name: 'minutes and seconds',
    text: `Time,RPM,MAF,STFT B1\n${four((i, r, m, t) => `0:0${i >> 1}.${i % 2 ? 5 : 0},${r},${m},${t}`)}`,
    channels: ALL,
  },
  {
    name: 'ISO date and time with a zone',
    text: `Timestamp,RPM,MAF,STFT B1\n${four((i, r, m, t) => `2026-05-04T09:12:3${i >> 1}.${i % 2 ? 5 : 0}00Z,${r},${m},${t}`)}`,
    channels: ALL,
  },
  {
    name: 'date and time, day first, points, decimal commas',
    text: `Zeit;RPM;MAF;STFT B1\n${four((i, r, m, t) => `04.05.2026 09:12:3${i >> 1},${i % 2 ? 5 : 0};${r};${dec(m)};${dec(t)}`)}`,
    channels: ALL,
  },
  {
    // Nothing in it tells day from month: common practice, no source: the day first, but beside AM and PM.
    name: 'date and time with slashes and neither day over 12 nor AM: the day first',
    text: `Date Time,RPM,MAF,STFT B1\n05/06/2026 23:59:59.0,700,2.1,1.5\n05/06/2026 23:59:59.5,710,2.2,2.5\n06/06/2026 00:00:00.0,720,2.3,3.5\n06/06/2026 00:00:00.5,730,2.4,4.5`,
    channels: ALL,
  },
  {
    name: 'date and time, month first, AM and PM, over the end of a month',
    text: `Date Time,RPM,MAF,STFT B1\n"05/31/2026 11:59:59.0 PM",700,2.1,1.5\n"05/31/2026 11:59:59.5 PM",710,2.2,2.5\n"06/01/2026 12:00:00.0 AM",720,2.3,3.5\n"06/01/2026 12:00:00.5 AM",730,2.4,4.5`,
    channels: ALL,
  },
  {
    name: 'a date in a column of its own',
    text: `Date,Time,RPM,MAF,STFT B1\n${four((i, r, m, t) => `04.05.2026,09:12:3${i >> 1}.${i % 2 ? 5 : 0},${r},${m},${t}`)}`,
    channels: ALL,
    left: { Date: /date beside a clock/ },
  },
  {
    name: 'a clock for each channel',
    text: `Time,RPM,Time,MAF,Time,STFT B1\n${four((i, r, m, t) => `${i / 2},${r},${i / 2 + 0.1},${m},${i / 2 + 0.2},${t}`)}`,
    channels: ALL,
  },
  {
    name: 'title lines above the header',
    text: `Some tool 3.1\nVehicle: none\n\nTime,RPM,MAF,STFT B1\n${four((i, r, m, t) => `${i / 2},${r},${m},${t}`)}`,
    channels: ALL,
  },
  {
    name: 'units in a row of their own',
    text: `Time,Engine speed,MAF,STFT B1\ns,rpm,g/s,%\n${four((i, r, m, t) => `${i / 2},${r},${m},${t}`)}`,
    channels: ALL,
  },
  {
    name: 'units in a row of their own, some empty, in brackets',
    text: `Time,Engine speed,MAF,STFT B1,Gear\n(s),,[g/s],%,\n${four((i, r, m, t) => `${i / 2},${r},${m},${t},2`)}`,
    channels: ALL,
    left: { Gear: /not known/ },
  },
  {
    name: 'units in every cell',
    text: `Time,RPM,MAF,STFT B1\n${four((i, r, m, t) => `${i / 2},${r} rpm,${m} g/s,${t}%`)}`,
    channels: ALL,
  },
  {
    name: 'pounds a minute in the cells, psi and °F in the headers',
    text: `Time,MAF,MAP [psi],ECT [°F]\n${four((i) => `${i / 2},0.5 lb/min,14.5038,${194 + 9 * i}`)}`,
    channels: {
      maf: [3.7799, 3.7799, 3.7799, 3.7799],
      map: [100, 100, 100, 100],
      ect: [90, 95, 100, 105],
    },
  },
  {
    name: 'hectopascals, millibars, miles, inches of mercury, millivolts',
    text: `Time,MAP [hPa],Barometric pressure [mbar],Vehicle speed [mph],O2 Bank 1 Sensor 1 (mV)\n${four((i) => `${i / 2},345,${991 + i},${i * 10},45${i}`)}`,
    channels: {
      map: [34.5, 34.5, 34.5, 34.5],
      baro: [99.1, 99.2, 99.3, 99.4],
      vss: [0, 16.09344, 32.18688, 48.28032],
      o2s11: [0.45, 0.451, 0.452, 0.453],
    },
  },
  {
    name: 'MAP [inHg] and a last word that is a unit',
    text: `Time sec,MAP [inHg],Coolant °C,Speed km/h\n${four((i) => `${i / 2},10,${90 + i},${i}`)}`,
    channels: { map: [33.86389, 33.86389, 33.86389, 33.86389], ect: [90, 91, 92, 93], vss: [0, 1, 2, 3] },
  },
  {
    name: 'thousands by commas, decimals by points, quoted',
    text: `Time,RPM,Barometric pressure [hPa]\n0,"1,013.2","1,013.2"\n0.5,998.5,"1,012.9"\n1,"2,513.0",998.1\n1.5,730.0,998.0`,
    channels: { rpm: [1013.2, 998.5, 2513, 730], baro: [101.32, 101.29, 99.81, 99.8] },
  },
  {
    name: 'thousands by points beside decimal commas: whole numbers agree',
    text: 'Zeit;RPM;MAF\n0,0;812;2,1\n0,5;2.513;11,4\n1,0;998;2,3\n1,5;1.204;5,2',
    channels: { rpm: [812, 2513, 998, 1204], maf: [2.1, 11.4, 2.3, 5.2] },
  },
  {
    name: 'thousands by points beside decimal commas: decimals agree',
    text: 'Zeit;RPM;MAF\n0,0;812,5;2,1\n0,5;2.513;11,4\n1,0;998,0;2,3\n1,5;1.204,5;5,2',
    channels: { rpm: [812.5, 2513, 998, 1204.5] },
  },
  {
    name: 'three digits behind a point beside decimal commas, nothing agrees: asked',
    text: 'Zeit;RPM;Lambda B1 S1\n0,0;812,0;1.002\n0,5;813,5;1.013\n1,0;814,0;1.001\n1,5;815,0;1.004',
    asks: ['Lambda B1 S1'],
  },
  {
    name: 'a column with points beside a table with commas, certain by its digits',
    text: 'Zeit;RPM;Lambda B1 S1\n0,0;812,0;0.998\n0,5;813,5;1.01\n1,0;814,0;1.001\n1,5;815,0;1.0',
    channels: { rpm: [812, 813.5, 814, 815], lambda11: [0.998, 1.01, 1.001, 1] },
  },
  {
    name: 'thousands by spaces, one that does not break',
    text: 'Zeit;RPM;MAF\n0,0;812;2,1\n0,5;2 513;11,4\n1,0;1\u00a0998;2,3\n1,5;1 204;5,2',
    channels: { rpm: [812, 2513, 1998, 1204] },
  },
  {
    name: 'thousands by apostrophes',
    text: "Time;RPM;MAF\n0;812;2.1\n0.5;2'513;11.4\n1;1'998;2.3\n1.5;1'204;5.2",
    channels: { rpm: [812, 2513, 1998, 1204] },
  },
  {
    name: 'nothing said in some cells, in many ways',
    text: 'Time,RPM,MAF,STFT B1\n0,700,--,1.5\n0.5,710,N/A,2.5\n1,n/a,2.3,-\n1.5,730,2.4,NaN',
    channels: { rpm: [700, 710, 730], maf: [2.3, 2.4], stft1: [1.5, 2.5] },
    times: [0, 0.5, 1.5],
  },
  {
    name: 'a minus that is no hyphen, a plus, a number without its 0',
    text: 'Time,RPM,STFT B1\n0,700,\u22122.5\n0.5,710,+1.5\n1,720,.5\n1.5,730,\u20131',
    channels: { rpm: RPM, stft1: [-2.5, 1.5, 0.5, -1] },
  },
  {
    name: 'a byte order mark before quoted headers',
    text: `\uFEFF"Time","RPM","MAF","STFT B1"\n${four((i, r, m, t) => `"${i / 2}","${r}","${m}","${t}"`)}`,
    channels: ALL,
  },
  {
    name: 'long: a line per value, with its unit',
    text: `time,channel,value,unit\n${four((i, r, m, t) => `${i / 2},Engine RPM,${r},rpm\n${i / 2},MAF,${m},g/s\n${i / 2},STFT B1,${t},%`)}`,
    channels: ALL,
  },
  {
    name: 'long, semicolons, decimal commas, names it does not know',
    text: `Zeit;Parameter;Wert;Einheit\n${four((i, r, m, t) => `${dec(i / 2)};RPM;${r};rpm\n${dec(i / 2)};MAF;${dec(m)};g/s\n${dec(i / 2)};STFT B1;${dec(t)};%\n${dec(i / 2)};Mood;7;`)}`,
    channels: ALL,
    left: { Mood: /not known/ },
  },
  {
    name: 'loop state in words',
    text: `Time,RPM,Fuel system status\n0,700,OL\n0.5,710,CL\n1,720,Closed loop\n1.5,730,2`,
    channels: { rpm: RPM },
    loop: ['open loop', 'closed loop', 'closed loop', 'closed loop'],
  },
  {
    name: 'one channel twice: the second is left out, and said to be the same',
    text: 'Time,RPM,Engine speed\n0,700,1\n0.5,710,1\n1,720,1\n1.5,730,1',
    channels: { rpm: RPM },
    left: { 'Engine speed': /same channel as “RPM”/ },
  },
  {
    name: 'volts of an airflow sensor are no airflow: without its curve they stay volts',
    text: 'Time,RPM,MAF (V),IAT (psi)\n0,700,1.2,1\n0.5,710,1.2,1\n1,720,1.2,1\n1.5,730,1.3,1',
    channels: { rpm: RPM, 'MAF (V)': [1.2, 1.2, 1.2, 1.3] },
    left: { 'IAT (psi)': /written in psi, which is no °C/ },
  },
  {
    name: 'a column without a number, cells that are none, a clock that is broken, a cut line',
    text: 'Time,RPM,MAF,ECT\n0,700,2.1,\nx,710,2.2,\n1,fast,2.3,\n1.5,0x1F,2.4',
    channels: { rpm: [700], maf: [2.1, 2.3, 2.4] },
    times: [0],
    left: { ECT: /no number in it/ },
    problems: [/line 3: time "x" cannot be read/, /line 4: RPM: "fast" is not a number/, /line 5: RPM: "0x1F"/],
  },
  {
    name: 'a clock that is called something else, told by its cells',
    text: `Exported by hand;;;\nWhen;Engine speed [rpm];MAF [g/s];STFT B1 [%]\n${four((i, r, m, t) => `11:59:5${8 + Math.floor(i / 2)}.${(i % 2) * 5} AM;${r};${dec(m)};${dec(t)}`)}`,
    channels: ALL,
  },
  {
    name: 'time of day by its name, past noon',
    text: `Time of day,RPM,MAF,STFT B1\n${four((i, r, m, t) => `${i < 2 ? '11:59:59' : '12:00:00'}.${(i % 2) * 5} ${i < 2 ? 'AM' : 'PM'},${r},${m},${t}`)}`,
    channels: ALL,
  },
  {
    name: 'a unit in one cell that is another quantity',
    text: 'Time,RPM,MAF\n0,700,2.1 g/s\n0.5,710,2.2 kPa\n1,720,7.92 kg/h\n1.5,730,2.4',
    channels: { rpm: RPM, maf: [2.1, 2.2, 2.4].map((v, i) => (i === 1 ? 7.92 / 3.6 : v)) },
    problems: [/MAF: "2.2 kPa" is not in g\/s/],
  },
  {
    name: 'no header: figures only',
    text: '0,700,2.1\n0.5,710,2.2\n1,720,2.3',
    missing: /which line names the columns/,
  },
  { name: 'no clock', text: 'RPM,MAF\n700,2.1\n710,2.2', missing: /column is the time/ },
  { name: 'no name known here', text: 'Time,Foo,Bar\n0,1,2\n1,2,3', missing: /say what at least one/ },
  { name: 'a clock of words', text: 'Time,RPM\nnoon,700\nlater,710\nevening,720', missing: /not a time in any form/ },
  { name: 'a header and nothing under it', text: 'Time,RPM,MAF', missing: /not a time in any form/ },
];
