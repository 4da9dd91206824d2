import { convertible, type Mapping, type Role, unitOfChannel } from '@just-balance/core/importing';
import { AS_NAMED, CHANNEL_CHOICES, isKnown } from './channels.ts';

const WRITTEN_UNITS: Readonly<Record<string, readonly string[]>> = {
  kPa: ['kPa', 'psi', 'inHg', 'bar'],
  '°C': ['°C', '°F'],
  'km/h': ['km/h', 'mph'],
  'g/s': ['g/s', 'lb/min', 'kg/h'],
  km: ['km', 'mi'],
};

function keyOf(r: Role): string {
  if (r.kind === 'loop') return r.id;
  if (r.kind === 'channel') return isKnown(r.id) ? r.id : AS_NAMED;
  return r.kind;
}

function roleFrom(key: string, name: string, before: Role): Role {
  if (key === 'fuelSys1' || key === 'fuelSys2') return { kind: 'loop', id: key };
  if (key === 'time' || key === 'name' || key === 'value' || key === 'unit' || key === 'ignore') return { kind: key };
  if (key === AS_NAMED)
    return {
      kind: 'channel',
      id: name.replace(/[^\p{L}\p{N} ._:()/%-]/gu, ' ').slice(0, 60) || 'column',
      unit: '',
      from: '',
    };
  const unit = unitOfChannel(key);
  const from = before.kind === 'channel' && convertible(before.from, unit) ? before.from : unit;
  return { kind: 'channel', id: key, unit, from };
}

interface Line {
  key: string;
  name: string;
  role: Role;
  samples: string[];
  set: (r: Role) => void;
}

function columnLines(m: Mapping, rows: string[][], change: (m: Mapping) => void): Line[] {
  return m.headers.map((h, i) => ({
    key: `column ${i}`,
    name: h || `column ${i + 1}`,
    role: m.roles[i]!,
    samples: rows.slice(m.skip, m.skip + 3).map((r) => r[i] ?? ''),
    set: (role) => change({ ...m, roles: m.roles.map((r, k) => (k === i ? role : r)) }),
  }));
}

/** Long layout: one line per channel name instead of per column. */
function nameLines(m: Mapping, rows: string[][], change: (m: Mapping) => void): Line[] {
  const name = m.roles.findIndex((r) => r.kind === 'name');
  const value = m.roles.findIndex((r) => r.kind === 'value');
  return Object.entries(m.names ?? {}).map(([n, role]) => ({
    key: `name ${n}`,
    name: n,
    role,
    samples: rows
      .filter((r) => r[name] === n)
      .slice(0, 3)
      .map((r) => r[value] ?? ''),
    set: (r) => change({ ...m, names: { ...m.names, [n]: r } }),
  }));
}

/** What each column is taken for, with what stands in it; every line can be corrected. */
export function MappingTable({
  mapping,
  rows,
  change,
}: {
  mapping: Mapping;
  rows: string[][];
  change: (m: Mapping) => void;
}) {
  const lines = [
    ...columnLines(mapping, rows, change),
    ...(mapping.layout === 'long' ? nameLines(mapping, rows, change) : []),
  ];
  return (
    <div className="overflow-x-auto">
      <table className="plain">
        <caption className="sr-only">Columns of the file and what they are read as</caption>
        <thead>
          <tr>
            <th scope="col">{mapping.layout === 'long' ? 'Column or channel' : 'Column'}</th>
            <th scope="col">First values</th>
            <th scope="col">Read as</th>
            <th scope="col">Written in</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((l) => (
            <MappingLine key={l.key} line={l} />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function MappingLine({ line: { name, role, samples, set } }: { line: Line }) {
  const units = role.kind === 'channel' ? (WRITTEN_UNITS[role.unit] ?? [role.unit]) : [];
  return (
    <tr>
      <td className="max-w-56 font-[650] break-words">{name}</td>
      <td className="figure max-w-64 truncate text-[0.9rem] text-soft">
        {samples.map((s) => s.slice(0, 24) || '–').join(' · ')}
      </td>
      <td>
        <span className="field">
          <select
            aria-label={`${name} read as`}
            className={role.kind === 'ignore' ? 'text-soft' : ''}
            value={keyOf(role)}
            onChange={(e) => set(roleFrom(e.target.value, name, role))}
          >
            {CHANNEL_CHOICES.map((g) => (
              <optgroup key={g.label} label={g.label}>
                {g.choices.map((c) => (
                  <option key={c.id} value={c.id}>
                    {c.label}
                  </option>
                ))}
              </optgroup>
            ))}
          </select>
        </span>
      </td>
      <td>
        {role.kind === 'channel' && units.length > 1 ? (
          <span className="field">
            <select
              aria-label={`${name} written in`}
              value={role.from}
              onChange={(e) => set({ ...role, from: e.target.value })}
            >
              {units.map((u) => (
                <option key={u}>{u}</option>
              ))}
            </select>
          </span>
        ) : (
          <span className="figure text-soft">{role.kind === 'channel' ? role.unit : ''}</span>
        )}
      </td>
    </tr>
  );
}
