import { ROUTES } from '@just-balance/contract';
import { counted } from '@just-balance/core/units';
import { Download } from 'lucide-react';
import { useRead } from '../../data/reads.ts';
import { useAccount } from '../../data/session.tsx';
import { Frame, HouseNav } from '../../frame/Frame.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { causesAbout, figuresAbout, testsAbout, usedAbout, workAbout } from './about.ts';
import { Causes } from './Causes.tsx';
import { Figures } from './Figures.tsx';
import { Findings } from './Findings.tsx';
import { Folded } from './Folded.tsx';
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
          title={l.proven === 0 ? 'Nothing is learned yet' : `${l.proven} of ${counted(l.jobs, 'job')} count`}
          why={
            l.proven === 0
              ? 'A job teaches once its repair is proven by the same readings again.'
              : 'Proven, and not come back. One that misleads can be left out of everything.'
          }
        />
      )}
      {data && <Findings data={data} changed={mutate} />}
      {data && l && (
        <div className="grid gap-3">
          {l.proven > 0 && (
            <>
              <Folded title="What it was, in the end" about={causesAbout(l)}>
                <Causes l={l} />
              </Folded>
              <Folded title="How far tests were right" about={testsAbout(l)}>
                <Tests l={l} />
              </Folded>
              <Folded title="Known-good figures" about={figuresAbout(l)}>
                <Figures l={l} />
              </Folded>
            </>
          )}
          <Folded title="Work: fixed the first time, minutes, drives" about={workAbout(l)}>
            <Work l={l} />
          </Folded>
          <Folded title="What counts, and what is used" about={usedAbout(data)}>
            <Use data={data} changed={mutate} />
            <LeftOut data={data} changed={mutate} />
            <p className="m-0">
              <a className="btn" href="/api/learned/settings?use=priors,tests" download="settings.json">
                <Download size={19} aria-hidden /> Settings file
              </a>
            </p>
          </Folded>
        </div>
      )}
    </Frame>
  );
}
