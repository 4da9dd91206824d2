import { CALCULATORS } from '@just-balance/core/calculators';
import { CalculatorCard } from '../../calculators/CalculatorCard.tsx';
import { useAccount } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { Converter } from './Converter.tsx';

/** The sums of the trade on one page; the same cards stand beside the tests they belong to. */
export function CalculatorsPage() {
  const account = useAccount();
  return (
    <Frame title="Calculators" subtitle={account.shop.name} side={<HouseNav current="calculators" />}>
      <h1 className="sr-only">Calculators</h1>
      <div className="gap-3 lg:columns-2 xl:columns-3 *:mb-3 *:break-inside-avoid">
        {CALCULATORS.map((c) => (
          <CalculatorCard key={c.id} id={c.id} />
        ))}
        <Converter />
      </div>
    </Frame>
  );
}
