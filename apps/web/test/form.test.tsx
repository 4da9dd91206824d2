import { afterEach, describe, expect, test } from '@jest/globals';
import { KnownFigureRequest } from '@just-balance/contract';
import { cleanup, screen, waitFor } from '@testing-library/react';
import { api } from '../src/data/api.ts';
import { Clashes } from '../src/ui/Clashes.tsx';
import { Field } from '../src/ui/Field.tsx';
import { Problem } from '../src/ui/Problem.tsx';
import { typed } from '../src/ui/typed.ts';
import { useTypedForm } from '../src/ui/useTypedForm.ts';
import { open, refused, said, server } from './page.tsx';

afterEach(cleanup);

/** A figure from … to, as a person types it. */
function Form({ check }: { check?: (t: { from: string; to: string; source: string }) => Record<string, string> }) {
  const form = useTypedForm({
    dto: KnownFigureRequest,
    defaults: { from: '', to: '', source: '' },
    body: (t): KnownFigureRequest => ({
      id: '00000000-0000-4000-8000-000000000001',
      layer: 'entered',
      at: 'idle',
      quantity: 'airflow',
      low: Number(typed(t.from)),
      high: Number(typed(t.to)),
      source: t.source,
    }),
    fields: { low: 'from', high: 'to' },
    ...(check ? { check } : {}),
    send: (body) => api.send({ method: 'POST', path: '/known' }, body),
  });
  return (
    <form onSubmit={form.submit} noValidate>
      {(['from', 'to', 'source'] as const).map((name) => (
        <Field key={name} label={name} error={form.error(name)}>
          {(aria) => <input {...form.register(name)} {...aria} />}
        </Field>
      ))}
      <Problem trouble={form.trouble} text={form.rest} />
      <button type="submit" disabled={form.busy}>
        Keep
      </button>
    </form>
  );
}

const field = (name: string) => screen.getByLabelText(new RegExp(`^${name}`));

async function fill(person: ReturnType<typeof open>['person'], values: Record<string, string>) {
  for (const [name, v] of Object.entries(values)) {
    await person.clear(field(name));
    if (v) await person.type(field(name), v);
  }
  await person.click(screen.getByText('Keep'));
}

describe('a form of typed text', () => {
  test('what is typed goes up as the contract wants it: comma, point and minus are numbers', async () => {
    const asked = server({ 'POST /known': { status: 201, body: {} } });
    const { person } = open(<Form />);
    await fill(person, { from: '−3,1', to: '3.9', source: 'service manual' });
    await waitFor(() => expect(asked).toHaveLength(1));
    expect(asked[0]!.body).toMatchObject({ low: -3.1, high: 3.9, source: 'service manual' });
    expect([said(field('from')), said(field('to'))]).toEqual(['', '']);
  });

  test('each fault stands at its field, in words, and nothing is sent', async () => {
    const asked = server({});
    const { person } = open(<Form />);
    await fill(person, { from: 'much', to: '3', source: '' });
    await waitFor(() => expect(said(field('from'))).toBe('must be a number'));
    expect(said(field('source'))).toBe('say where the figure comes from');
    expect(said(field('to'))).toBe('');
    await fill(person, { from: '4', to: '3', source: 'manual' });
    await waitFor(() => expect(said(field('to'))).toBe('must be above the lower end'));
    expect(asked).toEqual([]);
  });

  test('what only the form can say comes first, in its own words', async () => {
    const asked = server({});
    const { person } = open(<Form check={(t) => (t.from === '9' ? { from: '9 g/s is unusual' } : {}) as never} />);
    await fill(person, { from: '9', to: '3', source: '' });
    await waitFor(() => expect(said(field('from'))).toBe('9 g/s is unusual'));
    expect(said(field('source'))).toBe('');
    expect(asked).toEqual([]);
  });

  test('what the server finds wrong stands at its field; what has none stands under the form', async () => {
    server({
      'POST /known': refused(400, 'low: not for this engine', {
        errors: [
          { field: 'low', message: 'not for this engine' },
          { field: 'layer', message: 'not yours to set' },
        ],
      }),
    });
    const { person } = open(<Form />);
    await fill(person, { from: '3', to: '4', source: 'manual' });
    await waitFor(() => expect(said(field('from'))).toBe('not for this engine'));
    const [problem] = screen.getAllByRole('alert').filter((a) => a.className.includes('alert'));
    expect(problem!.textContent).toContain('layer: not yours to set');
  });

  test('a conflict shows both versions; the server away says so; both leave what was typed', async () => {
    const theirs = { id: 'x', low: 2, high: 4, source: 'manual' };
    server({ 'POST /known': refused(409, 'somebody else has changed the figure', { current: theirs }) });
    const { person } = open(<Form />);
    await fill(person, { from: '3', to: '4', source: 'manual' });
    const row = (await screen.findByRole('rowheader', { name: 'low' })).closest('tr')!;
    expect([...row.cells].map((c) => c.textContent)).toEqual(['low', '3', '2']);
    // What is the same in both is not shown.
    expect(screen.queryByRole('rowheader', { name: 'source' })).toBeNull();
    server({ 'POST /known': 'away' });
    await person.click(screen.getByText('Keep'));
    await screen.findByText('The server does not answer. Nothing was sent; try again.');
    expect((field('from') as HTMLInputElement).value).toBe('3');
  });
});

describe('what two have put differently', () => {
  test('is said by the words that stand at the field, and by those of its list', async () => {
    const settled: string[] = [];
    const clashes = [
      { field: 'metering', mine: 'maf', theirs: 'speed-density' },
      { field: 'year', mine: '', theirs: '2012' },
      { field: 'turbo', mine: true, theirs: false },
    ];
    const { person } = open(
      <form>
        <label>
          Air is
          <select name="metering" defaultValue="maf">
            <option value="maf">metered</option>
            <option value="speed-density">worked out from pressure</option>
          </select>
        </label>
        <label>
          Model year
          <input name="year" />
        </label>
        <Clashes clashes={clashes} settle={(field, theirs) => settled.push(`${field} ${theirs}`)} />
      </form>,
    );
    const alert = screen.getByRole('alert').textContent;
    expect(alert).toMatch(/Air is: yours “metered”, theirs “worked out from pressure”/);
    expect(alert).toMatch(/Model year: yours nothing, theirs “2012”/);
    expect(alert).toMatch(/turbo: yours yes, theirs no/i);
    await person.click(screen.getAllByRole('button', { name: 'Take theirs' })[0]!);
    await person.click(screen.getAllByRole('button', { name: 'Keep mine' })[1]!);
    expect(settled).toEqual(['metering true', 'year false']);
  });
});
