import { afterEach, describe, expect, jest, test } from '@jest/globals';
import { cleanup, render, screen } from '@testing-library/react';
import { useMemo, useState } from 'react';
import { Ruler } from '../src/charts/Ruler.tsx';
import { TrimChart, type TrimRow } from '../src/charts/TrimChart.tsx';
import { Boundary } from '../src/ui/Boundary.tsx';
import { Choice } from '../src/ui/Choice.tsx';
import { Combobox, finds } from '../src/ui/Combobox.tsx';
import { Dropdown } from '../src/ui/Dropdown.tsx';
import { IconButton } from '../src/ui/IconButton.tsx';
import { NextStep } from '../src/ui/NextStep.tsx';
import { Problem } from '../src/ui/Problem.tsx';
import { Quantity, usePreferences } from '../src/ui/preferences.tsx';
import { SignedField } from '../src/ui/SignedField.tsx';
import { Tabs } from '../src/ui/Tabs.tsx';
import { useAction } from '../src/ui/useAction.ts';
import { useSingleKeys } from '../src/ui/useSingleKeys.ts';
import { around, open } from './page.tsx';

afterEach(() => {
  cleanup();
  localStorage.clear();
});

describe('a figure with a sign', () => {
  function Trim({ start = '' }) {
    const [v, set] = useState(start);
    return <SignedField label="Long-term trim, %" value={v} set={set} error={v === '-9' ? 'too much' : undefined} />;
  }
  const field = () => screen.getByLabelText('Long-term trim, %') as HTMLInputElement;
  const key = () => screen.getByRole('button', { name: 'Long-term trim, %: change the sign' });

  test.each([
    ['', '-'],
    ['4.5', '-4.5'],
    ['+4.5', '-4.5'],
    ['-4.5', '4.5'],
    ['−4.5', '4.5'],
    ['–4.5', '4.5'],
  ])('%j, the key pressed: %j', async (start, end) => {
    const { person } = open(<Trim start={start} />);
    await person.click(key());
    expect(field().value).toBe(end);
    expect(key().getAttribute('aria-pressed')).toBe(String(end.startsWith('-')));
  });

  test('what is wrong with it is tied to it', async () => {
    const { person } = open(<Trim start="9" />);
    await person.click(key());
    expect(document.getElementById(field().getAttribute('aria-describedby')!)!.textContent).toBe('too much');
  });
});

describe('tabs', () => {
  const VIEWS = ['Traces', 'Map', 'Sensors'] as const;
  function Views() {
    const [view, choose] = useState<(typeof VIEWS)[number]>('Traces');
    return (
      <Tabs label="Views" views={VIEWS} view={view} choose={choose}>
        of {view}
      </Tabs>
    );
  }

  test('one stop of the tab key; arrows, Home and End choose and show, round the ends', async () => {
    const { person } = open(<Views />);
    await person.tab();
    const at = () => document.activeElement!.textContent;
    expect(at()).toBe('Traces');
    for (const [key, name] of [
      ['{ArrowRight}', 'Map'],
      ['{End}', 'Sensors'],
      ['{ArrowRight}', 'Traces'],
      ['{ArrowLeft}', 'Sensors'],
      ['{Home}', 'Traces'],
    ]) {
      await person.keyboard(key!);
      expect(at()).toBe(name);
      const panel = screen.getByRole('tabpanel', { name });
      expect(panel.textContent).toBe(`of ${name}`);
      expect(screen.getByRole('tab', { selected: true }).getAttribute('aria-controls')).toBe(panel.id);
    }
    await person.tab();
    expect(document.activeElement!.getAttribute('role')).not.toBe('tab');
  });
});

