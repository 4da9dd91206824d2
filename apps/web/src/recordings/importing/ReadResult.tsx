import { pointLabel } from '@just-balance/core/case';
import { keyFigure } from '@just-balance/core/proof';
import type { BackStep } from '@just-balance/core/recordingFiles';
import { counted, numberText } from '@just-balance/core/units';
import { ReadingLine, readingLines } from '../../capture/KeptReading.tsx';
import type { ReadFile } from '../../sessions/importProtocol.ts';
import { Fold } from '../../ui/Fold.tsx';
import { clock } from '../../ui/figures.ts';
import { Say, useShown } from '../../ui/preferences.tsx';
import { Table } from '../../ui/Table.tsx';
import { channelLabel } from './channels.ts';

/** Channels that cannot be what they are taken for: asked, and not used until they are said to be right. */
export function Doubts({
  read,
  right,
  judge,
}: {
  read: ReadFile;
  right: readonly string[];
  judge: (right: readonly string[]) => void;
}) {
  if (read.doubts.length === 0) return null;
  return (
    <section className="card grid gap-3 p-4" aria-label="Channels that are doubted">
      <h2 className="card-title">Not used unless you say so</h2>
      {read.doubts.map((d) => {
        const is = right.includes(d.channel);
        return (
          <div key={d.channel} className="flex flex-wrap items-center gap-3">
            <p className="m-0 flex-1">
              <strong>{channelLabel(d.channel)}</strong>: <Say text={d.text} />
            </p>
            <button
              type="button"
              aria-pressed={is}
              className={`btn ${is ? 'btn-neutral' : ''}`}
              onClick={() => judge(is ? right.filter((c) => c !== d.channel) : [...right, d.channel])}
            >
              It is right
            </button>
          </div>
        );
      })}
    </section>
  );
}

const BACK_STEPS: readonly (readonly [BackStep, string])[] = [
  ['runs-on', 'The clock was set back: the log runs on'],
  ['second-log', 'A second log begins: leave it out'],
  ['unsorted', 'The lines are out of order: sort them by time'],
];

/** A clock that steps back can mean three things: which, a person says before anything is kept. */
export function ClockSteps({
  read,
  back,
  say,
}: {
  read: ReadFile;
  back: BackStep | null;
  say: (back: BackStep) => void;
}) {
  const [first] = read.stepsBack;
  if (!first) return null;
  const more = read.stepsBackCount - 1;
  return (
    <section className="card grid gap-3 p-4" aria-label="The clock of the log">
      <h2 className="card-title">The clock steps back</h2>
      <p className="m-0">
        At line {first.line.toLocaleString('en-US')} it steps back by {numberText(first.byS, first.byS < 10 ? 1 : 0)} s
        {more > 0 && `, and ${counted(more, 'more time')}`}. What happened there?
      </p>
      <div className="flex flex-wrap gap-2">
        {BACK_STEPS.map(([id, text]) => (
          <button
            key={id}
            type="button"
            aria-pressed={back === id}
            className={`btn ${back === id ? 'btn-neutral' : ''}`}
            onClick={() => say(id)}
          >
            {text}
          </button>
        ))}
      </div>
    </section>
  );
}

/** What the file has in it: operating points, what was left out, every channel. */
export function ReadResult({
  read,
  banks,
  chosen,
  choose,
}: {
  read: ReadFile;
  banks: number;
  chosen: ReadonlySet<string>;
  choose: (c: ReadonlySet<string>) => void;
}) {
  const show = useShown();
  const figure = (v: number, unit: string) => {
    const s = show(v, unit, Math.abs(v) >= 100 ? 0 : 2);
    return numberText(s.value, s.digits);
  };
  const toggle = (at: string) => {
    const next = new Set(chosen);
    if (!next.delete(at)) next.add(at);
    choose(next);
  };
  return (
    <div className="grid items-start gap-3 lg:grid-cols-[1.1fr_1fr]">
      <section className="card p-4">
        <h2 className="card-title">Operating points found</h2>
        {read.found.length === 0 && (
          <p className="mb-0 text-soft">
            None that meets its conditions: warm, closed loop, steady for ten seconds. The recording can still be kept
            and looked at.
          </p>
        )}
        <ul className="m-0 mt-2 list-none p-0">
          {read.found.map((f) => (
            <li key={f.at} className="border-t border-rule">
              <label className="flex min-h-14 cursor-pointer items-center gap-3 py-1">
                <input type="checkbox" className="checkbox" checked={chosen.has(f.at)} onChange={() => toggle(f.at)} />
                <span className="flex-1">
                  <span className="font-[650]">{pointLabel(f.at)}</span>{' '}
                  <span className="figure text-soft">
                    {clock(f.fromS)}–{clock(f.toS)}
                    {f.windows > 1 && `, the steadiest of ${f.windows}`}
                  </span>
                  <span className="block text-[0.9rem] text-soft">
                    <ReadingLine lines={readingLines(f.reading, banks, show).slice(0, 8)} />
                  </span>
                  {f.flags.map((t) => (
                    <span key={t} className="badge badge-warning ml-2 whitespace-normal">
                      <Say text={t} />
                    </span>
                  ))}
                </span>
                <span className="figure font-[650]">
                  <Say text={keyFigure(f.reading)} />
                </span>
              </label>
            </li>
          ))}
        </ul>
        {(read.problemCount > 0 || read.leftOut.length > 0) && (
          <Fold open className="mt-3" title="What was left out">
            {read.leftOut.length > 0 && (
              <ul className="my-1 max-h-48 list-none overflow-y-auto p-0">
                {read.leftOut.map((l) => (
                  <li key={l.name}>
                    <span className="font-[550]">{l.name}</span>: {l.why}
                  </li>
                ))}
              </ul>
            )}
            <ul className="figure m-0 max-h-48 list-none overflow-y-auto p-0 text-[0.9rem]">
              {read.problems.map((p) => (
                <li key={p}>{p}</li>
              ))}
              {read.problemCount > read.problems.length && (
                <li>and {(read.problemCount - read.problems.length).toLocaleString('en-US')} more</li>
              )}
            </ul>
          </Fold>
        )}
      </section>
      <section className="card p-4">
        <h2 className="card-title">
          {counted(read.channels.length, 'channel')}, {clock(read.durationS)}
        </h2>
        <div className="mt-2 max-h-[420px] overflow-y-auto">
          <Table
            rows={read.channels}
            keyOf={(c) => c.id}
            columns={[
              { head: 'Channel', cell: (c) => channelLabel(c.id) },
              { head: 'Least', figure: true, cell: (c) => figure(c.min, c.unit) },
              {
                head: 'Greatest',
                figure: true,
                cellClass: 'whitespace-nowrap',
                cell: (c) => (
                  <>
                    {figure(c.max, c.unit)} <span className="text-soft">{show(0, c.unit, 0).unit}</span>
                  </>
                ),
              },
              { head: 'Samples', figure: true, cellClass: 'text-soft', cell: (c) => c.n.toLocaleString('en-US') },
            ]}
          />
        </div>
      </section>
    </div>
  );
}
