import { useId } from 'react';

/** A figure that may be negative: tablets' number pads have no minus, so its key stands beside it. */
export function SignedField({
  label,
  value,
  set,
  error,
  placeholder,
  name,
}: {
  label: string;
  value: string;
  set: (v: string) => void;
  error?: string | undefined;
  placeholder?: string;
  /** In its form. */
  name?: string;
}) {
  const id = useId();
  const minus = /^[-−–]/.test(value.trim());
  return (
    <div className="field">
      <label htmlFor={id}>{label}</label>
      <div className="join">
        <button
          type="button"
          className="btn join-item px-4"
          aria-label={`${label}: change the sign`}
          aria-pressed={minus}
          onClick={() => set(minus ? value.trim().slice(1) : `-${value.trim().replace(/^\+/, '')}`)}
        >
          ±
        </button>
        <input
          id={id}
          name={name}
          className="input join-item"
          inputMode="decimal"
          placeholder={placeholder}
          value={value}
          aria-invalid={error !== undefined}
          aria-describedby={error ? `${id}-error` : undefined}
          onChange={(e) => set(e.target.value)}
        />
      </div>
      {error && (
        <span id={`${id}-error`} role="alert" className="text-[0.9rem] font-[550] text-caution">
          {error}
        </span>
      )}
    </div>
  );
}
