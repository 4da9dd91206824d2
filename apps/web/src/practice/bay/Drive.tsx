import { BayCommand, type BayView } from '@just-balance/contract';
import { numberText } from '@just-balance/core/units';
import { useState } from 'react';
import { Choice } from '../../ui/Choice.tsx';
import { Field } from '../../ui/Field.tsx';
import { useShown } from '../../ui/preferences.tsx';
import { Press, type Send } from './Press.tsx';

/** What a driver does with the car: the key, the pedal, the road. */
export function Drive({ send, busy, view }: { send: Send; busy: boolean; view: BayView }) {
  const show = useShown();
  const road = show(ROAD_KMH, 'km/h', 0);
  const press = (name: string, command: BayCommand['command'], rest?: Partial<BayCommand>) => (
    <Press key={name} busy={busy} act={() => send(command, rest)}>
      {name}
    </Press>
  );
  return (
    <div className="flex flex-wrap gap-2" role="group" aria-label="Key and pedal">
      {press('Key off', 'key', { on: false })}
      {press('Key on only', 'koeo')}
      {press('Idle', 'idle')}
      {press('A/C on', 'idle', { ac: true })}
      {press('Hold 2,500', 'hold', { rpm: 2500 })}
      {press('Snap', 'snap')}
      {press(`Road ${numberText(road.value, road.digits)} ${road.unit}`, 'speed', { kmh: ROAD_KMH })}
      {press('Full load', 'full-load', { rpm: 4000 })}
      {press('Coast', 'coast')}
      {press('Warm it up', 'warm')}
      {view.vehicle.fuel === 'petrol' && press('Let trims settle', 'settle')}
    </div>
  );
}

/** A steady road. [house] */
const ROAD_KMH = 80;

const RATES = [0, 1, 10, 40] as const;

/** A drive from the first turn of the key to the last, as asked or with one thing wrong; time can be hurried. */
export function WholeDrive({ send, busy, view }: { send: Send; busy: boolean; view: BayView }) {
  const [script, setScript] = useState(view.scripts[0]?.id ?? '');
  return (
    <div className="flex flex-wrap items-end gap-3" role="group" aria-label="A whole drive">
      <Field label="A whole drive">
        {(aria) => (
          <Choice value={script} choose={setScript} {...aria}>
            {view.scripts.map((s) => (
              <option key={s.id} value={s.id}>
                {s.label}
              </option>
            ))}
          </Choice>
        )}
      </Field>
      <Press busy={busy || script === ''} act={() => send('script', { script })}>
        Drive it
      </Press>
      <Field label="Time">
        {(aria) => (
          <Choice
            value={String(view.rate)}
            disabled={busy}
            choose={(rate) => void send('rate', { rate: Number(rate) })}
            {...aria}
          >
            {[...new Set([...RATES, view.rate])]
              .sort((a, b) => a - b)
              .map((r) => (
                <option key={r} value={r}>
                  {r === 0 ? 'stands still' : r === 1 ? 'as it is' : `${r} times as fast`}
                </option>
              ))}
          </Choice>
        )}
      </Field>
    </div>
  );
}
