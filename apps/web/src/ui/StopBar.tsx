/** How far one thing after the other has come, and a press to go no further after the one that is under way. */
export function StopBar({ label, at, stop }: { label: string; at: { done: number; of: number }; stop: () => void }) {
  return (
    <>
      <progress className="progress progress-primary w-56" aria-label={label} value={at.done} max={at.of} />
      <span role="status">{at.of - at.done} to go…</span>
      <button type="button" className="btn" onClick={stop}>
        Stop after this one
      </button>
    </>
  );
}
