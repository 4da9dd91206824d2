import { TriangleAlert } from 'lucide-react';

/** An error, said where it happened. */
export function Problem({ text }: { text: string | null }) {
  if (!text) return null;
  return (
    <p role="alert" className="tag-caution m-0 flex items-start gap-2 rounded-lg px-4 py-3 font-[550]">
      <TriangleAlert aria-hidden size={20} className="mt-[1px] shrink-0" />
      {text}
    </p>
  );
}