describe('a choice that follows what is polled', () => {
  function Polled({ busy = false, rate }: { busy?: boolean; rate: string }) {
    return (
      <Choice aria-label="Time" value={rate} disabled={busy} choose={() => {}}>
        <option value="0">stands still</option>
        <option value="1">as it is</option>
        <option value="10">ten times</option>
      </Choice>
    );
  }
  const select = () => screen.getByRole<HTMLSelectElement>('combobox', { name: 'Time' });

  test('an open choice is not turned back by drawing again, and follows when the value changes', () => {
    const page = render(<Polled rate="1" />);
    // What a list does while a person goes through it by key: the choice stands there, nothing is told yet.
    select().value = '10';
    page.rerender(<Polled rate="1" />);
    expect(select().value).toBe('10');
    page.rerender(<Polled rate="0" />);
    expect(select().value).toBe('0');
  });

  test('what was refused goes back', () => {
    const page = render(<Polled rate="1" />);
    select().value = '10';
    page.rerender(<Polled rate="1" busy />);
    page.rerender(<Polled rate="1" />);
    expect(select().value).toBe('1');
  });
});

describe('a menu', () => {
  test('closes on Escape with the focus back on its button, and on a press outside', async () => {
    const { person } = open(
      <>
        <Dropdown label="Take away" button="btn">
          <button type="button">As CSV</button>
        </Dropdown>
        <p>elsewhere</p>
      </>,
    );
    const menu = () => document.querySelector('details')!;
    await person.click(screen.getByText('Take away'));
    menu().open = true;
    screen.getByText('As CSV').focus();
    await person.keyboard('{Escape}');
    expect(menu().open).toBe(false);
    expect(document.activeElement!.textContent).toBe('Take away');
    menu().open = true;
    await person.pointer({ keys: '[MouseLeft]', target: screen.getByText('elsewhere') });
    expect(menu().open).toBe(false);
  });
});

describe('one of a long list', () => {
  const CARS = ['Quillon 1.8, green hatch', 'Pelora 2.4, blue saloon', 'Pelora 1.6, red hatch'];
  const chosen: (string | null)[] = [];
  function Cars() {
    const [car, setCar] = useState<string | null>(null);
    return (
      <Combobox
        label="Car"
        all={CARS}
        textOf={(c) => c}
        keyOf={(c) => c}
        chosen={car}
        choose={(c) => {
          chosen.push(c);
          setCar(c);
        }}
      />
    );
  }
  const listed = () => screen.queryAllByRole('option').map((o) => o.textContent);

  test('every word typed must stand somewhere in the name', () => {
    expect(finds('Pelora 1.6, red hatch', 'hatch pel')).toBe(true);
    expect(finds('Pelora 1.6, red hatch', 'blue pel')).toBe(false);
    expect(finds('Pelora 1.6, red hatch', '  ')).toBe(true);
  });

  test('by keyboard: typed, narrowed, moved in, chosen; what was chosen stands in the field', async () => {
    const { person } = open(<Cars />);
    const box = screen.getByRole('combobox', { name: 'Car' }) as HTMLInputElement;
    await person.click(box);
    expect(listed()).toEqual(CARS);
    await person.type(box, 'hatch');
    expect(listed()).toEqual([CARS[0], CARS[2]]);
    await person.keyboard('{ArrowDown}{Enter}');
    expect([box.value, chosen.at(-1)]).toEqual([CARS[2], CARS[2]]);
    expect(listed()).toEqual([]);
    // Opened again the whole list is there, not what the name of the chosen one would find.
    await person.click(screen.getByRole('button', { name: 'Car: the whole list' }));
    expect(listed()).toEqual(CARS);
    await person.keyboard('{Escape}');
    expect(listed()).toEqual([]);
  });

  test('nothing found is said; left alone, nothing is chosen', async () => {
    const before = chosen.length;
    const { person } = open(<Cars />);
    await person.type(screen.getByRole('combobox', { name: 'Car' }), 'lorry');
    screen.getByText('No such name in the list.');
    await person.keyboard('{Enter}');
    expect(chosen).toHaveLength(before);
  });
});

describe('the next step', () => {
  const live = () => [...document.querySelectorAll('[aria-live]')].map((e) => e.textContent);
  test('is announced; running figures are not, what they are about is', () => {
    const { rerender } = open(<NextStep title="Take idle" why="" />);
    expect(live()).toEqual(['Take idle']);
    rerender(around(<NextStep title="Idle: capturing, 4 s to go" spoken="Idle: capturing" why="" />));
    expect(live()).toEqual(['Idle: capturing']);
  });
});

