import { channelLabel } from './importing/channels.ts';

export const MOST_STRIPS = 6;

/** Shown first, where the recording holds them. */
export const FIRST = ['rpm', 'maf', 'map', 'total1', 'total2', 'o2s11'];

/** What the first strips are made of, the totals and the expected airflow among them. */
export const FOR_TRACES = ['rpm', 'maf', 'map', 'iat', 'stft1', 'ltft1', 'stft2', 'ltft2', 'o2s11'];

/** What the other views need, loaded when one is opened. */
export const FOR_VIEWS = [
  'rpm',
  'maf',
  'map',
  'iat',
  'load',
  'loadAbs',
  'stft1',
  'ltft1',
  'stft2',
  'ltft2',
  'fuelSys1',
  'fuelSys2',
  'o2s11',
  'o2s12',
  'o2s21',
  'o2s22',
  'lambda11',
  'lambda21',
];

/** What drive procedures look at, and what the first seconds say of the car. */
export const FOR_DRIVE = ['vss', 'rpm', 'ect', 'iat', 'fuelLevel', 'ambient', 'baro', 'vbat', 'monitorStatus'];

export const VIEWS = [
  'Traces',
  'Trim against airflow',
  'Trim map',
  'Airflow against expected',
  'Oxygen sensors',
  'Drive',
] as const;

export type View = (typeof VIEWS)[number];

const LABELS: Readonly<Record<string, string>> = { total1: 'Total trim, bank 1', total2: 'Total trim, bank 2' };

export const labelOf = (id: string) => LABELS[id] ?? channelLabel(id);
