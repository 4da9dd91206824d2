import type { OrderState } from '@just-balance/core/procedures';
import { Press } from '../../ui/May.tsx';

/** What can be said of a part, from where it stands: where it goes then, and the words on the button. */
const NEXT: Readonly<Record<OrderState, readonly (readonly [OrderState, string])[]>> = {
  wanted: [
    ['ordered', 'Ordered'],
    ['arrived', 'It is here'],
    ['struck', 'Strike out'],
  ],
  ordered: [
    ['arrived', 'It is here'],
    ['wanted', 'Not ordered yet'],
    ['struck', 'Strike out'],
  ],
  arrived: [['ordered', 'Not here yet']],
  struck: [['wanted', 'Back on the list']],
};

export function OrderButtons({
  part,
  is,
  busy,
  say,
}: {
  part: string;
  is: OrderState;
  busy: boolean;
  say: (is: OrderState) => void;
}) {
  return (
    <span className="flex flex-wrap gap-2">
      {NEXT[is].map(([next, words], i) => (
        <Press
          key={next}
          className={`btn ${i === 0 ? '' : 'btn-ghost underline'}`}
          aria-label={`${part}: ${words}`}
          disabled={busy}
          onClick={() => say(next)}
        >
          {words}
        </Press>
      ))}
    </span>
  );
}
