let context: AudioContext | null = null;

/** Short tones for a capture that nobody looks at: it opened, it is kept, it was refused or lost. */
const TONES = {
  opened: [[660, 0, 0.12]],
  kept: [
    [660, 0, 0.12],
    [880, 0.16, 0.2],
  ],
  trouble: [
    [440, 0, 0.18],
    [330, 0.22, 0.3],
  ],
} as const;

export function playTone(kind: keyof typeof TONES): void {
  try {
    context ??= new AudioContext();
    for (const [hz, from, seconds] of TONES[kind]) {
      const start = context.currentTime + from;
      const oscillator = context.createOscillator();
      const gain = context.createGain();
      oscillator.frequency.value = hz;
      gain.gain.setValueAtTime(0.0001, start);
      gain.gain.exponentialRampToValueAtTime(0.25, start + 0.01);
      gain.gain.exponentialRampToValueAtTime(0.0001, start + seconds);
      oscillator.connect(gain).connect(context.destination);
      oscillator.start(start);
      oscillator.stop(start + seconds);
    }
  } catch {
    // No sound here: the screen says the same.
  }
}
