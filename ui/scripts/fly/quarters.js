// The four quarters: the craft is turned by hand, and what the server has worked out for that heading is shown.

/** @typedef {{stick: string, words: string, x: number, y: number}} Goes */
/** @typedef {{deg: number, quarter: string, nose_in: boolean, rule: string, goes: Goes[]}} Turn */

const el = (/** @type {string} */ id) => /** @type {HTMLElement} */ (document.getElementById(id));
const box = el("quarters");
/** @type {Turn[]} */
const turns = JSON.parse(box.dataset.turns ?? "[]");
const slider = /** @type {HTMLInputElement} */ (el("q-turn"));
const step = 15;

/** Degrees from −180 up to 180. @param {number} deg */
const around = (deg) => ((((deg + 180) % 360) + 360) % 360) - 180;

/** @param {number} deg */
function turnTo(deg) {
  const at = around(step * Math.round(deg / step));
  const t = turns.find((k) => k.deg === at);
  if (!t) return;
  slider.value = String(at);
  el("q-craft").setAttribute("transform", `rotate(${at})`);
  el("q-quarter").textContent = t.quarter;
  el("q-rule").textContent = t.rule;
  for (const g of t.goes) {
    const row = box.querySelector(`tr[data-stick="${g.stick}"] td`);
    if (row) row.textContent = `takes it ${g.words}`;
    const arrow = box.querySelector(`.q-arrow[data-stick="${g.stick}"]`);
    const line = arrow?.querySelector("path");
    const [tip, side] = [98, 9];
    const head = `${(tip * g.x - side * (g.x + g.y)).toFixed(1)} ${(-tip * g.y + side * (g.y - g.x)).toFixed(1)}`;
    const other = `${(tip * g.x - side * (g.x - g.y)).toFixed(1)} ${(-tip * g.y + side * (g.y + g.x)).toFixed(1)}`;
    const end = `${(tip * g.x).toFixed(1)} ${(-tip * g.y).toFixed(1)}`;
    line?.setAttribute("d", `M${(58 * g.x).toFixed(1)} ${(-58 * g.y).toFixed(1)}L${end}M${head}L${end}L${other}`);
    const text = arrow?.querySelector("text");
    text?.setAttribute("x", (118 * g.x).toFixed(1));
    text?.setAttribute("y", (-118 * g.y + 4).toFixed(1));
  }
}

slider.addEventListener("input", () => turnTo(Number(slider.value)));
for (const [id, by] of /** @type {[string, number][]} */ ([
  ["q-left", -step],
  ["q-right", step],
])) {
  el(id).addEventListener("click", (e) => {
    e.preventDefault();
    turnTo(Number(slider.value) + by);
  });
}
document.addEventListener("keydown", (e) => {
  if (e.target === slider || !["ArrowLeft", "ArrowRight"].includes(e.key)) return;
  turnTo(Number(slider.value) + (e.key === "ArrowLeft" ? -step : step));
  e.preventDefault();
});

// By hand: the nose follows the finger round the middle.
const view = /** @type {SVGSVGElement} */ (/** @type {unknown} */ (el("q-view")));
/** @param {PointerEvent} e */
function follow(e) {
  const b = view.getBoundingClientRect();
  const x = e.clientX - b.left - b.width / 2;
  const y = e.clientY - b.top - (b.height * 150) / 330;
  if (Math.hypot(x, y) > 8) turnTo((Math.atan2(x, -y) * 180) / Math.PI);
}
view.addEventListener("pointerdown", (e) => {
  view.setPointerCapture(e.pointerId);
  follow(e);
});
view.addEventListener("pointermove", (e) => {
  if (view.hasPointerCapture(e.pointerId)) follow(e);
});
turnTo(Number(slider.value));
