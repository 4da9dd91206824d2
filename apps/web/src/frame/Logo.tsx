/** The mark: a beam on its fulcrum, a disc and a diamond. */
export function Logo() {
  return (
    <svg viewBox="0 0 32 32" width="30" height="30" aria-hidden role="presentation">
      <path d="M16 12 L21 27 H11 Z" fill="none" stroke="var(--ink)" strokeWidth="3" strokeLinejoin="round" />
      <path d="M4 13 L28 8" stroke="var(--ink)" strokeWidth="3" strokeLinecap="round" />
      <circle cx="6" cy="8.5" r="3.4" fill="var(--lean)" />
      <path d="M25.5 1.5 l3.6 3.2 -3.6 3.2 -3.6 -3.2z" fill="none" stroke="var(--rich)" strokeWidth="2" />
    </svg>
  );
}
