import { cut } from '@just-balance/contract/checks';
import { convertible, isWords, type Mapping, type Role, unitOfChannel } from '@just-balance/core/recordingFiles';
import { AS_NAMED, isKnown } from './channels.ts';

export function keyOf(r: Role): string {
  if (r.kind === 'loop') return r.id;
  if (r.kind === 'channel') return isKnown(r.id) ? r.id : AS_NAMED;
  return r.kind;
}

export function roleFrom(key: string, name: string, before: Role): Role {
  if (isWords(key)) return { kind: 'loop', id: key };
  if (key === 'time' || key === 'name' || key === 'value' || key === 'unit' || key === 'ignore') return { kind: key };
  if (key === AS_NAMED)
    return {
      kind: 'channel',
      id: cut(name.replace(/[^\p{L}\p{N} ._:()/%-]/gu, ' '), 60) || 'column',
      unit: '',
      from: '',
    };
  const unit = unitOfChannel(key);
  const from = before.kind === 'channel' && convertible(before.from, unit) ? before.from : unit;
  return { kind: 'channel', id: key, unit, from };
}

export interface Line {
  key: string;
  name: string;
  role: Role;
  samples: string[];
  /** Another column that is read as the same channel and comes first: this one is left out. */
  twin: string | null;
  set: (r: Role) => void;
}

/** The name of an earlier column with the same channel, by column. */
function twinsOf(m: Mapping): (string | null)[] {
  const first = new Map<string, string>();
  return m.roles.map((r, i) => {
    if (r.kind !== 'channel' || r.unit === '') return null;
    const before = first.get(r.id);
    if (before === undefined) first.set(r.id, m.headers[i]!);
    return before ?? null;
  });
}

export function columnLines(m: Mapping, rows: string[][], change: (m: Mapping) => void): Line[] {
  const twins = m.layout === 'wide' ? twinsOf(m) : [];
  return m.headers.map((h, i) => ({
    twin: twins[i] ?? null,
    key: `column ${i}`,
    name: h || `column ${i + 1}`,
    role: m.roles[i]!,
    samples: rows.slice(m.skip, m.skip + 3).map((r) => r[i] ?? ''),
    set: (role) => change({ ...m, roles: m.roles.map((r, k) => (k === i ? role : r)) }),
  }));
}

/** Long layout: one line per channel name instead of per column. */
export function nameLines(m: Mapping, rows: string[][], change: (m: Mapping) => void): Line[] {
  const name = m.roles.findIndex((r) => r.kind === 'name');
  const value = m.roles.findIndex((r) => r.kind === 'value');
  return Object.entries(m.names ?? {}).map(([n, role]) => ({
    key: `name ${n}`,
    twin: null,
    name: n,
    role,
    samples: rows
      .filter((r) => r[name] === n)
      .slice(0, 3)
      .map((r) => r[value] ?? ''),
    set: (r) => change({ ...m, names: { ...m.names, [n]: r } }),
  }));
}
