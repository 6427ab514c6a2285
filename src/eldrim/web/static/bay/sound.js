// A tone for what was taken, another for what was not. Off when the technician says so.

let audio = null;
let sounding = 0;
export let loud = localStorage.getItem("eldrim:sound") !== "off";

function tone(pitch, seconds) {
  if (!loud || !window.AudioContext) return;
  audio ??= new AudioContext();
  audio.resume();
  const wave = audio.createOscillator();
  const gain = audio.createGain();
  gain.gain.value = 0.12;
  wave.frequency.value = pitch;
  wave.connect(gain).connect(audio.destination);
  wave.start();
  wave.stop(audio.currentTime + seconds);
  // Between tones it rests: a tablet has a battery.
  sounding += 1;
  wave.addEventListener("ended", () => {
    sounding -= 1;
    if (!sounding) audio.suspend();
  });
}

export const taken = () => tone(880, 0.07);
export const ticked = () => tone(660, 0.04);
export const moved = () => tone(523, 0.05);
export const refused = () => tone(196, 0.25);
export const ready = () => tone(988, 0.8);

export function turn() {
  loud = !loud;
  keepIfRoom("eldrim:sound", loud ? "on" : "off");
}
