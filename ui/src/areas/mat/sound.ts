let speaker: AudioContext | null = null;

/** wakeSound opens the loudspeaker; browsers allow that only on a press of a key or button. */
export function wakeSound() {
  if (!("AudioContext" in window)) return; // a clock without sound still runs
  speaker ??= new AudioContext();
  void speaker.resume();
}

const notes = { start: [784, 0.5, 2], change: [440, 0.6, 1], count: [588, 0.12, 1] } as const;

/** chime sounds at a change: two high notes to start, a low one to change over, a short one for each of the last seconds. */
export function chime(kind: keyof typeof notes) {
  if (!speaker) return;
  const [pitch, length, times] = notes[kind];
  for (let i = 0; i < times; i++) {
    const start = speaker.currentTime + i * (length * 0.6);
    const tone = speaker.createOscillator();
    const loud = speaker.createGain();
    tone.type = "triangle";
    tone.frequency.value = pitch;
    loud.gain.setValueAtTime(0.9, start);
    loud.gain.exponentialRampToValueAtTime(0.001, start + length);
    tone.connect(loud).connect(speaker.destination);
    tone.start(start);
    tone.stop(start + length);
  }
  document.documentElement.dataset.chimed = String(Number(document.documentElement.dataset.chimed ?? 0) + 1);
}