describe('what went wrong', () => {
  test('nothing is shown of nothing; several fields are a list; one is its sentence', () => {
    open(<Problem trouble={null} />);
    expect(screen.queryByRole('alert')).toBeNull();
    const trouble = (n: number) => ({
      message: 'low: must be at least 0',
      errors: [
        { field: 'low', message: 'must be at least 0' },
        { field: 'high', message: 'must be above the lower end' },
      ].slice(0, n),
      conflict: null,
    });
    const { rerender } = open(<Problem trouble={trouble(1)} />);
    expect(screen.getByRole('alert').textContent).toBe('low: must be at least 0');
    rerender(around(<Problem trouble={trouble(2)} />));
    expect(screen.getAllByRole('listitem').map((l) => l.textContent)).toEqual([
      'low: must be at least 0',
      'high: must be above the lower end',
    ]);
  });

  test('a conflict: lists and empty values in words, the revision left out', () => {
    const conflict = {
      mine: { rev: 1, symptoms: ['stall', 'surge'], story: '', ambient: { airC: 4 } },
      theirs: { rev: 2, symptoms: [], story: 'shakes', ambient: { airC: 4 } },
    };
    open(<Problem trouble={{ message: 'somebody was quicker', errors: [], conflict }} />);
    const rows = screen.getAllByRole('row').slice(1);
    expect(rows.map((r) => [...(r as HTMLTableRowElement).cells].map((c) => c.textContent))).toEqual([
      ['symptoms', 'stall, surge', '—'],
      ['story', '—', 'shakes'],
    ]);
  });

  test('an action: busy while it runs, its error kept, gone when tried again', async () => {
    let end: (e?: Error) => void = () => {};
    function Act() {
      const { busy, problem, run } = useAction();
      const act = () => run(() => new Promise<void>((ok, no) => (end = (e) => (e ? no(e) : ok()))));
      return (
        <button type="button" disabled={busy} onClick={act}>
          {problem ?? 'go'}
        </button>
      );
    }
    const { person } = open(<Act />);
    const button = screen.getByRole('button') as HTMLButtonElement;
    await person.click(button);
    expect(button.disabled).toBe(true);
    end(new Error('no adapter there'));
    await screen.findByText('no adapter there');
    await person.click(button);
    expect(button.textContent).toBe('go');
    end();
    await screen.findByText('go');
  });

  test('what breaks while it is drawn leaves the rest standing', async () => {
    const quiet = jest.spyOn(console, 'error').mockImplementation(() => {});
    let broken = true;
    function Part() {
      if (broken) throw new Error('a row that cannot be drawn');
      return <p>drawn</p>;
    }
    const { person } = open(
      <>
        <p>the rest</p>
        <Boundary
          fallback={(e, again) => (
            <button type="button" onClick={again}>
              {e.message}
            </button>
          )}
        >
          <Part />
        </Boundary>
      </>,
    );
    screen.getByText('the rest');
    broken = false;
    await person.click(screen.getByText('a row that cannot be drawn'));
    screen.getByText('drawn');
    quiet.mockRestore();
  });
});

describe('a figure on its band', () => {
  const drawn = (low: number, high: number, value: number) => {
    cleanup();
    const { container } = render(<Ruler low={low} high={high} value={value} />);
    const [, band, mark] = [...container.querySelectorAll('rect')].map((r) => ({
      x: Number(r.getAttribute('x')),
      width: Number(r.getAttribute('width')),
    }));
    return { from: band!.x, to: band!.x + band!.width, mark: mark!.x + mark!.width / 2 };
  };
  test('inside, under and over stand where they are, and never off the picture', () => {
    const mid = drawn(20, 40, 30);
    // A span of its own on both sides: the band is the middle third.
    expect([mid.from, mid.to, mid.mark]).toEqual([50, 100, 75]);
    expect(drawn(20, 40, 20).mark).toBe(drawn(20, 40, 30).from);
    for (const value of [-400, 5, 55, 900]) {
      const d = drawn(20, 40, value);
      expect([d.mark < d.from, d.mark > d.to]).toEqual([value < 20, value > 40]);
      for (const x of Object.values(d)) expect(x > 0 && x < 150).toBe(true);
    }
    // A fifth of the band is left beside a figure that is far off.
    const far = drawn(0, 100, 1000);
    expect(150 - far.mark).toBeCloseTo((150 * 20) / 1120, 6);
  });
});

