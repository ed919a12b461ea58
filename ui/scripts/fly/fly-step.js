// The step that is flown now: named above the list of what is asked, and its place marked in the scene. The school's
// scorer says it; without a line to the school the list stands alone.

/**
 * @typedef {{step: number, of: number, asked: string, place?: string, at?: [number, number, number], words: string,
 *   inside: boolean, done: boolean}} Now
 */

/** @param {Now} now @param {{mark: (p: [number, number, number] | null) => void}} scene */
export function showStep(now, scene) {
  const asked = /** @type {HTMLDetailsElement} */ (document.getElementById("f-asked"));
  const summary = /** @type {HTMLElement} */ (asked.querySelector("summary"));
  // Once it is known which step runs, that one is enough: the list would hide the sky.
  if (!asked.dataset.followed) asked.open = false;
  asked.dataset.followed = "yes";
  const place = now.place ? `, at ${now.place}` : "";
  summary.textContent = now.done
    ? "All steps are done"
    : `Step ${now.step} of ${now.of}${place}: ${now.words === "in" ? "in its place" : now.words}`;
  if (!now.done) {
    const how = Object.assign(document.createElement("small"), { className: "soft", textContent: now.asked });
    summary.append(document.createElement("br"), how);
  }
  [...asked.querySelectorAll("li")].forEach((li, i) => {
    if (!now.done && i === now.step - 1) li.setAttribute("aria-current", "step");
    else li.removeAttribute("aria-current");
    li.classList.toggle("soft", now.done || i < now.step - 1);
  });
  scene.mark(now.done ? null : (now.at ?? null));
}
