import { MONITORS } from '@just-balance/core/obd';
import type { StartCheck, StartRow } from '@just-balance/core/readiness';
import { CircleCheck, CircleHelp, OctagonX } from 'lucide-react';
import { Say } from '../../ui/preferences.tsx';

const STATE: Readonly<Record<StartRow['state'], { text: string; icon: typeof CircleCheck; tone: string }>> = {
  go: { text: 'holds', icon: CircleCheck, tone: 'text-success' },
  'no-go': { text: 'does not hold', icon: OctagonX, tone: 'text-caution' },
  unknown: { text: 'not known', icon: CircleHelp, tone: 'text-soft' },
};

const VERDICT: Readonly<Record<StartCheck['verdict'], string>> = {
  go: 'Go',
  'no-go': 'No go',
  unknown: 'Nothing stands against it, and not all is known',
};

/** Everything that has to be so before the start, held against the car as it stands at key-on. */
export function GoNoGo({ check, heard }: { check: StartCheck; heard: boolean }) {
  if (check.rows.length === 0) return null;
  return (
    <section className="card grid gap-3 p-4" aria-label="Go or no go">
      <h2 className="m-0 text-[1.6rem] font-bold" aria-live="polite">
        {VERDICT[check.verdict]}
      </h2>
      {!heard && <p className="m-0 text-soft">As planned and recorded. Key on and connected, the car says the rest.</p>}
      <ul className="m-0 grid list-none gap-2 p-0">
        {check.rows.map((r) => {
          const { text, icon: Icon, tone } = STATE[r.state];
          return (
            <li
              key={r.id}
              className="grid grid-cols-[1.6rem_minmax(7rem,12rem)_1fr] items-start gap-3 border-t border-rule pt-2"
            >
              <Icon size={24} aria-hidden className={tone} />
              <span className="font-[650]">
                {r.name} <span className={`block font-normal ${tone}`}>{text}</span>
              </span>
              <span>
                <Say text={r.why} />
                {r.state === 'no-go' && r.spoils.length > 0 && (
                  <strong className="block font-[650]">
                    Not complete on this drive: {r.spoils.map((m) => MONITORS[m]).join(', ')}.
                  </strong>
                )}
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
