// Keys of clickers, presenters and headsets: each action can have the keys that somebody gives it. Headsets send
// theirs as
// media keys, which reach a page only while it plays something: a silent sound does.

/** What a key can do. */
export const actions = /** @type {Record<string, string>} */ ({
  tap: "In, out, what comes next",
  call: "Call",
  fault: "Fault, the next one at each press",
  landed: "Landed",
  undo: "Undo",
});
const media = /** @type {MediaSessionAction[]} */ (["play", "pause", "nexttrack", "previoustrack", "stop"]);

/** Keys by what they are called, each with its action. @type {Record<string, string>} */
let keys = JSON.parse(localStorage.getItem("pad-keys") ?? "{}");
/** The action that waits for its key. */
let learning = "";

/** The name of a key's action, where it has one. @param {string} key */
const actionOf = (key) => keys[key] ?? "";
/** @param {string} action */
export const keysOf = (action) => Object.keys(keys).filter((k) => keys[k] === action);
/** @param {string} action */
export function learn(action) {
  learning = action;
}
/** @param {string} action */
export function unlearn(action) {
  for (const k of keysOf(action)) delete keys[k];
  localStorage.setItem("pad-keys", JSON.stringify(keys));
}

/** @param {(action: string) => boolean} does @param {() => void} learnt */
export function openKeys(does, learnt) {
  /** @param {string} key */
  const pressed = (key) => {
    if (learning) {
      keys = { ...keys, [key]: learning };
      learning = "";
      localStorage.setItem("pad-keys", JSON.stringify(keys));
      learnt();
      return true;
    }
    const action = actionOf(key);
    return action !== "" && does(action);
  };
  document.addEventListener(
    "keydown",
    (e) => {
      if (e.target instanceof HTMLElement && e.target.matches("input, select") && !learning) return;
      if (["Shift", "Control", "Alt", "Meta", "Tab", "Escape"].includes(e.key) || e.repeat) return;
      if (pressed(e.code || e.key)) e.preventDefault();
    },
    { capture: true },
  );
  if (!navigator.mediaSession) return;
  for (const a of media) {
    try {
      navigator.mediaSession.setActionHandler(a, () => void pressed(`media:${a}`));
    } catch {
      // A browser without that key.
    }
  }
}

/** Plays silence, so that the keys of a headset reach the pad; browsers let it begin only after a touch. */
export function listenToHeadset() {
  if (!navigator.mediaSession || document.getElementById("silence")) return;
  const rate = 8000,
    samples = rate;
  const b = new DataView(new ArrayBuffer(44 + samples));
  const text = (/** @type {number} */ at, /** @type {string} */ s) =>
    [...s].forEach((c, i) => b.setUint8(at + i, c.charCodeAt(0)));
  text(0, "RIFF");
  b.setUint32(4, 36 + samples, true);
  text(8, "WAVEfmt ");
  b.setUint32(16, 16, true);
  b.setUint16(20, 1, true);
  b.setUint16(22, 1, true);
  b.setUint32(24, rate, true);
  b.setUint32(28, rate, true);
  b.setUint16(32, 1, true);
  b.setUint16(34, 8, true);
  text(36, "data");
  b.setUint32(40, samples, true);
  for (let i = 0; i < samples; i++) b.setUint8(44 + i, 128);
  const a = Object.assign(document.createElement("audio"), { id: "silence", loop: true, hidden: true });
  a.src = URL.createObjectURL(new Blob([b], { type: "audio/wav" }));
  document.body.append(a);
  a.play().catch(() => a.remove());
}
