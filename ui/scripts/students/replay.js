// Plays a flight over the drawings of its debrief: one moment, shown in all of them.
import { lengthOf } from "../frame/units.js";
const box = /** @type {HTMLElement} */ (document.getElementById("replay"));
/**
 * @type {{t: number[], px: number[], py: number[], hy: number[], z: number[], head: number[] | null,
 *   aspect: number[] | null, sticks: number[][] | null, x0: number, per: number}}
 */
const r = JSON.parse(box.dataset.replay ?? "{}");
const last = r.t[r.t.length - 1],
  first = r.t[0];
const svg = "http://www.w3.org/2000/svg";
const el = (/** @type {string} */ id) => /** @type {HTMLElement} */ (document.getElementById(id));
const slider = /** @type {HTMLInputElement} */ (el("rp-at"));
let now = first,
  playing = false,
  then = 0;

/** Adds a shape to a drawing. @param {Element | null} to @param {string} tag @param {Record<string, string>} attrs */
function shape(to, tag, attrs) {
  const e = document.createElementNS(svg, tag);
  for (const [k, v] of Object.entries(attrs)) e.setAttribute(k, v);
  to?.append(e);
  return e;
}
const craft = shape(document.querySelector("svg.plan"), "path", {
  class: "replay-craft",
  d: r.head ? "M0 -10L7 8L0 4L-7 8Z" : "M-5 0A5 5 0 1 0 5 0A5 5 0 1 0 -5 0Z",
});
const cursors = [...document.querySelectorAll("svg.over-time")].map((s) =>
  shape(s, "path", { class: "replay-cursor", d: `M0 0V${/** @type {SVGSVGElement} */ (s).viewBox.baseVal.height}` }),
);

/** The sample at or before a moment, and how far on to the next. @param {number} t */
function find(t) {
  let a = 0,
    b = r.t.length - 1;
  while (a < b) {
    const m = (a + b + 1) >> 1;
    if (r.t[m] <= t) a = m;
    else b = m - 1;
  }
  const n = Math.min(a + 1, r.t.length - 1);
  return { a, n, u: n > a ? (t - r.t[a]) / (r.t[n] - r.t[a]) : 0 };
}

const turned = (/** @type {number} */ a, /** @type {number} */ b, /** @type {number} */ u) =>
  a + (((((b - a) % 360) + 540) % 360) - 180) * u;

function show() {
  const { a, n, u } = find(now);
  const at = (/** @type {number[]} */ v) => v[a] + (v[n] - v[a]) * u;
  const head = r.head ? turned(r.head[a], r.head[n], u) : 0;
  craft.setAttribute("transform", `translate(${at(r.px)} ${at(r.py)}) rotate(${head})`);
  const x = r.x0 + now * r.per;
  for (const c of cursors) {
    c.setAttribute("transform", `translate(${x} 0)`);
    follow(/** @type {SVGSVGElement} */ (c.parentNode), x);
  }
  slider.value = String(Math.round((1000 * (now - first)) / (last - first || 1)));
  slider.setAttribute("aria-valuetext", `${now.toFixed(1)} seconds`);
  let says = `${now.toFixed(1)} s · ${lengthOf(Math.max(0, at(r.z)), 1)} up`;
  if (r.aspect) {
    const aspect = turned(r.aspect[a], r.aspect[n], u),
      deg = Math.round(Math.abs(((aspect + 540) % 360) - 180));
    const side = ((aspect + 540) % 360) - 180 > 0 ? "right" : "left";
    says += ` · ${deg < 12 ? "tail-in" : deg > 168 ? "nose-in" : `nose ${deg}° ${side}`}`;
    seen(aspect);
  }
  el("rp-says").textContent = says;
  const note = /** @type {HTMLInputElement | null} */ (document.getElementById("note-t"));
  if (note) note.value = now.toFixed(2);
  if (r.sticks) sticks(r.sticks[a]);
}

/** A drawing that is wider than its window shows the moment. @param {SVGSVGElement} drawing @param {number} x */
function follow(drawing, x) {
  const view = drawing.parentElement;
  if (!view || view.scrollWidth <= view.clientWidth) return;
  const at = (x * drawing.getBoundingClientRect().width) / drawing.viewBox.baseVal.width;
  if (at < view.scrollLeft + 20 || at > view.scrollLeft + view.clientWidth - 40)
    view.scrollLeft = at - view.clientWidth / 3;
}

