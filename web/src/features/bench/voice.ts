/** Sound for whoever has no eye free: a beep for a pass, a low one for what fails, and what is expected, spoken. */

let sound: AudioContext | null = null;

export function beep(passed: boolean): void {
  try {
    sound ??= new AudioContext();
    const tone = sound.createOscillator();
    const level = sound.createGain();
    tone.frequency.value = passed ? 1760 : 220;
    level.gain.value = 0.08;
    tone.connect(level).connect(sound.destination);
    tone.start();
    tone.stop(sound.currentTime + (passed ? 0.12 : 0.5));
  } catch {
    // No sound here: the screen says it too.
  }
}

export function say(text: string): void {
  if (!("speechSynthesis" in window)) return;
  window.speechSynthesis.cancel();
  window.speechSynthesis.speak(new SpeechSynthesisUtterance(text));
}
