/** Whether this browser can read a step aloud. */
export const speaks = (): boolean => typeof window !== 'undefined' && 'speechSynthesis' in window;

export function speak(text: string): void {
  if (!speaks()) return;
  window.speechSynthesis.cancel();
  window.speechSynthesis.speak(new SpeechSynthesisUtterance(text));
}