describe('preferences', () => {
  function Some() {
    const { units, setUnits } = usePreferences();
    return (
      <>
        <output>
          <Quantity value={100} unit="kPa" digits={0} />; <Quantity value={90} unit="°C" digits={0} />
        </output>
        <IconButton name="Other units" press={() => setUnits(units === 'metric' ? 'us' : 'metric')}>
          u
        </IconButton>
      </>
    );
  }
  test('a figure changes its unit with its number, and the choice stays on this device', async () => {
    const { person, unmount } = open(<Some />);
    const text = () => screen.getByRole('status').textContent;
    expect(text()).toBe('100 kPa; 90 °C');
    await person.click(screen.getByRole('button', { name: 'Other units' }));
    // NIST SP 811: 1 inHg is 3.386389 kPa.
    expect(text()).toMatch(/^29\.5 inHg; 194 °F$/);
    unmount();
    open(<Some />);
    expect(text()).toMatch(/inHg/);
  });

  test('single keys: not while typing, not with Control, not when switched off', async () => {
    const pressed: string[] = [];
    function Page() {
      const { keys, setKeys } = usePreferences();
      useSingleKeys(useMemo(() => ({ h: () => pressed.push('h') }), []));
      return (
        <>
          <input aria-label="field" />
          <button type="button" onClick={() => setKeys(!keys)}>
            keys
          </button>
        </>
      );
    }
    const { person } = open(<Page />);
    await person.keyboard('h');
    await person.keyboard('{Control>}h{/Control}');
    await person.type(screen.getByLabelText('field'), 'h');
    expect(pressed).toEqual(['h']);
    await person.click(screen.getByText('keys'));
    await person.keyboard('h');
    expect(pressed).toEqual(['h']);
  });
});

describe('the trim chart’s table', () => {
  const mark = (bank: 1 | 2, totalPct: number) => ({ bank, totalPct, sdPct: 0.5 });
  const cells = (rows: TrimRow[]) => {
    open(<TrimChart rows={rows} banks={2} limits={{ watchPct: 5, actPct: 10 }} caption="trims" />);
    return screen
      .getAllByRole('row')
      .slice(1)
      .map((r) => [...r.querySelectorAll('td')].map((td) => td.textContent));
  };
  test('says no figure that nobody read: no NaN, no airflow made of an engine speed, a bank that stood before alone', () => {
    const rows = cells([
      {
        at: 'idle',
        label: 'Idle',
        airflowGps: 700,
        airflow: 'none',
        marks: [mark(1, 2)],
        before: [mark(1, 14), mark(2, 6)],
      },
      { at: 'hold-2500', label: 'Hold', airflowGps: 9.4, airflow: 'read', marks: [mark(1, 1)], before: [] },
      {
        at: 'road-load',
        label: 'Road',
        airflowGps: 14.2,
        airflow: 'estimated',
        marks: [mark(2, -7)],
        predicted: [1, 2],
      },
    ]);
    expect(rows).toEqual([
      ['Idle', 'not read', '1', '+2.0 % in band', '—', '+14.0 %'],
      ['Idle', 'not read', '2', 'not taken again', '—', '+6.0 %'],
      ['Road', '14 g/s, estimated', '2', '−7.0 % ◀ rich', '+2.0 %', '—'],
      ['Hold', '9.4 g/s', '1', '+1.0 % in band', '—', '—'],
    ]);
  });
});
