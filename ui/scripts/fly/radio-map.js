// What a radio's raw axes mean: which stick is which, its ends and its centre, the
// dead band, the curve, and what the switches ask for. No page is touched here.

/**
 * @typedef {{axis: number, reverse: boolean, low: number, centre: number, high: number, dead: number,
 *   expo: number}} Channel
 */
/** @typedef {{axis?: number | null, button?: number | null, says: string[]}} Switch */
/** @typedef {{mode: number, channels: Record<string, Channel>, switches: Record<string, Switch>}} Settings */
/** @typedef {{throttle: number, yaw: number, pitch: number, roll: number, wheel: number}} Axes */

/** What each stick moves, across and up, by stick mode.
 * @type {Record<number, {left: [keyof Axes, keyof Axes], right: [keyof Axes, keyof Axes]}>} */
export const modes = {
  1: { left: ["yaw", "pitch"], right: ["roll", "throttle"] },
  2: { left: ["yaw", "throttle"], right: ["roll", "pitch"] },
  3: { left: ["roll", "pitch"], right: ["yaw", "throttle"] },
  4: { left: ["roll", "throttle"], right: ["yaw", "pitch"] },
};

/** @param {number} axis @param {boolean} reverse @returns {Channel} */
const channel = (axis, reverse) => ({ axis, reverse, low: -1, centre: 0, high: 1, dead: 0.03, expo: 0 });

/** A radio that nobody has set: its left stick is axes 0 and 1, its right one 2 and
 * 3, down is +.
 * @param {number} mode @returns {Settings} */
export function unset(mode) {
  const m = modes[mode];
  return {
    mode,
    channels: {
      [m.left[0]]: channel(0, false),
      [m.left[1]]: channel(1, true),
      [m.right[0]]: channel(2, false),
      [m.right[1]]: channel(3, true),
      wheel: channel(4, false),
    },
    switches: {},
  };
}

/** A raw axis as a stick, −1 to 1. @param {Channel} c @param {number} raw */
export function shaped(c, raw) {
  const off = raw - c.centre;
  let v = off >= 0 ? off / (c.high - c.centre) : off / (c.centre - c.low);
  v = Math.max(-1, Math.min(1, c.reverse ? -v : v));
  const size = Math.abs(v) <= c.dead ? 0 : (Math.abs(v) - c.dead) / (1 - c.dead);
  return Math.sign(v) * ((1 - c.expo) * size + c.expo * size ** 3);
}

/** The sticks of a radio. @param {Settings} s @param {readonly number[]} axes @returns {Axes} */
export function sticks(s, axes) {
  const one = (/** @type {string} */ name) =>
    s.channels[name] ? shaped(s.channels[name], axes[s.channels[name].axis] ?? s.channels[name].centre) : 0;
  return { throttle: one("throttle"), yaw: one("yaw"), pitch: one("pitch"), roll: one("roll"), wheel: one("wheel") };
}

/** What a switch asks for now, or nothing where the radio has no such switch.
 * @param {Switch | undefined} sw @param {readonly number[]} axes @param {readonly {pressed: boolean}[]} buttons */
export function asks(sw, axes, buttons) {
  if (!sw) return undefined;
  const n = sw.says.length;
  if (sw.button != null) return buttons[sw.button] ? sw.says[buttons[sw.button].pressed ? n - 1 : 0] : undefined;
  const v = axes[sw.axis ?? -1];
  return v === undefined ? undefined : sw.says[Math.max(0, Math.min(n - 1, Math.floor(((v + 1) / 2) * n)))];
}
