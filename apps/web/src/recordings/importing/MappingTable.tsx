import { cut } from '@just-balance/contract/checks';
import { convertible, type Mapping, type Role, unitOfChannel } from '@just-balance/core/recordingFiles';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef } from 'react';
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
      id: cut(name.replace(/[^\p{L}\p{N} ._:()/%-]/gu, ' '), 60) || 'column',
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

/** Estimated height of a line, px; measured once it is drawn. */
const LINE = 62;

/**
 * What each column is taken for, with what stands in it; every line can be corrected. Only the lines in sight are drawn:
 * ten thousand columns are as quick as ten.
 */
export function MappingTable({
  mapping,
  rows,
  change,
}: {
  mapping: Mapping;
  rows: string[][];
  change: (m: Mapping) => void;
}) {
  const scroll = useRef<HTMLDivElement>(null);
  const lines = [
    ...columnLines(mapping, rows, change),
    ...(mapping.layout === 'long' ? nameLines(mapping, rows, change) : []),
  ];
  const drawn = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => LINE,
    overscan: 6,
  });
  const items = drawn.getVirtualItems();
  const above = items[0]?.start ?? 0;
  const below = drawn.getTotalSize() - (items.at(-1)?.end ?? 0);
  return (
    <div
      ref={scroll}
      className="max-h-[60vh] overflow-auto"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a box that scrolls has to be reached by keyboard
      tabIndex={0}
      role="region"
      aria-label="Columns of the file"
    >
      <table className="table" aria-rowcount={lines.length + 1}>
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
          {above > 0 && (
            <tr aria-hidden style={{ height: above }}>
              <td colSpan={4} />
            </tr>
          )}
          {items.map((i) => (
            <MappingLine
              key={lines[i.index]!.key}
              line={lines[i.index]!}
              index={i.index}
              measure={drawn.measureElement}
            />
          ))}
          {below > 0 && (
            <tr aria-hidden style={{ height: below }}>
              <td colSpan={4} />
            </tr>
          )}
        </tbody>
      </table>
    </div>
  );
}

function MappingLine({
  line: { name, role, samples, set },
  index,
  measure,
}: {
  line: Line;
  index: number;
  measure: (el: HTMLTableRowElement | null) => void;
}) {
  const units = role.kind === 'channel' ? (WRITTEN_UNITS[role.unit] ?? [role.unit]) : [];
  return (
    <tr ref={measure} data-index={index} aria-rowindex={index + 2}>
      <td className="max-w-56 font-[650] break-words">{name}</td>
      <td className="figure max-w-64 truncate text-[0.9rem] text-soft">
        {samples.map((s) => s.slice(0, 24) || '–').join(' · ')}
      </td>
      <td>
        <span className="field">
          <select
            aria-label={`${name} read as`}
            className={`select ${role.kind === 'ignore' ? 'text-soft' : ''}`}
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
              className="select"
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
