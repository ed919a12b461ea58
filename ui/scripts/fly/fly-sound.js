// What the rotors sound like: a tone a rotor at the rate at which its blades pass,
// louder with its speed and fainter with the distance. Off until it is asked for.

/** @type {{audio: AudioContext, tones: {o: OscillatorNode, g: GainNode}[], all: GainNode} | null} */
let sound = null;

/** @param {number} rotors */
export function soundOn(rotors) {
  const audio = new AudioContext();
  const all = audio.createGain();
  const soft = audio.createBiquadFilter();
  soft.type = "lowpass";
  soft.frequency.value = 2400;
  all.gain.value = 0;
  all.connect(soft).connect(audio.destination);
  const tones = Array.from({ length: rotors }, () => {
    const o = audio.createOscillator(),
      g = audio.createGain();
    o.type = "sawtooth";
    g.gain.value = 0;
    o.connect(g).connect(all);
    o.start();
    return { o, g };
  });
  sound = { audio, tones, all };
}

export function soundOff() {
  void sound?.audio.close();
  sound = null;
}

export const sounds = () => sound !== null;

/**
 * @param {number[]} turns of the rotors a second @param {number} blades
 *   @param {number} hover turns a second in a hover @param {number} far m from the ear @param {boolean} on
 */
export function hearRotors(turns, blades, hover, far, on) {
  if (!sound) return;
  const now = sound.audio.currentTime;
  sound.all.gain.setTargetAtTime(on ? 0.5 / (1 + far / 6) : 0, now, 0.05);
  turns.forEach((t, i) => {
    const tone = sound?.tones[i];
    if (!tone) return;
    const share = Math.abs(t) / hover;
    tone.o.frequency.setTargetAtTime(Math.max(20, Math.abs(t) * blades), now, 0.02);
    tone.g.gain.setTargetAtTime(Math.min(1, share * share) / turns.length, now, 0.02);
  });
}
