import { useState } from 'react';
import { Field } from '../../ui/Field.tsx';

/** The box was asked for: typing goes on in it. */
const focused = (input: HTMLInputElement | null) => input?.focus();

/** One line that must be filled in before something unusual is kept. */
export function ReasonBox({
  label,
  keep,
  button = 'Keep it',
}: {
  label: string;
  keep: (reason: string) => void;
  button?: string;
}) {
  const [reason, setReason] = useState('');
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (reason.trim()) keep(reason.trim());
      }}
    >
      <Field label={label} className="min-w-64 flex-1">
        {(aria) => (
          <input
            className="input"
            maxLength={300}
            ref={focused}
            value={reason}
            onChange={(e) => setReason(e.target.value)}
            {...aria}
          />
        )}
      </Field>
      <button type="submit" className="btn" disabled={!reason.trim()}>
        {button}
      </button>
    </form>
  );
}
