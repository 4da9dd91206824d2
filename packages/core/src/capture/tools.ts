import { QUANTUM } from '../obd/index.ts';

/** What a scan tool can do, as far as the procedures ask for it. */
export type ToolAbility =
  | 'live'
  | 'pending'
  | 'permanent'
  | 'freeze-frame'
  | 'monitors'
  | 'test-results'
  | 'record'
  | 'export';

/** What a tool shows: the step and unit of each channel, how fast, and what it can do. */
export interface ToolProfile {
  id: string;
  label: string;
  kind: 'adapter' | 'hand-held';
  /** Unit a channel is shown in; what is not named follows the units set on this device. */
  unit: Readonly<Record<string, string>>;
  /** Step of each channel in the channel's own (metric) unit; what is not named has the standard's. */
  quantum: Readonly<Record<string, number>>;
  /** Samples a second: one channel alone, and each of about a dozen. */
  aloneHz: number;
  manyHz: number;
  can: readonly ToolAbility[];
  source: string;
}

const STANDARD = { stft: 0.78125, ltft: 0.78125, maf: 0.01, map: 1, ect: 1, iat: 1, rpm: 0.25 };

/** Kinds of tools, not makes. Steps of the wire: SAE J1979 (from memory); of screens and rates: common practice. */
export const TOOL_PROFILES: readonly ToolProfile[] = [
  {
    id: 'adapter',
    label: 'CAN adapter, asked by this program',
    kind: 'adapter',
    unit: { maf: 'g/s', map: 'kPa', ect: '°C', iat: '°C' },
    quantum: STANDARD,
    aloneHz: 80,
    manyHz: 16,
    can: ['live', 'pending', 'permanent', 'freeze-frame', 'monitors', 'record', 'export'],
    source: 'SAE J1979 steps, from memory; rates measured on the simulated vehicle',
  },
  {
    id: 'reader-full',
    label: 'Hand-held, shows the standard’s steps',
    kind: 'hand-held',
    unit: {},
    quantum: STANDARD,
    aloneHz: 10,
    manyHz: 1,
    can: ['live', 'pending', 'permanent', 'freeze-frame', 'monitors', 'test-results'],
    source: 'SAE J1979 steps, from memory; rates common practice',
  },
  {
    id: 'reader-tenths',
    label: 'Hand-held, trims in tenths, airflow in tenths',
    kind: 'hand-held',
    unit: {},
    // Tenths on the screen, but the wire has no finer step than the standard's.
    quantum: { ...STANDARD, maf: 0.1, rpm: 1 },
    aloneHz: 5,
    manyHz: 0.7,
    can: ['live', 'pending', 'freeze-frame', 'monitors'],
    source: 'common practice',
  },
  {
    id: 'reader-whole',
    label: 'Hand-held, whole numbers only',
    kind: 'hand-held',
    unit: {},
    quantum: { stft: 1, ltft: 1, maf: 1, map: 1, ect: 1, iat: 1, rpm: 1, tpRel: 1, vbat: 1 },
    aloneHz: 3,
    manyHz: 0.5,
    can: ['live', 'monitors'],
    source: 'common practice',
  },
  {
    id: 'reader-us',
    label: 'Hand-held in US units, fixed',
    kind: 'hand-held',
    unit: { maf: 'lb/min', map: 'inHg', ect: '°F', iat: '°F' },
    // 0.01 lb/min, 0.1 inHg, 1 °F.
    // The wire's steps are coarser than the screen's for pressure and temperature.
    quantum: { ...STANDARD, maf: 0.0756, rpm: 1 },
    aloneHz: 5,
    manyHz: 0.7,
    can: ['live', 'pending', 'freeze-frame', 'monitors'],
    source: 'common practice; 1 lb/min is 7.56 g/s',
  },
];

const BY_ID = new Map(TOOL_PROFILES.map((t) => [t.id, t]));

/** The profile of this id; undefined where there is none. */
export function toolProfile(id: string): ToolProfile | undefined {
  return BY_ID.get(id);
}

/** A channel's step on a tool, in the channel's unit; the standard's where the profile is silent; 0 where nobody knows. */
export function quantumOf(tool: ToolProfile | undefined, channel: string): number {
  return (
    tool?.quantum[channel] ??
    tool?.quantum[channel.replace(/\d+$/, '')] ??
    QUANTUM.get(channel) ??
    QUANTUM.get(`${channel}1`) ??
    0
  );
}
