// The end of a run: what the server found when it flew the run again.

const el = (/** @type {string} */ id) => /** @type {HTMLElement} */ (document.getElementById(id));

/** Shows what the server found.
 * @param {any} r @param {boolean} lost of the lost-craft trainer @param {boolean} sided */
export function showResult(r, lost, sided) {
  const v = r.verdict;
  el("r-word").textContent = r.refused
    ? "Refused, and kept for inspection"
    : v
      ? `${v.sign} ${v.verdict} ${v.margin}`
      : r.ended === "crashed"
        ? "Crashed"
        : "Kept";
  el("r-summary").textContent = r.refused || v?.summary || r.cause || "Free flight is not judged.";
  el("r-faults").replaceChildren(
    ...(v?.faults ?? [])
      .slice(1)
      .map((/** @type {string} */ f) => Object.assign(document.createElement("li"), { textContent: f })),
  );
  el("r-standing").textContent = v?.standing ?? "";
  el("r-plan").innerHTML = r.plan ?? ""; // a drawing of the server's
  if (v && !v.counts) {
    el("r-counts").hidden = false;
    el("r-counts").textContent = `Practice: ${v.why_not}.`;
  }
  if (v) {
    const d = /** @type {HTMLAnchorElement} */ (el("r-debrief"));
    d.hidden = false;
    d.href = v.debrief + (lost ? "#known" : "");
    if (lost) d.textContent = "What could be known";
    const again = /** @type {HTMLAnchorElement} */ (el("r-again"));
    again.href = v.again;
    if (sided) again.textContent = "Once more on the other side";
  }
}
