import { PIDS } from '@just-balance/core/obd';

/** Channels the work is about, in the order a person looks for them; the rest of the standard's below. */
const USUAL: readonly (readonly [string, string])[] = [
  ['rpm', 'Engine speed'],
  ['maf', 'Airflow'],
  ['map', 'Manifold pressure'],
  ['stft1', 'Short-term trim, bank 1'],
  ['ltft1', 'Long-term trim, bank 1'],
  ['stft2', 'Short-term trim, bank 2'],
  ['ltft2', 'Long-term trim, bank 2'],
  ['fuelSys1', 'Loop state, bank 1'],
  ['fuelSys2', 'Loop state, bank 2'],
  ['o2s11', 'Oxygen sensor, bank 1 sensor 1'],
  ['o2s12', 'Oxygen sensor, bank 1 sensor 2'],
  ['o2s21', 'Oxygen sensor, bank 2 sensor 1'],
  ['o2s22', 'Oxygen sensor, bank 2 sensor 2'],
  ['lambda11', 'Lambda, bank 1 sensor 1'],
  ['lambda21', 'Lambda, bank 2 sensor 1'],
  ['ect', 'Coolant'],
  ['iat', 'Intake air'],
  ['vss', 'Road speed'],
  ['load', 'Calculated load'],
  ['loadAbs', 'Absolute load'],
  ['tp', 'Throttle, absolute'],
  ['tpRel', 'Throttle, relative'],
  ['baro', 'Barometric pressure'],
  ['fuelLevel', 'Fuel level'],
  ['vbat', 'Control module voltage'],
];
const LABELS = new Map(USUAL);

/** Two parameters that the standard calls alike are told apart by their channel. */
const others = (() => {
  const list = PIDS.flatMap((p) =>
    p.elements.filter((e) => !e.kind && !LABELS.has(e.id)).map((e) => [e.id, e.label] as const),
  );
  const times = new Map<string, number>();
  for (const label of [...LABELS.values(), ...list.map(([, l]) => l)]) times.set(label, (times.get(label) ?? 0) + 1);
  return new Map(list.map(([id, label]) => [id, times.get(label)! > 1 ? `${label} (${id})` : label]));
})();
export function channelLabel(id: string): string {
  return LABELS.get(id) ?? others.get(id) ?? id;
}

/** Kept under its own name: no parameter we know. */
export const AS_NAMED = '=';

export function isKnown(id: string): boolean {
  return LABELS.has(id) || others.has(id);
}

export const CHANNEL_CHOICES: readonly { label: string; choices: readonly { id: string; label: string }[] }[] = [
  {
    label: 'Layout',
    choices: [
      { id: 'ignore', label: 'Leave out' },
      { id: AS_NAMED, label: 'Keep under its own name' },
      { id: 'time', label: 'Time' },
      { id: 'name', label: 'Channel name (one sample a line)' },
      { id: 'value', label: 'Value (one sample a line)' },
      { id: 'unit', label: 'Unit (one sample a line)' },
    ],
  },
  { label: 'Usual', choices: USUAL.map(([id, label]) => ({ id, label })) },
  { label: 'Others of the standard', choices: [...others].map(([id, label]) => ({ id, label })) },
];
