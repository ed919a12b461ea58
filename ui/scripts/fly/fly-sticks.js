// The sticks of the Fly screen: a radio that shows itself as a gamepad, touch
// sticks, or the keyboard. It says where they are; it decides nothing.
import { asks, modes, sticks, unset } from "./radio-map.js";

/** @typedef {import("./radio-map.js").Axes} Axes */
/** @typedef {import("./radio-map.js").Settings} Settings */

const keys = new Set();
/** @type {Record<string, [keyof Axes, number]>} */
const axisKeys = {
  w: ["throttle", 1],
  s: ["throttle", -1],
  a: ["yaw", -1],
  d: ["yaw", 1],
  ArrowUp: ["pitch", 1],
  ArrowDown: ["pitch", -1],
  ArrowLeft: ["roll", -1],
  ArrowRight: ["roll", 1],
  r: ["wheel", 1],
  f: ["wheel", -1],
};

/** @type {Axes} */
const held = { throttle: 0, yaw: 0, pitch: 0, roll: 0, wheel: 0 };
let springs = true; // whether the throttle comes back to the middle by itself
/** @type {Record<string, Settings>} */
let radios = {};

/** How each device of this person is set. @param {Record<string, Settings>} set */
export function useRadios(set) {
  radios = set;
}

/** The stick mode that is flown: the radio's, or that of the touch sticks.
 * @returns {number} */
export const mode = () => radios[pad()?.id ?? "touch"]?.mode ?? 2;

/** Whether a key is one of the sticks'.
 * @param {string} key */
export const isStick = (key) => key in axisKeys;

/** @param {KeyboardEvent} e */
export function keyDown(e) {
  keys.add(e.key.length === 1 ? e.key.toLowerCase() : e.key);
}
/** @param {KeyboardEvent} e */
export function keyUp(e) {
  keys.delete(e.key.length === 1 ? e.key.toLowerCase() : e.key);
}
export function letGo() {
  keys.clear();
}

/** Begins with the throttle low. */
export function rest() {
  held.throttle = -1;
  held.yaw = held.pitch = held.roll = held.wheel = 0;
  for (const s of touched) s.home();
}

/** With height held the throttle of keys and touch springs to the middle once it
 * was moved; without, it stays where it is.
 * @param {boolean} heightHeld */
export function spring(heightHeld) {
  springs = heightHeld;
}

/** Brings the throttle of the keys to the middle. */
export function middle() {
  held.throttle = 0;
  for (const s of touched) s.middle();
}

let seen = "";

/** The first gamepad that has two sticks.
 * @returns {Gamepad | null} */
export function pad() {
  for (const g of navigator.getGamepads?.() ?? []) {
    if (g?.connected && g.axes.length >= 4) {
      seen = g.id;
      return g;
    }
  }
  return null;
}

/** A radio that was there and is gone. */
export const unplugged = () => seen !== "" && pad() === null;
export const forget = () => {
  seen = "";
};

/** What the radio's switches ask for. @returns {{aids?: string, frame?: string}} */
export function switches() {
  const g = pad();
  const set = g && radios[g.id];
  if (!g || !set) return {};
  return { aids: asks(set.switches.aids, g.axes, g.buttons), frame: asks(set.switches.frame, g.axes, g.buttons) };
}

/** One touch stick: a square in which the thumb drags.
 * @typedef {{x: number, y: number, home: () => void, middle: () => void}} Touch */
/** @type {Touch[]} */
const touched = [];

