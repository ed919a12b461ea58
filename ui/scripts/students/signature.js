// Draws a signature with a pointer, as a path in a box of 300 by 100.

for (const form of document.querySelectorAll("[data-signature]")) {
  const box = /** @type {SVGSVGElement} */ (form.querySelector(".signature-box"));
  const path = /** @type {SVGPathElement} */ (box.querySelector("path"));
  const kept = /** @type {HTMLInputElement} */ (form.querySelector("[name=strokes]"));
  let drawing = false;
  /** @type {string[]} */
  let points = [];

  /** @param {PointerEvent} e @param {"M" | "L"} how */
  const add = (e, how) => {
    const { left, top, width, height } = box.getBoundingClientRect();
    const at = (/** @type {number} */ v, /** @type {number} */ most) => Math.max(0, Math.min(most, Math.round(v)));
    const point = `${at(((e.clientX - left) / width) * 300, 300)} ${at(((e.clientY - top) / height) * 100, 100)}`;
    if (points.length < 2500 && points.at(-1)?.slice(1) !== point) points.push(how + point);
    path.setAttribute("d", points.join(" "));
    kept.value = points.join(" ");
  };
  box.addEventListener("pointerdown", (e) => {
    drawing = true;
    box.setPointerCapture(e.pointerId);
    add(e, "M");
    e.preventDefault();
  });
  box.addEventListener("pointermove", (e) => {
    if (drawing) add(e, "L");
  });
  for (const end of ["pointerup", "pointercancel"]) box.addEventListener(end, () => (drawing = false));
  form.querySelector("[data-clear]")?.addEventListener("click", () => {
    points = [];
    path.setAttribute("d", "");
    kept.value = "";
  });
}
