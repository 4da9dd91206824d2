import { ROUTES } from '@just-balance/contract';
import { useRead } from '../../data/reads.ts';
import { useAccount } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { later } from '../../ui/later.tsx';
import { Changes } from './Changes.tsx';
import { Elsewhere, SettingsForm } from './SettingsForm.tsx';

const OwnTexts = later(async () => (await import('./OwnTexts.tsx')).OwnTexts);

/** All that a shop sets, each with what it changes; and who changed what. */
export function ShopPage() {
  const account = useAccount();
  const { data, mutate } = useRead(ROUTES.settings);
  return (
    <Frame title={account.shop.name} subtitle="settings of the shop" side={<HouseNav current="shop" />}>
      {data && <SettingsForm kept={data} saved={mutate} />}
      <Elsewhere />
      <Changes />
      <OwnTexts kind="service" />
      <OwnTexts kind="drive" />
      <OwnTexts kind="rule" />
    </Frame>
  );
}
