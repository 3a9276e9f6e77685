import { useEffect, useState } from "react";

/** A short tone, so that two people hear it from arm's length; nothing where the browser gives no sound. */
export function beep(pitch = 880, seconds = 0.25) {
  try {
    const audio = new AudioContext();
    const tone = audio.createOscillator();
    tone.frequency.value = pitch;
    tone.connect(audio.destination);
    tone.start();
    tone.stop(audio.currentTime + seconds);
    tone.onended = () => void audio.close();
  } catch {
    // No sound here: the figures on the page say the same.
  }
}

/** Draws the component again, ten times a second, while something runs. */
export function useTick(running: boolean, every = 100) {
  const [, turn] = useState(0);
  useEffect(() => {
    if (!running) return;
    const timer = setInterval(() => turn((count) => count + 1), every);
    return () => clearInterval(timer);
  }, [running, every]);
}
