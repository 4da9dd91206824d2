import type { NumberQuestion, NumberStyle } from '@just-balance/core/recordingFiles';
import { TIME_FORMATS, type TimeFormat } from '@just-balance/core/recordingFiles';
import type { LayoutSaid, Look } from '../../sessions/importProtocol.ts';
import { Fold } from '../../ui/Fold.tsx';

type Table = Extract<Look, { kind: 'csv' }>;

const SEPARATORS = [
  [',', 'comma  ,'],
  [';', 'semicolon  ;'],
  ['\t', 'tab'],
  ['|', 'pipe  |'],
] as const;

const STYLES: readonly (readonly [string, string, NumberStyle])[] = [
  ['.', '1234.5', { decimal: '.', thousands: '' }],
  [',', '1234,5', { decimal: ',', thousands: '' }],
  ['.,', '1,234.5', { decimal: '.', thousands: ',' }],
  [',.', '1.234,5', { decimal: ',', thousands: '.' }],
  ['. ', '1 234.5', { decimal: '.', thousands: ' ' }],
  [', ', '1 234,5', { decimal: ',', thousands: ' ' }],
  [".'", "1'234.5", { decimal: '.', thousands: "'" }],
];

/** Lines a header may stand in. */
const LINES = 30;

/** How the file is cut into columns and cells: proposed, and open to change where the proposal is wrong. */
export function LayoutChoices({
  look,
  said,
  change,
}: {
  look: Table;
  said: LayoutSaid;
  change: (said: LayoutSaid) => void;
}) {
  const { mapping } = look;
  const style = said.style ?? mapping.style;
  const select = (
    label: string,
    value: string,
    options: readonly (readonly [string, string])[],
    set: (v: string) => void,
  ) => (
    <label className="field">
      {label}
      <select className="select" value={value} onChange={(e) => set(e.target.value)}>
        {options.map(([id, text]) => (
          <option key={id} value={id}>
            {text}
          </option>
        ))}
      </select>
    </label>
  );
  const lines = look.rows
    .slice(0, LINES)
    .map((r, i) => [String(i), `line ${i + 1}: ${r.join(' ').trim().slice(0, 26)}`] as const);
  return (
    <Fold title="How the file is laid out" open={look.missing !== null}>
      <div className="grid gap-3 sm:grid-cols-2 lg:grid-cols-3">
        {select('Columns are separated by', look.delimiter, SEPARATORS, (v) =>
          change({ delimiter: v as Table['delimiter'] }),
        )}
        {select(
          'The columns are named in',
          mapping.header === null ? 'none' : String(mapping.header),
          [['none', 'no line'], ...lines],
          (v) => change({ ...said, units: undefined, header: v === 'none' ? null : Number(v) } as LayoutSaid),
        )}
        {mapping.header !== null &&
          select(
            'The line below it holds',
            mapping.units ? 'units' : 'figures',
            [
              ['units', 'the units'],
              ['figures', 'the first figures'],
            ],
            (v) => change({ ...said, header: mapping.header, units: v === 'units' }),
          )}
        {select(
          'Numbers are written',
          STYLES.find(([, , x]) => x.decimal === style.decimal && x.thousands === style.thousands)?.[0] ?? '.',
          STYLES.map(([id, text]) => [id, text] as const),
          (v) => change({ ...said, style: STYLES.find(([id]) => id === v)![2] }),
        )}
        {select('Time is written as', mapping.timeFormat, Object.entries(TIME_FORMATS), (v) =>
          change({ ...said, timeFormat: v as TimeFormat }),
        )}
        <p className="m-0 self-end text-[0.9rem] text-soft">
          Read as {look.encoding.toUpperCase()}; {mapping.layout === 'long' ? 'one value a line' : 'one moment a line'}.
        </p>
      </div>
      <pre className="figure m-0 mt-3 max-h-40 overflow-auto text-[0.87rem]">
        {look.rows
          .slice(0, 8)
          .map((r, i) => `${String(i + 1).padStart(2)}  ${r.slice(0, 40).join('  |  ')}`)
          .join('\n')}
      </pre>
    </Fold>
  );
}

const read = (cell: string, { decimal, thousands }: NumberStyle) =>
  thousands === '' ? cell.replace(decimal, '.') : cell.replaceAll(thousands, '').replace(decimal, '.');

/** Columns whose numbers may mean two things: which, a person says. */
export function NumberQuestions({
  look,
  answers,
  answer,
}: {
  look: Table;
  answers: Readonly<Record<number, NumberStyle>>;
  answer: (question: NumberQuestion, style: NumberStyle) => void;
}) {
  if (look.asks.length === 0) return null;
  return (
    <section className="card grid gap-3 p-4" aria-label="Numbers that can be read two ways">
      <h2 className="card-title">These can be read two ways</h2>
      {look.asks.map((ask) => (
        <fieldset key={ask.column} className="m-0 flex flex-wrap items-center gap-3 border-0 p-0">
          <legend className="float-left mr-3 p-0">
            <strong>{look.mapping.headers[ask.column]}</strong>: “{ask.cell}” is
          </legend>
          {ask.styles.map((style) => (
            <button
              key={style.decimal}
              type="button"
              aria-pressed={answers[ask.column]?.decimal === style.decimal}
              className={`btn figure ${answers[ask.column]?.decimal === style.decimal ? 'btn-neutral' : ''}`}
              onClick={() => answer(ask, style)}
            >
              {read(ask.cell, style)}
            </button>
          ))}
        </fieldset>
      ))}
    </section>
  );
}
