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
    // biome-ignore lint/a11y/noLabelWithoutControl: the control is what `children` gives
    <label className={`field ${className}`}>
      {label}
      {children({ 'aria-invalid': error !== undefined, 'aria-describedby': error ? id : undefined })}
      {error && (
        <span id={id} role="alert" className="text-[0.9rem] font-[550] text-caution">
          {error}
        </span>
      )}
    </label>
  );
}
