import { convert, UNITS, type Unit } from '@just-balance/core/units';
import { useState } from 'react';
import { typed } from '../../ui/typed.ts';

const QUANTITIES = {
  torque: 'Torque',
  pressure: 'Pressure',
  massFlow: 'Airflow',
  temperature: 'Temperature',
  speed: 'Speed',
  distance: 'Distance',
  length: 'Length',
  volume: 'Volume',
  area: 'Area',
} as const;
type Quantity = keyof typeof QUANTITIES;

const unitsOf = (q: Quantity) => (Object.keys(UNITS) as Unit[]).filter((u) => UNITS[u].quantity === q);

/** By definition of the kelvin (SI brochure, 9th edition). */
const ABSOLUTE_ZERO_C = -273.15;

/** One figure in every unit of its quantity: torque first, for the fasteners. */
export function Converter() {
  const [quantity, setQuantity] = useState<Quantity>('torque');
  const [unit, setUnit] = useState<Unit>('lbf·in');
  const [text, setText] = useState('');
  const value = Number(typed(text));
  const wrong = !Number.isFinite(value)
    ? `“${text}” is not a number.`
    : quantity === 'temperature' && convert(value, unit, '°C') < ABSOLUTE_ZERO_C
      ? `Nothing is as cold as ${text} ${unit}.`
      : null;
  return (
    <section className="card grid content-start gap-3 p-4" aria-labelledby="converter">
      <h2 id="converter" className="m-0 text-[1.1rem] font-bold">
        Torque and other units
      </h2>
      <div className="grid grid-cols-2 gap-3">
        <label className="field">
          Quantity
          <select
            className="select"
            value={quantity}
            onChange={(e) => {
              const q = e.target.value as Quantity;
              setQuantity(q);
              setUnit(unitsOf(q)[0]!);
            }}
          >
            {Object.entries(QUANTITIES).map(([q, label]) => (
              <option key={q} value={q}>
                {label}
              </option>
            ))}
          </select>
        </label>
        <label className="field">
          Unit
          <select className="select" value={unit} onChange={(e) => setUnit(e.target.value as Unit)}>
            {unitsOf(quantity).map((u) => (
              <option key={u}>{u}</option>
            ))}
          </select>
        </label>
        <label className="field">
          Figure
          <input className="input" inputMode="text" value={text} onChange={(e) => setText(e.target.value)} />
        </label>
      </div>
      <div className="border-t border-rule pt-3" aria-live="polite">
        {text.trim() === '' ? (
          <div className="text-soft">Enter a figure.</div>
        ) : wrong ? (
          <div className="text-caution">{wrong}</div>
        ) : (
          <dl className="m-0 grid gap-1">
            {unitsOf(quantity)
              .filter((u) => u !== unit)
              .map((u) => (
                <div key={u} className="flex items-baseline justify-between gap-3">
                  <dt>{u}</dt>
                  <dd className="figure m-0 text-[1.1rem] font-bold">
                    {Number(convert(value, unit, u).toPrecision(5))
                      .toString()
                      .replace('-', '−')}
                  </dd>
                </div>
              ))}
          </dl>
        )}
      </div>
      <p className="m-0 text-[0.87rem] text-soft">Source: NIST SP 811 (2008) appendix B.8.</p>
    </section>
  );
}
