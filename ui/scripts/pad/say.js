// What the pad says aloud, so that the eyes stay on the craft: speech where the browser has it, tones where it does
// not,
// and shaking that tells a mark that was taken from one that was not. Nothing waits for it.

/** What can be said, in the words of the settings; the kinds are those of the judge. */
export const kinds = /** @type {Record<string, string>} */ ({
  step: "The step that begins",
  count: "Seconds left, and done",
  out: "Outside, and other faults",
  call: "The call to make",
  timeout: "That the time is over",
  verdict: "The verdict",
  wind: "Wind over the limit",
  spotter: "What the spotter sees",
});
const shakes = /** @type {Record<string, number[]>} */ ({
  taken: [40],
  refused: [120, 80, 120],
  over: [60, 60, 60, 60, 240],
});
const pitches = /** @type {Record<string, number>} */ ({ count: 880, out: 220, call: 660, timeout: 180, verdict: 520 });

/** @type {Record<string, boolean>} */
const off = JSON.parse(localStorage.getItem("pad-said") ?? "{}");
export const isOff = (/** @type {string} */ kind) => Boolean(off[kind]);
/** @param {string} kind @param {boolean} on */
export function turn(kind, on) {
  if (on) delete off[kind];
  else off[kind] = true;
  localStorage.setItem("pad-said", JSON.stringify(off));
}

/** What was said, for whoever looks: the newest last. @type {{kind: string, words: string}[]} */
export const said = [];
/** @type {any} */ (globalThis).maestraleSaid = said;

/** @type {AudioContext | null} */
let audio = null;
/** Sounds a tone; without a pitch it only gets ready. @param {number} [hz] */
export function tone(hz) {
  try {
    audio ??= new AudioContext();
    if (audio.state === "suspended") void audio.resume();
    if (!hz) return;
    const o = audio.createOscillator(),
      g = audio.createGain();
    o.frequency.value = hz;
    g.gain.value = 0.2;
    o.connect(g).connect(audio.destination);
    o.start();
    o.stop(audio.currentTime + 0.18);
  } catch {
    // A device without sound still shakes and shows.
  }
}

/** Says something. @param {string} kind @param {string} words */
export function say(kind, words) {
  if (off[kind]) return;
  said.push({ kind, words });
  const voices = globalThis.speechSynthesis?.getVoices?.() ?? [];
  if (voices.length === 0) return tone(pitches[kind] ?? 440);
  const u = new SpeechSynthesisUtterance(words.replace(/[±→—]/g, ","));
  u.lang = "en";
  u.rate = 1.1;
  // What is newer is worth more than what has not been said yet.
  if (kind === "out" || kind === "verdict" || kind === "timeout") speechSynthesis.cancel();
  speechSynthesis.speak(u);
}

/** @param {string} kind */
export function shake(kind) {
  navigator.vibrate?.(shakes[kind] ?? []);
}

/** Keeps the screen awake while the pad is seen, and says where that cannot be. @param {HTMLElement} says */
export async function stayAwake(says) {
  const ask = async () => {
    try {
      await navigator.wakeLock.request("screen");
      says.textContent = "The screen stays awake while the pad is open.";
    } catch {
      says.textContent =
        "This browser does not keep the screen awake: choose a long screen time-out in the device's own settings.";
    }
  };
  document.addEventListener("visibilitychange", () => {
    if (!document.hidden) void ask();
  });
  await ask();
}
