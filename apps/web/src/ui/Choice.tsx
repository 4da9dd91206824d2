import { type SelectHTMLAttributes, useLayoutEffect, useRef } from 'react';

/**
 * A select that shows a value of elsewhere, such as one that is polled. It follows when that value changes or when it may
 * be used again, so what was refused goes back; it does not set an open choice back each time the page is drawn.
 */
export function Choice({
  value,
  choose,
  ...rest
}: Omit<SelectHTMLAttributes<HTMLSelectElement>, 'value' | 'defaultValue' | 'onChange'> & {
  value: string;
  choose: (value: string) => void;
}) {
  const select = useRef<HTMLSelectElement>(null);
  useLayoutEffect(() => {
    if (select.current) select.current.value = value;
  }, [value, rest.disabled]);
  return (
    <select ref={select} className="select" defaultValue={value} onChange={(e) => choose(e.target.value)} {...rest} />
  );
}