const css = (/** @type {string} */ n) => getComputedStyle(document.documentElement).getPropertyValue(n).trim();

/** The craft turned as the pilot saw it. @param {number} aspect */
function seen(aspect) {
  const g = /** @type {CanvasRenderingContext2D} */ (/** @type {HTMLCanvasElement} */ (el("rp-seen")).getContext("2d"));
  g.clearRect(0, 0, 84, 84);
  g.strokeStyle = css("--line");
  g.beginPath();
  g.arc(42, 42, 38, 0, 7);
  g.stroke();
  g.save();
  g.translate(42, 42);
  g.rotate((aspect * Math.PI) / 180);
  g.strokeStyle = css("--ink");
  g.lineWidth = 3;
  for (const [x, y] of [
    [-16, -16],
    [16, -16],
    [-16, 16],
    [16, 16],
  ]) {
    g.beginPath();
    g.moveTo(0, 0);
    g.lineTo(x, y);
    g.stroke();
    g.beginPath();
    g.arc(x, y, 8, 0, 7);
    g.stroke();
  }
  g.fillStyle = css("--act");
  g.beginPath();
  g.moveTo(0, -30);
  g.lineTo(8, -16);
  g.lineTo(-8, -16);
  g.fill();
  g.restore();
}

/** The sticks, throttle and yaw on the left. @param {number[]} k */
function sticks(k) {
  const c = /** @type {HTMLCanvasElement} */ (el("rp-sticks")),
    g = /** @type {CanvasRenderingContext2D} */ (c.getContext("2d"));
  c.hidden = false;
  g.clearRect(0, 0, 190, 84);
  for (const [cx, x, y] of [
    [45, k[1], k[0]],
    [145, k[3], k[2]],
  ]) {
    g.strokeStyle = css("--ink-soft");
    g.strokeRect(cx - 38, 4, 76, 76);
    g.beginPath();
    g.moveTo(cx, 4);
    g.lineTo(cx, 80);
    g.moveTo(cx - 38, 42);
    g.lineTo(cx + 38, 42);
    g.stroke();
    g.fillStyle = css("--calm");
    g.beginPath();
    g.arc(cx + x * 34, 42 - y * 34, 6, 0, 7);
    g.fill();
  }
}

/** @param {number} t */
function seek(t) {
  now = Math.max(first, Math.min(last, t));
  show();
}

/** @param {boolean} on */
function play(on) {
  if (on && now >= last) now = first;
  playing = on;
  then = performance.now();
  el("rp-play").setAttribute("aria-pressed", String(on));
  el("rp-play").firstChild?.replaceWith(on ? "Pause " : "Play ");
  if (on) requestAnimationFrame(frame);
}

/** @param {number} at */
function frame(at) {
  if (!playing) return;
  seek(now + ((at - then) / 1000) * Number(/** @type {HTMLSelectElement} */ (el("rp-speed")).value));
  then = at;
  if (now >= last) play(false);
  else requestAnimationFrame(frame);
}

el("rp-play").addEventListener("click", () => play(!playing));
slider.addEventListener("input", () => {
  play(false);
  seek(first + (Number(slider.value) / 1000) * (last - first));
});
document.addEventListener("keydown", (e) => {
  const t = e.target;
  if (
    e.ctrlKey ||
    e.metaKey ||
    e.altKey ||
    (t instanceof HTMLElement && t.matches("input, select, textarea, button, a, summary")) ||
    document.querySelector("dialog[open], dialog:popover-open")
  )
    return;
  if (e.key === " ") {
    e.preventDefault();
    play(!playing);
  }
  if (e.key === "ArrowLeft" || e.key === "ArrowRight") {
    e.preventDefault();
    play(false);
    seek(now + (e.key === "ArrowRight" ? 0.5 : -0.5));
  }
});
// A fault that is gone to is shown a moment before it happens.
for (const li of document.querySelectorAll(".faults li[data-t], .notes li[data-t], .one-thing a[data-t]")) {
  const go = () => {
    play(false);
    seek(Number(/** @type {HTMLElement} */ (li).dataset.t));
  };
  li.addEventListener("focus", go);
  li.addEventListener("click", go);
}
seek(first);
// For the tests, which do not wait for it.
/** @type {any} */ (globalThis).maestraleReplay = { seek, now: () => now };
export {};
