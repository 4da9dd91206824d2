import { type PartOrderView, ROUTES } from '@just-balance/contract';
import type { OrderState } from '@just-balance/core/procedures';
import { counted } from '@just-balance/core/units';
import { format } from 'date-fns';
import { Printer } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { useRead } from '../../data/reads.ts';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { OrderButtons } from '../../job/work/OrderButtons.tsx';
import { ORDER_LABELS, sayOfPart } from '../../job/work/orders.ts';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Scrolls } from '../../ui/Scrolls.tsx';
import { Table } from '../../ui/Table.tsx';
import { useAction } from '../../ui/useAction.ts';

const keyOf = (o: PartOrderView) => `${o.run} ${o.part}`;

/** Parts that the works of all jobs ask for: to order, under way, here and not fitted yet. */
export function PartsPage() {
  const { data, error, mutate } = useRead(ROUTES.orders, { refreshInterval: 15_000 });
  const { busy, trouble, run } = useAction();
  /** What was struck out here: until the page is left it can be put back. */
  const [struck, setStruck] = useState<readonly PartOrderView[]>([]);
  const rows = data ?? [];
  const number = (is: OrderState) => rows.filter((o) => o.is === is).length;
  const say = (o: PartOrderView, is: OrderState) =>
    run(async () => {
      const sent = await sayOfPart(o.job, o.run, o.part, is);
      const now = { ...o, is };
      const others = (list: readonly PartOrderView[]) => list.filter((x) => keyOf(x) !== keyOf(o));
      const there = rows.some((x) => keyOf(x) === keyOf(o));
      const changed = there ? rows.map((x) => (keyOf(x) === keyOf(o) ? now : x)) : [...rows, now];
      setStruck((list) => [...others(list), ...(is === 'struck' ? [now] : [])]);
      // What waits on this device is not in the server's list yet.
      await mutate(is === 'struck' ? others(rows) : changed, { revalidate: sent });
    });
  return (
    <Frame title="Parts" subtitle="what the works of all jobs ask for" side={<HouseNav current="parts" />}>
      {error && !data ? (
        <NextStep tone="trouble" title="The list could not be read" why={String(error.message)} />
      ) : (
        data && (
          <NextStep
            title={number('wanted') > 0 ? `${counted(number('wanted'), 'part')} to order` : 'Nothing to order'}
            why={
              rows.length === 0
                ? 'A work that is parked for a part puts it here. It stays until it is here and the work is over, or struck out.'
                : [
                    ...(number('ordered') > 0 ? [`${number('ordered')} ordered and not here yet.`] : []),
                    ...(number('arrived') > 0 ? [`${number('arrived')} here and not fitted yet.`] : []),
                  ].join(' ')
            }
          >
            <button type="button" className="btn btn-lg" onClick={() => window.print()}>
              <Printer size={19} aria-hidden /> Print the list
            </button>
          </NextStep>
        )
      )}
      <Problem trouble={trouble} />
      {rows.length > 0 && (
        <Scrolls label="Parts of all jobs">
          <Table
            caption="Parts of all jobs"
            rows={rows}
            keyOf={keyOf}
            columns={[
              { head: 'Part', names: true, cellClass: 'font-[650]', cell: (o) => o.part },
              {
                head: 'For',
                cell: (o) => (
                  <Link to={`/jobs/${o.job}/service`}>
                    {o.label}
                    {o.note ? `, ${o.note}` : ''}
                  </Link>
                ),
              },
              {
                head: 'Stands',
                cell: (o) => (
                  <span className={`badge ${o.is === 'wanted' ? 'badge-warning' : 'badge-outline'}`}>
                    {ORDER_LABELS[o.is]}
                  </span>
                ),
              },
              {
                head: 'Said',
                className: 'max-sm:hidden',
                cellClass: 'text-soft',
                cell: (o) => `${o.by}, ${format(new Date(o.at), 'd MMM, HH:mm')}`,
              },
              {
                head: 'What to do with it',
                unseen: true,
                className: 'no-print',
                cell: (o) => <OrderButtons part={o.part} is={o.is} busy={busy} say={(is) => void say(o, is)} />,
              },
            ]}
          />
        </Scrolls>
      )}
      {struck.map((o) => (
        <p
          key={keyOf(o)}
          role="status"
          className="card m-0 flex flex-row flex-wrap items-center gap-3 px-4 py-2 no-print"
        >
          <span className="flex-1">
            Struck out: {o.part}, {o.label}
          </span>
          <OrderButtons part={o.part} is="struck" busy={busy} say={(is) => void say(o, is)} />
        </p>
      ))}
    </Frame>
  );
}
