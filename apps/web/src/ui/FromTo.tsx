/** Two days that bound a list, each empty where it is not bound; `from`: what the first is called. */
export function FromTo({
  from,
  value,
  change,
}: {
  from: string;
  value: (key: 'from' | 'to') => string | null;
  change: (key: 'from' | 'to', day: string) => void;
}) {
  return (['from', 'to'] as const).map((key) => (
    <label key={key} className="grid gap-1">
      <span className="text-[0.93rem] font-[550]">{key === 'from' ? from : 'to'}</span>
      <input
        className="input w-44"
        type="date"
        value={value(key) ?? ''}
        onChange={(e) => change(key, e.target.value)}
      />
    </label>
  ));
}
