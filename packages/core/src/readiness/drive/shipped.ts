import { figure, said } from '../../units/index.ts';
import type { Band, DriveProcedure, DriveStep } from './format.ts';

const GRACE_S = 10;
const GENERIC = 'common practice, no source; the vehicle’s own procedure wins';
const mph = (...v: number[]) => figure(v, 'mph', 0, { between: ' to ' });
const CRUISE: Band = { channel: 'vss', low: 40, high: 43, unit: 'mph' };
const HOT: Band = { channel: 'ect', low: 176, unit: '°F', ifKnown: true };
const IDLE: Band = { channel: 'rpm', low: 400, high: 1100, unit: 'rpm' };
const RAISED: Band = { channel: 'rpm', low: 1350, high: 1550, unit: 'rpm' };
/** The pedal moves no faster than this, %/s: fuel that sloshes stops an EVAP test. [house] */
const SMOOTH = 8;
const OFF = { standing: true, engineOff: true, seconds: 10, unseen: true } as const;

/** Before a cruise from a cold soak: the tank's own monitor needs soak and fuel level. */
const COLD: DriveProcedure['before'] = [
  { id: 'soak', low: 8, unit: 'h', steps: ['cruise-evap'] },
  { id: 'ambient', low: 40, high: 100, unit: '°F' },
  { id: 'altitude', high: 8000, unit: 'ft' },
  { id: 'fuel-level', low: 50, high: 75, unit: '%', steps: ['cruise-evap'] },
  { id: 'lamp' },
  { id: 'codes' },
];

/** Idle, then one speed until it is warm and for as long as the tank needs. */
const CRUISED: readonly DriveStep[] = [
  {
    id: 'idle',
    says: 'Start, and idle where it stands.',
    standing: true,
    hold: [{ channel: 'rpm', low: 400, unit: 'rpm', ifKnown: true }],
    seconds: 15,
    graceSeconds: GRACE_S,
  },
  {
    id: 'cruise-warm',
    says: said`Steady at ${mph(40, 43)} until the coolant is at ${figure(170, '°F')}.`,
    finishes: ['o2Heater', 'o2Sensor', 'egrVvt'],
    hold: [CRUISE],
    until: { channel: 'ect', low: 170, unit: '°F' },
    graceSeconds: GRACE_S,
    after: ['idle'],
  },
  {
    id: 'cruise-evap',
    says: 'Stay steady, the pedal still, so that the fuel does not slosh.',
    finishes: ['evap'],
    hold: [CRUISE],
    seconds: 750,
    graceSeconds: GRACE_S,
    after: ['idle'],
  },
];

