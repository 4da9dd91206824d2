import { MONITORS } from '@just-balance/core/obd';
import {
  boundsText,
  type DriveProcedure,
  type PlanRequest,
  planDrive,
  SCHOOLS,
  type SharedCondition,
  sharedConditions,
} from '@just-balance/core/readiness';
import { format } from 'date-fns';
import { Fold } from '../../ui/Fold.tsx';
import { useSay } from '../../ui/preferences.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { Table } from '../../ui/Table.tsx';
import { CALLED } from './words.ts';

/** The procedures beside each other: when each could start, what it finishes; where they disagree, what suits all. */
export function Compared({ procedures, request }: { procedures: readonly DriveProcedure[]; request: PlanRequest }) {
  const say = useSay();
  const plans = procedures.map((procedure) => ({ procedure, plan: planDrive({ ...request, procedure }) }));
  const title = (id: string) => procedures.find((p) => p.id === id)?.title ?? id;
  return (
    <Fold title="Procedures compared">
      <div className="grid gap-4">
        <Scrolls label="Procedures compared">
          <Table
            rows={plans}
            keyOf={({ procedure }) => procedure.id}
            columns={[
              { head: 'Procedure', names: true, cell: ({ procedure }) => procedure.title },
              {
                head: 'Earliest start',
                cell: ({ plan }) =>
                  plan.earliestStart
                    ? format(new Date(plan.earliestStart), 'EEE d MMM, HH:mm')
                    : plan.conditions.some((c) => c.state === 'never')
                      ? 'not by waiting'
                      : 'not in the forecast',
              },
              {
                head: 'Can finish',
                cell: ({ plan }) => plan.couldFinish.map((m) => MONITORS[m]).join(', ') || 'nothing that is open',
              },
              { head: 'Minutes', figure: true, cell: ({ plan }) => plan.minutes ?? '—' },
            ]}
          />
        </Scrolls>
        <section aria-label="Where they disagree">
          <h3 className="m-0 text-base font-[650]">Where they disagree, what suits all</h3>
          <ul className="m-0 pl-5">
            {sharedConditions(procedures).map((s) => (
              <li key={s.id}>
                {CALLED[s.id]}: {say(suits(s))}.{' '}
                {s.asked.map((a) => `${title(a.procedure)}: ${say(bounds(s, a))}`).join('; ')}.
              </li>
            ))}
            {SCHOOLS.map((s) => (
              <li key={s.about}>
                {s.about}: {s.both}. Some say {s.one}; others, {s.other}.
              </li>
            ))}
          </ul>
        </section>
      </div>
    </Fold>
  );
}

/** `null` is open. */
const bounds = (s: SharedCondition, { low, high }: { low: number | null; high: number | null }) =>
  boundsText({ id: s.id, unit: s.unit, ...(low === null ? {} : { low }), ...(high === null ? {} : { high }) });
const suits = (s: SharedCondition) => (s.none ? 'nothing suits all of them' : bounds(s, s));