/** Makes touch sticks of two elements. @param {HTMLElement} left @param {HTMLElement} right */
export function touchSticks(left, right) {
  for (const [el, side] of /** @type {[HTMLElement, "left" | "right"][]} */ ([
    [left, "left"],
    [right, "right"],
  ])) {
    const knob = /** @type {HTMLElement} */ (el.querySelector(".knob"));
    /** Whether up and down on this stick is the throttle. */
    const lifts = () => modes[mode()][side][1] === "throttle";
    /** @type {Touch} */
    const stick = { x: 0, y: 0, home: () => put(0, lifts() ? -1 : 0), middle: () => put(0, 0) };
    const put = (/** @type {number} */ x, /** @type {number} */ y) => {
      stick.x = Math.max(-1, Math.min(1, x));
      stick.y = Math.max(-1, Math.min(1, y));
      knob.setAttribute("transform", `translate(${stick.x * 62} ${-stick.y * 62})`);
    };
    const drag = (/** @type {PointerEvent} */ e) => {
      const b = el.getBoundingClientRect();
      put(((e.clientX - b.left) / b.width - 0.5) * 2.4, -((e.clientY - b.top) / b.height - 0.5) * 2.4);
    };
    el.addEventListener("pointerdown", (e) => {
      el.setPointerCapture(e.pointerId);
      drag(e);
      e.preventDefault();
    });
    el.addEventListener("pointermove", (e) => {
      if (el.hasPointerCapture(e.pointerId)) drag(e);
    });
    const up = () => put(0, lifts() && !springs ? stick.y : 0);
    el.addEventListener("pointerup", up);
    el.addEventListener("pointercancel", up);
    touched.push(stick);
    stick.home();
  }
}

/** Whether the touch sticks are flown. */
let touching = false;
/** @param {boolean} on */
export function touch(on) {
  touching = on;
}

/** For how many readings a key of each axis has been down, and which way.
 * @type {Partial<Record<keyof Axes, {way: number, readings: number}>>} */
const down = {};
const firstPush = 0.3; // of the stick, as a key goes down
const growsAfter = 20; // readings
const growsFor = 60;

/** How far a thumb would push: a key that is tapped moves the stick a little, and one that stays down moves it on to
 * the end, in a second.
 * @param {keyof Axes} name @param {number} way @param {number} end */
function thumb(name, way, end) {
  const was = down[name];
  const now = was?.way === way ? was : { way, readings: 0 };
  down[name] = now;
  if (way === 0) return 0;
  const u = Math.max(0, Math.min(1, (now.readings++ - growsAfter) / growsFor));
  return way * (firstPush + (end - firstPush) * u);
}

/** @param {number} from @param {number} to @param {number} step */
const towards = (from, to, step) => from + Math.max(-step, Math.min(step, to - from));

/** Reads the sticks; a reading is 10 ms.
 * @returns {Axes} */
export function read() {
  const g = pad();
  if (g) return sticks(radios[g.id] ?? unset(2), g.axes);
  if (touching && touched.length === 2 && keys.size === 0) {
    const m = modes[mode()];
    const out = { throttle: 0, yaw: 0, pitch: 0, roll: 0, wheel: held.wheel };
    out[m.left[0]] = touched[0].x;
    out[m.left[1]] = touched[0].y;
    out[m.right[0]] = touched[1].x;
    out[m.right[1]] = touched[1].y;
    return out;
  }
  /** @type {Record<keyof Axes, number>} */
  const want = { throttle: 0, yaw: 0, pitch: 0, roll: 0, wheel: 0 };
  for (const k of keys) {
    const a = axisKeys[k];
    if (a) want[a[0]] += a[1];
  }
  for (const name of /** @type {(keyof Axes)[]} */ (["yaw", "pitch", "roll", "wheel"]))
    held[name] = towards(held[name], thumb(name, want[name], 0.7), want[name] === 0 ? 0.05 : 0.04);
  if (springs) {
    const moved = held.throttle > -0.999 || want.throttle > 0;
    const to = want.throttle === 0 && !moved ? held.throttle : thumb("throttle", want.throttle, 1);
    held.throttle = towards(held.throttle, to, 0.05);
  } else {
    held.throttle = Math.max(-1, Math.min(1, held.throttle + 0.008 * want.throttle));
  }
  return { ...held };
}
