import { afterEach, expect, test } from '@jest/globals';
import type { JobView } from '@just-balance/contract';
import { cleanup, screen } from '@testing-library/react';
import type { JobLive } from '../src/data/live.tsx';
import { RoadTest } from '../src/stations/prove/RoadTest.tsx';
import { open } from './page.tsx';

afterEach(cleanup);

const job = (more: object = {}) =>
  ({
    id: 'j1',
    vehicle: { label: 'Tarn 2.0', fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4, banks: 2 },
    cautions: [],
    repairs: [],
    tests: [],
    readings: [
      { phase: 'before', at: '2026-05-04T08:00:00Z', reading: { at: 'road-load', rpm: 2240, vssKmh: 84, mafGps: 15 } },
    ],
    ...more,
  }) as unknown as JobView;
const at = (n: number, v: number) => Array.from({ length: n }, (_, t) => ({ t, v }));
function live(seconds: number, stft2: number): JobLive {
  const traces = new Map([
    ['stft1', at(seconds, 2)],
    ['ltft1', at(1, 1)],
    ['stft2', at(seconds, stft2)],
    ['ltft2', at(1, 1)],
    ['vss', at(seconds, 80)],
  ]);
  const values = { stft1: 2, ltft1: 1, stft2, ltft2: 1, vss: 80 };
  return { traces, values, link: { state: 'ready' } } as unknown as JobLive;
}

test('the passenger sees both banks, whether they hold, and for how long; the sheet says what was driven before', async () => {
  const { person } = open(<RoadTest job={job()} live={live(71, 3)} />);
  const seen = screen.getByLabelText('For the passenger').textContent;
  expect(seen).toMatch(/bank 1\+3\.0 %.*bank 2\+4\.0 %/);
  expect(seen).toMatch(/stable inside ±5 %, the aim/);
  expect(document.body.textContent).toMatch(/near 2,240 rpm as before the repair and 84 km\/h/);
  await person.selectOptions(screen.getByLabelText('Time to hold'), '2');
  expect(screen.getByLabelText('For the passenger').textContent).toMatch(/holding.*70 of 120 s/);
});

test('a bank outside is named; without a link the paper stays, and a diesel has no trims to hold', () => {
  open(<RoadTest job={job()} live={live(71, 14)} />);
  expect(screen.getByLabelText('For the passenger').textContent).toMatch(/not held yet.*waits for bank 2 inside ±10 %/);
  cleanup();
  const off = { ...live(5, 1), link: null } as JobLive;
  open(<RoadTest job={job()} live={off} />);
  expect(screen.queryByLabelText('For the passenger')).toBeNull();
  expect(screen.getAllByRole('columnheader').map((c) => c.textContent)).toContain('Total, bank 2, %');
  cleanup();
  const diesel = { vehicle: { label: 'Marl 2.2', fuel: 'diesel', metering: 'maf', displacementL: 2.2, banks: 1 } };
  open(<RoadTest job={job(diesel)} live={live(71, 1)} />);
  expect(screen.queryByLabelText('For the passenger')).toBeNull();
  expect(screen.getAllByRole('columnheader').map((c) => c.textContent)).not.toContain('Total, %');
});
