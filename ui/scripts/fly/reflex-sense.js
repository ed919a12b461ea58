// What the reflex trainer has to know of the device: where a radio's sticks rest, how often
// the display shows a picture, and a tone.

/** @typedef {{pitch: number, roll: number, yaw: number}} Hand */

const steadyFor = 1500; // ms after which a stick that does not move is taken to rest
const steady = 0.03; // of a stick
const mostRest = 0.5; // of a stick, over which it is held and does not rest

/** Where the sticks rest: a worn one does not come back to its middle. */
export class Rest {
  constructor() {
    /** @type {Hand} */
    this.at = { pitch: 0, roll: 0, yaw: 0 };
    /** @type {{t: number, s: Hand}[]} */
    this.seen = [];
    this.since = 0;
  }

  /** The sticks from where they rest. @param {Hand} s @returns {Hand} */
  from(s) {
    return { pitch: s.pitch - this.at.pitch, roll: s.roll - this.at.roll, yaw: s.yaw - this.at.yaw };
  }

  /** Looks at sticks that are not let go of; it says so where they rest off their middle.
   * @param {Hand} s @param {number} now ms @returns {string | null} */
  learn(s, now) {
    if (this.seen.length && now - this.seen[this.seen.length - 1].t > 400) this.seen = [];
    if (!this.seen.length) this.since = now;
    this.seen.push({ t: now, s: { ...s } });
    this.seen = this.seen.filter((x) => now - x.t <= steadyFor);
    if (now - this.since < steadyFor) return null;
    const names = /** @type {(keyof Hand)[]} */ (["pitch", "roll", "yaw"]);
    const moves = names.some(
      (k) => Math.max(...this.seen.map((x) => x.s[k])) - Math.min(...this.seen.map((x) => x.s[k])) > steady,
    );
    if (moves || names.some((k) => Math.abs(s[k]) > mostRest))
      return "let go of the sticks; if you have, one of them wanders: set the radio under Fly, Radio";
    this.at = { pitch: s.pitch, roll: s.roll, yaw: s.yaw };
    this.seen = [];
    return "a stick rests off its middle: that is taken for the middle. Set the radio under Fly, Radio";
  }
}

const usualHz = 50; // pictures a second, under which a reaction is told with its error
const stallMs = 250; // between two pictures

/** How often the display shows a picture. */
export class Frames {
  constructor() {
    this.last = 0;
    /** @type {number[]} */
    this.gaps = [];
  }

  /** Takes in a picture; it tells whether the display stood still before it. @param {number} now ms */
  stalled(now) {
    const gap = now - this.last;
    this.last = now;
    if (gap > stallMs) return gap < 1e6; // not the first
    this.gaps.push(gap);
    if (this.gaps.length > 60) this.gaps.shift();
    return false;
  }

  /** The time between two pictures, ms. */
  gap() {
    const list = [...this.gaps].sort((a, b) => a - b);
    return list[Math.floor(list.length / 2)] ?? 0;
  }

  /** What a slow display makes of a reaction, in words. */
  words() {
    return this.gap() > 1000 / usualHz ? `, ± ${(this.gap() / 2000).toFixed(2)} s on this display` : "";
  }
}

/** @type {AudioContext | undefined} */
let audio;

/** Sounds a tone. @param {number} hz @param {number} seconds */
export function tone(hz, seconds) {
  try {
    audio ??= new AudioContext();
    const o = audio.createOscillator(),
      g = audio.createGain(),
      t = audio.currentTime;
    o.frequency.value = hz;
    g.gain.setValueAtTime(0.0001, t);
    g.gain.exponentialRampToValueAtTime(0.12, t + 0.01);
    g.gain.exponentialRampToValueAtTime(0.0001, t + seconds);
    o.connect(g).connect(audio.destination);
    o.start(t);
    o.stop(t + seconds);
  } catch {
    /* a device without sound trains as well */
  }
}
