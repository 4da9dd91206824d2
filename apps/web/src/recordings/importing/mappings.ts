import type { LayoutRequest, LayoutView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { isWords, type Mapping, type Role } from '@just-balance/core/recordingFiles';
import { api, writesAs } from '../../data/api.ts';
import { store } from '../../data/store.ts';

/** The same headers in the same order: the same tool, read the same way. */
const keyOf = (m: Mapping) => m.headers.join('\u001f');

type Remembered = Pick<LayoutView, 'layout' | 'roles'>;

function roleFrom({ kind, id, unit, from }: Remembered['roles'][number]): Role {
  if (kind === 'channel') return { kind, id: id ?? '', unit: unit ?? '', from: from ?? unit ?? '' };
  if (kind === 'loop') return { kind, id: isWords(id) ? id : 'fuelSys1' };
  return { kind };
}

/** A proposal with what is remembered of its headers over it: what is not among that is left out. */
function applied(proposed: Mapping, { layout, roles }: Remembered): Mapping {
  const left = (r: Role | undefined): Role =>
    r?.kind === 'ignore' ? r : { kind: 'ignore', why: 'left out last time' };
  const columns = new Map(roles.flatMap((r) => (r.column === undefined ? [] : [[r.column, roleFrom(r)] as const])));
  const names = new Map(roles.flatMap((r) => (r.name === undefined ? [] : [[r.name, roleFrom(r)] as const])));
  return {
    ...proposed,
    layout,
    roles: proposed.roles.map((r, i) => columns.get(i) ?? left(r)),
    ...(layout === 'long'
      ? {
          names: Object.fromEntries(
            [...new Set([...Object.keys(proposed.names ?? {}), ...names.keys()])].map((n) => [
              n,
              names.get(n) ?? left(proposed.names?.[n]),
            ]),
          ),
        }
      : {}),
  };
}

function asRemembered(m: Mapping): Remembered {
  const rest = (r: Role) =>
    r.kind === 'channel'
      ? { kind: r.kind, id: r.id, unit: r.unit, from: r.from }
      : r.kind === 'loop'
        ? { kind: r.kind, id: r.id }
        : { kind: r.kind as 'time' };
  return {
    layout: m.layout,
    roles: [
      ...m.roles.flatMap((r, column) => (r.kind === 'ignore' ? [] : [{ column, ...rest(r) }])),
      ...Object.entries(m.names ?? {}).flatMap(([name, r]) => (r.kind === 'ignore' ? [] : [{ name, ...rest(r) }])),
    ],
  };
}

/** On this device each person's own. */
const ownKey = (headers: string) => `${writesAs()} ${headers}`;

/** How a file with these headers was read last time in this shop, else on this device; null when it never was. */
export async function rememberedMapping(proposed: Mapping): Promise<Mapping | null> {
  const headers = keyOf(proposed);
  const asked = await api.send(WRITES.findLayout, { headers }).catch(() => null);
  // Without the shop, what this device has seen.
  const found =
    asked?.found ?? ((await (await store()).get('mappings', ownKey(headers)))?.mapping as Remembered | undefined);
  return found && Array.isArray(found.roles) ? applied(proposed, found) : null;
}

export async function rememberMapping(m: Mapping): Promise<void> {
  const headers = keyOf(m);
  const mapping = asRemembered(m);
  await (await store()).put('mappings', { headers: m.headers.join(', '), mapping, at: Date.now() }, ownKey(headers));
  const body: LayoutRequest = { headers, ...mapping };
  await api.send(WRITES.keepLayout, body);
}
