import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { cleanup, screen, within } from '@testing-library/react';
import { ShopLook } from '../src/pages/logbook/ShopLook.tsx';
import { changesOf, type ShopNow, shopFileOf } from '../src/pages/logbook/shopFile.ts';
import { LEAD, openSignedIn, refused, server } from './page.tsx';

beforeEach(() => localStorage.clear());
afterEach(cleanup);

const HASH = 'ab'.repeat(32);
const LAYOUT = { hash: HASH, layout: 'wide', roles: [{ column: 0, kind: 'time' }] } as const;
const FILE = new Map([
  ['manifest.json', JSON.stringify({ shop: 'Marsh Lane', leftOut: [{ job: 'x', why: 'runs' }] })],
  ['settings.json', JSON.stringify({ limits: { watchPct: 6 }, tools: ['scope'] })],
  ['layouts.json', JSON.stringify([LAYOUT, 7, { layout: 'wide' }])],
  ['own/service/our-way.yaml', 'id: our-way\ntitle: "Our way"\n'],
  ['own/drive/hill.yaml', 'id: hill\ntitle: Up the hill\n'],
  ['own/other/x.yaml', 'id: x\n'],
  // The text says which one it is.
  ['own/drive/copy.yaml', 'id: hill\ntitle: Up the hill\n'],
]);
const JOBS = [{ name: 'job 1', bytes: async () => new Blob([]) }];
const file = shopFileOf('shop.jb.zip', FILE, JOBS);
const OURS = {
  id: 'o1',
  rev: 2,
  undone: false,
  copiedFrom: null,
  by: 'x',
  procedure: { id: 'our-way', title: 'Our way' },
};
const now = (more: Partial<ShopNow> = {}): ShopNow => ({
  settings: { rev: 4, settings: { limits: { watchPct: 5 }, tools: ['scope'] } },
  texts: [{ kind: 'service', own: OURS as never, text: 'id: our-way\ntitle: Our old way\n' }],
  layouts: [],
  ...more,
});

describe('a whole shop as a file', () => {
  test('what is in it; what is not what its name says is said, foreign parts are left out', () => {
    expect(file).toMatchObject({ shop: 'Marsh Lane', leftOut: 1, layouts: [LAYOUT] });
    expect(file.texts.map((t) => `${t.kind} ${t.id}`)).toEqual(['service our-way', 'drive hill']);
    expect(() => shopFileOf('a.zip', new Map([['settings.json', '{']]), [])).toThrow(
      'a.zip: settings.json is not JSON: take the file from the other shop once more',
    );
    expect(shopFileOf('a.zip', new Map([['settings.json', '[1]']]), []).settings).toEqual({});
  });

  test('each thing against what is here: new, changed and how, the same', () => {
    const told = (n: ShopNow) => changesOf(file, n).map((c) => [c.label, c.is, c.detail]);
    expect(told(now())).toEqual([
      [
        'Procedure: Our way',
        'differs',
        'becomes version 3 of what this shop has under “our-way”; version 2 can be taken back',
      ],
      ['Drive: Up the hill', 'new', ''],
      ['How a table is read, 1', 'new', ''],
      ['Settings', 'differs', expect.stringMatching(/from 5 to 6/)],
      ['1 job', 'new', 'one that is here already stays as it is'],
    ]);
    const same = told(
      now({
        settings: { rev: 4, settings: { limits: { watchPct: 6 }, tools: ['scope'], toolHz: 5 } },
        texts: [{ kind: 'service', own: OURS as never, text: FILE.get('own/service/our-way.yaml')! }],
        layouts: [{ ...LAYOUT, by: 'x', roles: [...LAYOUT.roles] }],
      }),
    );
    expect(same.map(([, is]) => is)).toEqual(['same', 'new', 'same', 'same', 'new']);
    // What this shop sets and the file does not stays.
    const settings = changesOf(file, now({ settings: { rev: 4, settings: { toolHz: 5 } } })).find(
      (c) => c.what === 'settings',
    );
    expect(settings).toMatchObject({ settings: { toolHz: 5, tools: ['scope'], limits: { watchPct: 6 } }, rev: 4 });
  });

  const routes = {
    'GET /procedures': { body: [OURS] },
    'GET /procedures?kind=drive': { body: [] },
    'GET /procedures?kind=rule': { body: [] },
    'GET /procedures/o1/file': { body: 'id: our-way\ntitle: Our old way\n' },
    'GET /shop/settings': { body: now().settings },
    'GET /layouts': { body: [] },
  };
  const session = (rights: string[]) => ({
    'GET /session': { body: { account: { ...LEAD, rights }, setupNeeded: false, demo: null } },
  });
  const box = (name: RegExp) => screen.getByRole('checkbox', { name }) as HTMLInputElement;

  test('is looked at first; only what is ticked comes in, the jobs last; one refusal holds up nothing', async () => {
    let jobs = 0;
    const asked = server({
      ...session([...LEAD.rights]),
      ...routes,
      'POST /procedures/file': (a) =>
        a.body.kind === 'drive' ? refused(400, 'line 1: not a drive') : { body: { ...OURS, rev: 3 } },
      'PUT /shop/settings': (a) => ({ body: { rev: 5, settings: a.body.settings } }),
      'PUT /layouts': { body: null },
    });
    const { person } = openSignedIn(
      <ShopLook
        file={file}
        jobs={async () => {
          jobs = asked.filter((a) => a.method !== 'GET').length;
        }}
        close={() => undefined}
      />,
    );
    await person.click(await screen.findByRole('checkbox', { name: /How a table is read/ }));
    await person.click(screen.getByRole('button', { name: 'Bring in what is ticked' }));
    await screen.findByText(/Brought in: 2\. Refused: 1\./);
    expect(screen.getByText('Drive: Up the hill: line 1: not a drive')).toBeTruthy();
    const sent = asked.filter((a) => a.method !== 'GET');
    expect(sent.map((a) => a.path)).toEqual(['/procedures/file', '/procedures/file', '/shop/settings']);
    expect(sent[0]!.body).toMatchObject({ id: 'o1', rev: 2, kind: 'service' });
    expect(sent[1]!.body.rev).toBeUndefined();
    expect(jobs).toBe(3);
  });

  test('settings are the lead’s to bring in', async () => {
    server({ ...session(['look', 'work', 'judge']), ...routes });
    openSignedIn(<ShopLook file={file} jobs={async () => undefined} close={() => undefined} />);
    await screen.findByText(/Settings are the lead’s/);
    expect([box(/^Settings/).disabled, box(/^Settings/).checked, box(/^1 job/).checked]).toEqual([true, false, true]);
    expect(within(screen.getByLabelText(/From Marsh Lane/)).getByText(/each with its reason inside: 1/)).toBeTruthy();
  });
});
