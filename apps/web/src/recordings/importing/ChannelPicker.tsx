import { useEffect, useRef, useState } from 'react';
import { finds } from '../../ui/Combobox.tsx';
import { CHANNEL_CHOICES } from './channels.ts';
import { keyOf, type Line, roleFrom } from './mappingLines.ts';

/** From this many columns on a person searches rather than scrolls. [house] */
export const MANY = 12;

/** What one column is: the whole list, by typing part of a name. */
export function ChannelPicker({ line, close }: { line: Line; close: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null);
  const [search, setSearch] = useState('');
  useEffect(() => dialog.current?.showModal(), []);
  const now = keyOf(line.role);
  const groups = CHANNEL_CHOICES.map((g) => ({
    label: g.label,
    choices: g.choices.filter((c) => finds(`${c.label} ${c.id}`, search.trim())),
  })).filter((g) => g.choices.length > 0);
  const choose = (id: string) => {
    line.set(roleFrom(id, line.name, line.role));
    dialog.current?.close();
  };
  return (
    <dialog ref={dialog} className="modal modal-middle text-ink" onClose={close} aria-labelledby="picker-title">
      <div className="modal-box grid w-[min(560px,94vw)] max-w-none content-start gap-3">
        <h2 id="picker-title" className="m-0 text-xl font-bold">
          What is “{line.name}”?
        </h2>
        <p className="figure m-0 text-[0.9rem] text-soft">
          {line.samples.map((s) => s.slice(0, 24) || '–').join(' · ')}
        </p>
        <label className="field">
          Find
          <input
            className="input"
            type="search"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
            onKeyDown={(e) => {
              const first = groups[0]?.choices[0];
              if (e.key === 'Enter' && search.trim() && first) {
                e.preventDefault();
                choose(first.id);
              }
            }}
          />
        </label>
        <div className="max-h-[50vh] overflow-y-auto">
          {groups.length === 0 && <p className="m-0 text-soft">No channel is called so.</p>}
          {groups.map((g) => (
            <section key={g.label} aria-label={g.label}>
              <h3 className="m-0 mt-2 text-[0.9rem] text-soft">{g.label}</h3>
              <ul className="m-0 list-none p-0">
                {g.choices.map((c) => (
                  <li key={c.id}>
                    <button
                      type="button"
                      aria-pressed={c.id === now}
                      className={`btn btn-ghost w-full justify-start ${c.id === now ? 'btn-active' : 'font-normal'}`}
                      onClick={() => choose(c.id)}
                    >
                      {c.label}
                    </button>
                  </li>
                ))}
              </ul>
            </section>
          ))}
        </div>
        <button type="button" className="btn justify-self-end" onClick={() => dialog.current?.close()}>
          Cancel
        </button>
      </div>
    </dialog>
  );
}
