import { type ReactElement, useId } from 'react';

/** A labelled input with its error under it, tied to it for a screen reader. */
export function Field({
  label,
  error,
  className = '',
  children,
}: {
  label: string;
  error?: string | undefined;
  className?: string;
  children: (aria: { 'aria-invalid': boolean; 'aria-describedby': string | undefined }) => ReactElement;
}) {
  const id = useId();
  return (
    <div className={`grid content-start gap-1 ${className}`}>
      {/* The error stands beside the label, not in it: a control keeps its name. */}
      {/* biome-ignore lint/a11y/noLabelWithoutControl: the control is what `children` gives */}
      <label className="field">
        {label}
        {children({ 'aria-invalid': error !== undefined, 'aria-describedby': error ? id : undefined })}
      </label>
      {error && (
        <span id={id} role="alert" className="text-[0.9rem] font-[550] text-caution">
          {error}
        </span>
      )}
    </div>
  );
}
