import { ROUTES } from '@just-balance/contract';
import { counted } from '@just-balance/core/units';
import { Download } from 'lucide-react';
import { useRead } from '../../data/reads.ts';
import { useAccount } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Causes } from './Causes.tsx';
import { Figures } from './Figures.tsx';
import { LeftOut } from './LeftOut.tsx';
import { Tests } from './Tests.tsx';
import { Use } from './Use.tsx';
import { Work } from './Work.tsx';

/** What the shop's own proven jobs teach: every figure with its count, its interval, and the jobs behind it. */
export function LearnedPage() {
  const account = useAccount();
  const { data, error, mutate } = useRead(ROUTES.learned);
  const l = data?.learned;
  return (
    <Frame title={account.shop.name} subtitle="what the shop has learned" side={<HouseNav current="learned" />}>
      {error && <NextStep tone="trouble" title="It could not be worked out" why={String(error.message)} />}
      {l && (
        <NextStep
          title={
            l.proven === 0
              ? 'Nothing is learned yet'
              : `${counted(l.proven, 'proven job')} of ${l.jobs.toLocaleString('en-US')} teach`
          }
          why={
            l.proven === 0
              ? 'A job teaches once its repair is proven by the same readings again.'
              : 'A job that came back teaches no cause. One that misleads can be left out of everything.'
          }
        >
          <a className="btn btn-lg" href="/api/learned/settings?use=priors,tests" download="settings.json">
            <Download size={19} aria-hidden /> Settings file
          </a>
        </NextStep>
      )}
      {data && <Use data={data} changed={mutate} />}
      {l && l.proven > 0 && (
        <>
          <Causes l={l} />
          <Tests l={l} />
          <Figures l={l} />
        </>
      )}
      {l && <Work l={l} />}
      {data && <LeftOut data={data} changed={mutate} />}
    </Frame>
  );
}
