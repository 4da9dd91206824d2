import { ROUTES, type VehicleChangeView, type VehicleRequest, type VehicleView } from '@just-balance/contract';
import { useState } from 'react';
import { useRead } from '../../data/reads.ts';
import { cardFacts } from '../../job/vehicle/cardFacts.ts';
import { Fold } from '../../ui/Fold.tsx';
import { useShown } from '../../ui/preferences.tsx';

type Show = Parameters<typeof cardFacts>[1];

/** What was changed on the card, newest first: when, by whom, each line before and after. */
export function VehicleChanges({ vehicle }: { vehicle: VehicleView }) {
  const [asked, setAsked] = useState(false);
  return (
    <Fold title="Changes to the card" onOpen={() => setAsked(true)}>
      {asked && <Changes vehicle={vehicle} />}
    </Fold>
  );
}

function Changes({ vehicle }: { vehicle: VehicleView }) {
  const show = useShown();
  // By its revision: a card that was just changed has one more.
  const { data, error } = useRead(ROUTES.vehicleChanges(vehicle.id, vehicle.rev));
  if (error) return <p className="m-0">The changes cannot be read from the shop just now.</p>;
  if (!data) return <p className="m-0 text-soft">Reading…</p>;
  return (
    <ol className="m-0 grid list-none gap-2 p-0">
      {changesOf(vehicle, data, show).map((c) => (
        <li key={c.id}>
          <span className="text-soft">
            {new Date(c.at).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' })}, {c.by}
          </span>
          <ul className="m-0 list-none p-0">
            {c.lines.map((l) => (
              <li key={l.name}>
                {l.name}: was {l.before ?? 'not entered'}, {l.after ? `now ${l.after}` : 'removed'}
              </li>
            ))}
          </ul>
        </li>
      ))}
    </ol>
  );
}

/** Walks from the card as it stands back through its changes: each is put as the lines of the card that it changed. */
function changesOf(vehicle: VehicleView, changes: readonly VehicleChangeView[], show: Show) {
  let after: VehicleRequest = vehicle;
  return changes.map((c) => {
    const before = { ...after, ...there(c.before) } as VehicleRequest;
    const [were, are] = [linesOf(before, show), linesOf(after, show)];
    const names = new Set([...were.keys(), ...are.keys()]);
    const lines = [...names]
      .filter((n) => were.get(n) !== are.get(n))
      .map((name) => ({ name, before: were.get(name), after: are.get(name) }));
    after = before;
    return { ...c, lines };
  });
}

function linesOf(v: VehicleRequest, show: Show): Map<string, string> {
  return new Map([['Name', v.label], ...cardFacts(v, show)]);
}

/** Null says that the field was not there. */
function there(fields: Record<string, unknown>): Record<string, unknown> {
  return Object.fromEntries(Object.entries(fields).map(([k, v]) => [k, v ?? undefined]));
}
