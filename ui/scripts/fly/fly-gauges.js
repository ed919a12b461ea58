// The insets and gauges at the edges of the Fly screen: from above, from the side,
// the sticks, the rotors, the pack. The pilot is always at the bottom.

import { modes } from "./radio-map.js";
import { lengthOf, speedOf } from "../frame/units.js";

/** @typedef {import("./fly-scene.js").Fields} Fields */
/** @typedef {import("./fly-scene.js").Look & {aids: {words: string}[], modes: string[], hide_nose?: boolean}} Shown */

const el = (/** @type {string} */ id) => /** @type {HTMLElement} */ (document.getElementById(id));
const css = (/** @type {string} */ name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

/** @param {string} id @returns {[CanvasRenderingContext2D, number, number]} */
function sheet(id) {
  const c = /** @type {HTMLCanvasElement} */ (el(id));
  const g = /** @type {CanvasRenderingContext2D} */ (c.getContext("2d"));
  g.clearRect(0, 0, c.width, c.height);
  g.font = "12px Archivo, sans-serif";
  return [g, c.width, c.height];
}

/** Draws the insets and the gauges at the edges.
 * @param {Shown} shown what the page is flown with
 * @param {Float64Array} state
 * @param {Fields} at where each number of the state stands
 * @param {import("./radio-map.js").Axes} axes
 * @param {number} mode of the sticks
 * @param {[number, number][]} path where it has been */
export function gauges(shown, state, at, axes, mode, path) {
  const ink = css("--ink"),
    soft = css("--ink-soft"),
    calm = css("--calm"),
    act = css("--act");
  el("f-clock").textContent = `${state[at.t].toFixed(1)} s`;
  el("f-aids").textContent = shown.aids[state[at.aids]]?.words ?? "";
  el("f-mode").textContent = state[at.crashed]
    ? "crashed"
    : !state[at.armed]
      ? "motors off"
      : state[at.mode]
        ? shown.modes[state[at.mode]]
        : state[at.ground]
          ? "on the ground"
          : "in the air";
  const volts = el("f-pack");
  const low = state[at.volts] < shown.craft.land_v ? " · land now" : "";
  const charge = Math.round(100 * state[at.charge]);
  const radio = Math.round(100 * state[at.signal]);
  volts.textContent = `${state[at.volts].toFixed(1)} V · ${charge} %${low} · radio ${radio} %`;

  // From above, the pilot at the bottom.
  {
    const [g, w, h] = sheet("inset-plan");
    const far = Math.max(
      14,
      state[at.y] + 4,
      Math.abs(state[at.x]) * 2 + 4,
      ...(shown.figures ?? []).flatMap((f) => f.points.map((p) => Math.max(p[1] + 2, Math.abs(p[0]) * 2 + 2))),
    );
    const k = (h - 30) / far;
    const px = (/** @type {number} */ x) => w / 2 + x * k,
      py = (/** @type {number} */ y) => h - 18 - y * k;
    g.strokeStyle = calm;
    for (const l of shown.limits ?? []) {
      g.beginPath();
      g.arc(px(l.at[0]), py(l.at[1]), l.radius_m * k, 0, 7);
      g.stroke();
    }
    for (const f of shown.figures ?? []) {
      g.beginPath();
      for (const [i, p] of f.points.entries()) g[i ? "lineTo" : "moveTo"](px(p[0]), py(p[1]));
      g.stroke();
    }
    g.fillStyle = soft;
    for (const [x, y] of Object.values(shown.markers)) g.fillRect(px(x) - 2, py(y) - 2, 4, 4);
    g.strokeStyle = css("--ochre");
    for (const line of shown.crowd ?? []) {
      g.beginPath();
      for (const [i, p] of line.entries()) g[i ? "lineTo" : "moveTo"](px(p[0]), Math.min(py(p[1]), h - 3));
      g.stroke();
    }
    g.strokeStyle = soft;
    g.beginPath();
    for (const [i, p] of path.slice(-400).entries()) g[i ? "lineTo" : "moveTo"](px(p[0]), py(p[1]));
    g.stroke();
    g.save();
    g.translate(px(state[at.x]), py(state[at.y]));
    g.rotate(state[at.heading]);
    g.fillStyle = act;
    g.beginPath();
    if (shown.hide_nose) {
      g.arc(0, 0, 6, 0, 7); // the drill trains to read the nose from the craft
    } else {
      g.moveTo(0, -9);
      g.lineTo(6, 7);
      g.lineTo(-6, 7);
    }
    g.fill();
    g.restore();
    g.fillStyle = ink;
    g.beginPath();
    g.arc(w / 2, h - 14, 4, 0, 7);
    g.fill();
    g.fillText(lengthOf(far), 6, 14);
    const wind = Math.hypot(state[at.airX], state[at.airY]);
    if (wind > 0.2) {
      g.strokeStyle = ink;
      g.save();
      g.translate(w - 24, 26);
      g.rotate(Math.atan2(state[at.airX], state[at.airY]));
      g.beginPath();
      g.moveTo(0, 12);
      g.lineTo(0, -12);
      g.lineTo(-5, -4);
      g.moveTo(0, -12);
      g.lineTo(5, -4);
      g.stroke();
      g.restore();
      g.fillText(speedOf(wind), w - 84, 30);
    }
  }
  // From the side.
  {
    const [g, w, h] = sheet("inset-side");
    const high = Math.max(4, state[at.z] + 1),
      k = (h - 30) / high;
    const py = (/** @type {number} */ z) => h - 12 - z * k;
    g.strokeStyle = soft;
    g.beginPath();
    g.moveTo(0, py(0));
    g.lineTo(w, py(0));
    g.stroke();
    for (const l of shown.limits ?? []) {
      if (!l.band_m || !l.height_m) continue; // a turn keeps the height that it began at
      g.fillStyle = css("--calm-soft");
      g.fillRect(40, py(l.height_m + l.band_m), w - 80, 2 * l.band_m * k);
    }
    g.fillStyle = act;
    g.fillRect(w / 2 - 9, py(state[at.z]) - 3, 18, 6);
    g.fillStyle = ink;
    g.fillText(`${lengthOf(Math.max(0, state[at.z]), 1)} up`, 6, 14);
  }
  // The sticks, as this pilot holds them.
  {
    const [g] = sheet("sticks");
    const m = modes[mode];
    for (const [cx, x, y] of [
      [55, axes[m.left[0]], axes[m.left[1]]],
      [175, axes[m.right[0]], axes[m.right[1]]],
    ]) {
      g.strokeStyle = soft;
      g.strokeRect(cx - 45, 8, 90, 90);
      g.beginPath();
      g.moveTo(cx, 8);
      g.lineTo(cx, 98);
      g.moveTo(cx - 45, 53);
      g.lineTo(cx + 45, 53);
      g.stroke();
      g.fillStyle = calm;
      g.beginPath();
      g.arc(cx + x * 42, 53 - y * 42, 7, 0, 7);
      g.fill();
    }
  }
  // Rotors: a bar each, with the way it spins as seen from above.
  {
    const [g, w, h] = sheet("rotors");
    const n = shown.craft.rotors.length,
      step = w / n;
    const most = Math.max(1, ...Array.from({ length: n }, (_, i) => Math.abs(state[at.rotor1 + i]))) * 1.15;
    for (let i = 0; i < n; i++) {
      const v = Math.abs(state[at.rotor1 + i]) / most;
      const cw = shown.craft.rotors[i].clockwise;
      g.fillStyle = cw ? calm : act;
      g.fillRect(i * step + 6, h - 4 - v * (h - 22), step * 0.4, v * (h - 22));
      g.fillStyle = ink;
      g.fillText(`${i + 1}${cw ? "↻" : "↺"}`, i * step + 6, 12);
    }
  }
}