/** Drive procedures in the units of their source. Bands around a single speed are ours [house]. */
export const DRIVE_PROCEDURES: readonly DriveProcedure[] = [
  {
    format: 'just-balance/drive-procedure',
    version: 1,
    id: 'steady-cruise',
    title: 'Steady cruise from a cold soak',
    source: GENERIC,
    before: COLD,
    steps: [...CRUISED],
    totalMinutes: 30,
    minutes: 20,
  },
  {
    format: 'just-balance/drive-procedure',
    version: 1,
    id: 'seven-stations',
    title: 'Seven stations, each by itself',
    source: GENERIC,
    before: [
      { id: 'fuel-level', low: 15, high: 85, unit: '%' },
      { id: 'codes', codes: ['P044', 'P045', 'P0496', 'P0497', 'P0498', 'P0499'] },
      { id: 'coolant-start', high: 104, unit: '°F', steps: ['air-injection'] },
    ],
    steps: [
      {
        id: 'air-injection',
        says: said`From cold, in park: 1,450 rpm until the coolant is at ${figure(158, '°F')} and seven minutes more, idle 6 s.`,
        finishes: ['secondaryAir'],
        graceSeconds: GRACE_S,
        repeatable: true,
        phases: [
          { until: { channel: 'ect', high: 104, unit: '°F' }, standing: true },
          { standing: true, hold: [RAISED], until: { channel: 'ect', low: 158, unit: '°F' } },
          { standing: true, hold: [RAISED], seconds: 420 },
          { standing: true, hold: [IDLE], seconds: 6 },
          OFF,
        ],
      },
      {
        id: 'heater',
        says: '2,000 to 2,500 rpm for two minutes, then idle.',
        finishes: ['o2Heater'],
        hold: [{ channel: 'rpm', low: 2000, high: 2500, unit: 'rpm' }, HOT],
        seconds: 120,
        graceSeconds: GRACE_S,
        repeatable: true,
      },
      {
        id: 'o2-sensor',
        says: said`Steady at ${mph(43)} for three minutes.`,
        finishes: ['o2Sensor'],
        hold: [{ channel: 'vss', low: 41, high: 45, unit: 'mph' }, HOT],
        seconds: 180,
        graceSeconds: GRACE_S,
        repeatable: true,
      },
      {
        id: 'catalyst',
        says: said`Steady at ${mph(48, 54)} for three minutes.`,
        finishes: ['catalyst'],
        hold: [{ channel: 'vss', low: 48, high: 54, unit: 'mph' }, HOT],
        seconds: 180,
        graceSeconds: GRACE_S,
        repeatable: true,
      },
      {
        id: 'fuel-adaptation',
        says: 'Stand in park and idle for three minutes.',
        finishes: ['fuelSystem'],
        standing: true,
        hold: [IDLE, HOT],
        seconds: 180,
        graceSeconds: GRACE_S,
        repeatable: true,
      },
      {
        id: 'egr',
        says: 'Pull away smoothly to 2,000 rpm, lift, coast below 1,100 rpm to a complete stop. In park, brake on, off 10 s.',
        finishes: ['egrVvt'],
        graceSeconds: GRACE_S,
        repeatable: true,
        phases: [
          { hold: [HOT], until: { channel: 'rpm', low: 2000, unit: 'rpm' } },
          { until: { channel: 'rpm', high: 1100, unit: 'rpm' } },
          { until: { channel: 'vss', high: 0.5, unit: 'km/h' } },
          OFF,
        ],
      },
      {
        id: 'evap',
        says: 'In park, shaded, outdoors: idle 20 minutes without load. Then off 10 s.',
        finishes: ['evap'],
        graceSeconds: GRACE_S,
        repeatable: true,
        phases: [
          {
            standing: true,
            hold: [
              IDLE,
              { channel: 'ect', high: 212, unit: '°F', ifKnown: true },
              { channel: 'iat', high: 113, unit: '°F', ifKnown: true },
              { channel: 'fuelLevel', low: 25, high: 75, unit: '%', ifKnown: true },
            ],
            seconds: 1200,
          },
          OFF,
        ],
      },
    ],
    minutes: 75,
  },
  {
    format: 'just-balance/drive-procedure',
    version: 1,
    id: 'general',
    title: 'The general drive',
    source: 'general denominator of CCR title 13 § 1968.2 (from memory)',
    before: [
      { id: 'ambient', low: -7, unit: '°C' },
      { id: 'altitude', high: 8000, unit: 'ft' },
    ],
    steps: [
      {
        id: 'idle',
        says: 'One idle of 30 s without a break.',
        standing: true,
        hold: [{ channel: 'rpm', low: 400, unit: 'rpm', ifKnown: true }],
        seconds: 30,
        graceSeconds: GRACE_S,
      },
      {
        id: 'cruise',
        says: said`Five minutes in all at ${figure(40, 'km/h')} or more, with steady stretches and coast-downs.`,
        finishes: ['o2Heater', 'o2Sensor', 'egrVvt', 'catalyst'],
        hold: [{ channel: 'vss', low: 40, unit: 'km/h' }],
        seconds: 300,
        graceSeconds: GRACE_S,
        inAll: true,
      },
      {
        id: 'run',
        says: 'Ten minutes of running engine in all.',
        hold: [{ channel: 'rpm', low: 1, unit: 'rpm', ifKnown: true }],
        seconds: 600,
        graceSeconds: GRACE_S,
        inAll: true,
      },
    ],
    minutes: 15,
  },
  {
    format: 'just-balance/drive-procedure',
    version: 1,
    id: 'one-drive',
    title: 'One drive for all that is open: cruise, faster, coast, idle',
    source: `${GENERIC}; throttle bound and limit of time [house]`,
    before: COLD,
    steps: [
      ...CRUISED.map((step) => (step.id === 'idle' ? step : { ...step, smooth: SMOOTH })),
      {
        id: 'faster',
        says: said`On to ${mph(48, 54)} where that is lawful, steady for three minutes.`,
        finishes: ['catalyst'],
        hold: [{ channel: 'vss', low: 48, high: 54, unit: 'mph' }, HOT],
        seconds: 180,
        graceSeconds: GRACE_S,
        repeatable: true,
        after: ['cruise-warm'],
      },
      {
        id: 'coast',
        says: said`Foot off, in gear, with nobody close behind: coast from there to below ${mph(25)}.`,
        finishes: ['egrVvt'],
        graceSeconds: GRACE_S,
        repeatable: true,
        after: ['faster'],
        phases: [
          { hold: [HOT], until: { channel: 'vss', low: 45, unit: 'mph' } },
          { until: { channel: 'vss', high: 25, unit: 'mph' } },
        ],
      },
      {
        id: 'idle-end',
        says: 'Stand in park and idle for three minutes.',
        finishes: ['fuelSystem'],
        standing: true,
        hold: [IDLE, HOT],
        seconds: 180,
        graceSeconds: GRACE_S,
        repeatable: true,
        after: ['cruise-warm'],
      },
    ],
    totalMinutes: 45,
    minutes: 30,
  },
  {
    format: 'just-balance/drive-procedure',
    version: 1,
    id: 'stubborn-catalyst',
    title: 'The catalyst that stays open: two cruises by foot, coast, idle',
    source: `${GENERIC}; bands around a speed and throttle bound [house]`,
    before: [{ id: 'lamp' }, { id: 'codes' }],
    steps: [
      {
        id: 'cruise-slow',
        says: said`By foot, no cruise control: steady at ${mph(43)} for three minutes.`,
        hold: [{ channel: 'vss', low: 41, high: 45, unit: 'mph' }, HOT],
        seconds: 180,
        graceSeconds: GRACE_S,
        smooth: SMOOTH,
      },
      {
        id: 'cruise-fast',
        says: said`By foot: steady at ${mph(51)} for three minutes, where that is lawful.`,
        hold: [{ channel: 'vss', low: 49, high: 53, unit: 'mph' }, HOT],
        seconds: 180,
        graceSeconds: GRACE_S,
        smooth: SMOOTH,
        after: ['cruise-slow'],
      },
      {
        id: 'coast',
        says: 'Foot off, and coast to a stop where it is safe.',
        graceSeconds: GRACE_S,
        after: ['cruise-fast'],
        phases: [{ until: { channel: 'vss', high: 0.5, unit: 'km/h' } }],
      },
      {
        id: 'idle-park',
        says: 'In park, brake on: idle for three minutes.',
        finishes: ['catalyst'],
        standing: true,
        hold: [IDLE, HOT],
        seconds: 180,
        graceSeconds: GRACE_S,
        after: ['coast'],
      },
    ],
    minutes: 20,
  },
  {
    format: 'just-balance/drive-procedure',
    version: 1,
    id: 'evap-in-town',
    title: 'EVAP in town: twenty minutes, off, and again',
    source: `${GENERIC}; speeds [house]`,
    before: [
      { id: 'fuel-level', low: 25, high: 75, unit: '%' },
      { id: 'codes', codes: ['P044', 'P045', 'P0496', 'P0497', 'P0498', 'P0499'] },
    ],
    steps: [
      {
        id: 'town',
        says: 'Twenty minutes of easy town driving in all, loads off.',
        hold: [
          { channel: 'vss', low: 5, high: 65, unit: 'km/h' },
          { channel: 'ect', high: 212, unit: '°F', ifKnown: true },
          { channel: 'iat', high: 113, unit: '°F', ifKnown: true },
        ],
        seconds: 1200,
        graceSeconds: GRACE_S,
        inAll: true,
      },
      {
        id: 'evap',
        says: 'Stop, in park, brake on, and switch off for ten seconds. Start again.',
        finishes: ['evap'],
        graceSeconds: GRACE_S,
        after: ['town'],
        phases: [{ until: { channel: 'vss', high: 0.5, unit: 'km/h' } }, OFF],
      },
    ],
    drives: 2,
    minutes: 30,
  },
];

/** The shipped procedure of this id; undefined where there is none. */
export const driveProcedure = (id: string): DriveProcedure | undefined => DRIVE_PROCEDURES.find((p) => p.id === id);
