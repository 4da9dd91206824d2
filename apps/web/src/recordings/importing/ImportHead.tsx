import { cut } from '@just-balance/contract';
import { missingOf } from '@just-balance/core/recordingFiles';
import { counted } from '@just-balance/core/units';
import { asksOfClock, type ImportSession, type ImportState } from '../../sessions/ImportSession.ts';
import type { Look, ReadFile } from '../../sessions/importProtocol.ts';
import { NextStep } from '../../ui/NextStep.tsx';

/** What comes next of an import. */
export function ImportHead({
  step,
  session,
  close,
  lookAt,
}: {
  step: ImportState;
  session: ImportSession;
  close: () => void;
  lookAt: (captureId: string) => void;
}) {
  const cancel = () => session.cancel();
  const leave = (
    <button type="button" className="btn btn-lg" onClick={close}>
      Back to Readings
    </button>
  );
  if (step.at === 'choose')
    return (
      <NextStep
        title="Bring a log"
        why="CSV of any tool, a CAN log (candump), or a capture of this program. It is read on this device; nothing is kept before you say so."
      >
        {leave}
      </NextStep>
    );
  if (step.at === 'busy')
    return (
      <NextStep
        tone="wait"
        title={`${step.file.name}: ${step.what}, ${Math.round(step.share * 100)} %`}
        spoken={`${step.file.name}: ${step.what}`}
        why={`${(step.file.size / 1e6).toFixed(step.file.size > 1e7 ? 0 : 1)} MB. Nothing is kept yet.`}
      >
        <progress className="progress progress-primary h-3 w-40" value={step.share} max={1} aria-label="Progress" />
        <button type="button" className="btn btn-lg" onClick={cancel}>
          Cancel
        </button>
      </NextStep>
    );
  if (step.at === 'looked') {
    const { look, mapping } = step;
    if (look.kind === 'unknown')
      return (
        <NextStep tone="trouble" title={`${step.file.name} cannot be read yet`} why={`${look.message}.`}>
          <button type="button" className="btn btn-primary btn-lg" onClick={cancel}>
            Another file
          </button>
        </NextStep>
      );
    const named = mapping?.roles.filter((r) => r.kind === 'channel' || r.kind === 'loop').length ?? 0;
    const names = Object.values(mapping?.names ?? {}).filter((r) => r.kind === 'channel' || r.kind === 'loop').length;
    const missing = mapping && missingOf(mapping, look.kind === 'csv' && look.missing ? timeOf(look) : undefined);
    const open = look.kind === 'csv' ? look.asks.filter((a) => !step.answers[a.column]).length : 0;
    return (
      <NextStep
        tone={missing ? 'trouble' : 'act'}
        title={
          missing
            ? `${step.file.name} cannot be read yet`
            : open > 0
              ? `Say what ${counted(open, 'column')} of numbers ${open === 1 ? 'means' : 'mean'}`
              : look.kind === 'csv'
                ? `Look over the columns: ${named + names} are known`
                : look.kind === 'candump'
                  ? 'A CAN log: what was answered in it is read'
                  : 'A capture: it is read as it stands'
        }
        why={
          missing
            ? `${missing.charAt(0).toUpperCase()}${missing.slice(1)}.`
            : look.kind === 'csv'
              ? 'Correct what is wrong; the same headers are read the same way next time, by everybody here.'
              : ''
        }
      >
        <button type="button" className="btn btn-lg" onClick={cancel}>
          Another file
        </button>
        <button
          type="button"
          className="btn btn-primary btn-lg"
          disabled={missing !== null && missing !== undefined ? true : open > 0}
          onClick={() => void session.read()}
        >
          Read it
        </button>
      </NextStep>
    );
  }
  if (step.at === 'read') {
    const points = step.chosen.size;
    const asked = asksOfClock(step);
    return (
      <NextStep
        title={
          asked
            ? 'Say what the clock of the log did'
            : points > 0
              ? `Keep it, with ${counted(points, 'reading')}`
              : 'Keep it as a recording'
        }
        why={leftOutInWords(step.read)}
      >
        <button type="button" className="btn btn-lg" onClick={cancel}>
          Do not keep it
        </button>
        <button type="button" className="btn btn-primary btn-lg" disabled={asked} onClick={() => void session.keep()}>
          Keep
        </button>
      </NextStep>
    );
  }
  return (
    <NextStep
      title={step.sent ? `${step.name} is kept` : `${step.name} is kept on this device`}
      why={
        step.sent
          ? 'Its readings stand with the others.'
          : 'The server does not answer: it goes up by itself as soon as it does.'
      }
    >
      {leave}
      {step.sent && (
        <button type="button" className="btn btn-primary btn-lg" onClick={() => lookAt(step.captureId)}>
          Look at it
        </button>
      )}
    </NextStep>
  );
}

/** The form the clock was found to have; null where it has none that is known. */
function timeOf(look: Extract<Look, { kind: 'csv' }>) {
  return look.missing?.includes('not a time') ? null : look.mapping.timeFormat;
}

/** Columns named in the headline; the rest is counted and stands below. */
const NAMED = 5;

/** Every column that was left out with its reason, as one sentence. */
function leftOutInWords(r: ReadFile): string {
  const cells =
    r.problemCount > 0 ? ` ${counted(r.problemCount, 'cell or line', 'cells or lines')} could not be read.` : '';
  const channels = counted(r.channels.length, 'channel');
  if (r.leftOut.length === 0) return `${channels}, no column left out.${cells}`;
  const named = r.leftOut.slice(0, NAMED).map((l) => `${cut(l.name, 40)} (${l.why})`);
  const more = r.leftOut.length - named.length;
  return `${channels}. Left out: ${named.join(', ')}${more > 0 ? ` and ${more.toLocaleString('en-US')} more, listed below` : ''}.${cells}`;
}
