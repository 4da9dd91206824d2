/** A number plate, as it stands on the car; nothing where none is known. */
export function Plate({ of: plate, className = '' }: { of: string | null | undefined; className?: string }) {
  return plate ? (
    <span
      className={`figure inline-block shrink-0 rounded-md border-2 border-ink bg-sheet px-2 leading-[1.5] font-bold whitespace-nowrap text-ink ${className}`}
    >
      <span className="sr-only">Plate </span>
      {plate}
    </span>
  ) : null;
}
