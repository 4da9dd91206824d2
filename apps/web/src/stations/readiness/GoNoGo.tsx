import { MONITORS } from '@just-balance/core/obd';
import type { StartCheck, StartRow } from '@just-balance/core/readiness';
import { midSentence } from '@just-balance/core/units';
import { CircleCheck, CircleHelp, OctagonX } from 'lucide-react';
import { Say } from '../../ui/preferences.tsx';

const STATE: Readonly<Record<StartRow['state'], { text: string; icon: typeof CircleCheck; tone: string }>> = {
  go: { text: 'holds', icon: CircleCheck, tone: 'text-success' },
  'no-go': { text: 'does not hold', icon: OctagonX, tone: 'text-error' },
  unknown: { text: 'not known', icon: CircleHelp, tone: 'text-soft' },
};

/** The verdict at a glance, with what stands against it. */
function verdict({ verdict: is, rows }: StartCheck): string {
  const named = (state: StartRow['state']) =>
    rows
      .filter((r) => r.state === state)
      .map((r) => midSentence(r.name))
      .join(', ');
  if (is === 'go') return 'Go';
  return is === 'no-go' ? `No go: ${named('no-go')}` : `Nothing stands against it; not known: ${named('unknown')}`;
}

/** Everything that has to be so before the start, held against the car as it stands at key-on. */
export function GoNoGo({ check, heard }: { check: StartCheck; heard: boolean }) {
  if (check.rows.length === 0) return null;
  return (
    <section className="card grid gap-3 p-4" aria-label="Go or no go">
      <h2
        className={`m-0 text-[1.6rem] leading-tight font-bold ${check.verdict === 'unknown' ? '' : STATE[check.verdict].tone}`}
        aria-live="polite"
      >
        {verdict(check)}
      </h2>
      {!heard && <p className="m-0 text-soft">As planned and recorded. Key on and connected, the car says the rest.</p>}
      <ul className="m-0 grid list-none gap-2 p-0">
        {check.rows.map((r) => {
          const { text, icon: Icon, tone } = STATE[r.state];
          return (
            <li
              key={r.id}
              className="grid grid-cols-[1.6rem_1fr] sm:grid-cols-[1.6rem_12rem_1fr] items-start gap-3 border-t border-rule pt-2"
            >
              <Icon size={24} aria-hidden className={tone} />
              <span className="font-[650]">
                {r.name} <span className={`block font-normal ${tone}`}>{text}</span>
              </span>
              <span className="col-start-2 sm:col-start-3">
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
