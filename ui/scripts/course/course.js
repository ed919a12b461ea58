// Moving things on the plan of a course, by hand or with the arrow keys. The
// place is sent to the server, which draws and measures the course anew.
import { live } from "../frame/come.js";

/** @typedef {{ what: string, x: number, y: number }} Place */

/** What had the focus before the plan was drawn anew. */
let held = "";

/** @returns {SVGSVGElement | null} */
const plan = () => document.querySelector("svg.course-plan");

/** Sends where a thing is to stand.
 * @param {Place} p */
function send(p) {
  const root = document.getElementById("course");
  const form = root?.querySelector("form[hx-post]");
  if (!root || !form) return;
  held = p.what;
  const values = { do: "move", what: p.what, x: p.x.toFixed(3), y: p.y.toFixed(3) };
  void live().then((htmx) =>
    htmx.ajax("post", form.getAttribute("hx-post") ?? "", { target: "#course", swap: "outerHTML", values }),
  );
}

/** Where a pointer stands, in drawing units.
 * @param {SVGSVGElement} svg @param {PointerEvent} e */
function units(svg, e) {
  const box = svg.getBoundingClientRect();
  const view = svg.viewBox.baseVal;
  return {
    x: ((e.clientX - box.left) * view.width) / box.width,
    y: ((e.clientY - box.top) * view.height) / box.height,
  };
}

/** @type {{ el: SVGGElement, from: { x: number, y: number }, at: Place, k: number, moved: boolean } | null} */
let drag = null;

document.addEventListener("pointerdown", (e) => {
  const el = e.target instanceof Element ? e.target.closest("g.grab") : null;
  const svg = plan();
  if (!(el instanceof SVGGElement) || !svg) return;
  e.preventDefault();
  el.focus();
  drag = {
    el,
    from: units(svg, e),
    at: { what: el.dataset.what ?? "", x: Number(el.dataset.x), y: Number(el.dataset.y) },
    k: Number(svg.dataset.k),
    moved: false,
  };
  svg.setPointerCapture(e.pointerId);
});

document.addEventListener("pointermove", (e) => {
  const svg = plan();
  if (!drag || !svg) return;
  const now = units(svg, e);
  const dx = now.x - drag.from.x;
  const dy = now.y - drag.from.y;
  drag.moved ||= Math.hypot(dx, dy) > 3;
  drag.el.setAttribute("transform", `translate(${dx} ${dy})`);
});

document.addEventListener("pointerup", (e) => {
  const svg = plan();
  const d = drag;
  drag = null;
  if (!d || !svg || !d.moved) return;
  const now = units(svg, e);
  const half = (/** @type {number} */ v) => Math.round(v * 10) / 10;
  send({ what: d.at.what, x: half(d.at.x + (now.x - d.from.x) / d.k), y: half(d.at.y - (now.y - d.from.y) / d.k) });
});

document.addEventListener("pointercancel", () => {
  drag?.el.removeAttribute("transform");
  drag = null;
});

/** Arrow keys wait a moment, so that several presses are one move. */
let wait = 0;
document.addEventListener(
  "keydown",
  (e) => {
    const el = document.activeElement;
    const step = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
    const svg = plan();
    if (!step || !svg || !(el instanceof SVGGElement) || !el.matches("g.grab")) return;
    e.preventDefault();
    e.stopPropagation();
    const by = e.shiftKey ? 0.1 : 0.5;
    const x = Number(el.dataset.x) + step[0] * by;
    const y = Number(el.dataset.y) + step[1] * by;
    const k = Number(svg.dataset.k);
    const [tx, ty] = (el.dataset.moved ?? "0 0").split(" ").map(Number);
    el.dataset.x = String(x);
    el.dataset.y = String(y);
    el.dataset.moved = `${tx + step[0] * by * k} ${ty - step[1] * by * k}`;
    el.setAttribute("transform", `translate(${el.dataset.moved})`);
    clearTimeout(wait);
    wait = window.setTimeout(() => send({ what: el.dataset.what ?? "", x, y }), 350);
  },
  true,
);

document.addEventListener("htmx:afterSettle", (e) => {
  const root = document.getElementById("course");
  // The wind in the masthead settles too, and has nothing to do with what was held.
  const ours = e.target instanceof Element && root && (e.target.contains(root) || root.contains(e.target));
  if (!held || !ours) return;
  const again = document.querySelector(`g.grab[data-what="${CSS.escape(held)}"]`);
  held = "";
  if (again instanceof SVGGElement) again.focus();
});
