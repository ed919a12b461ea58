// A drill's drawing is played: the craft goes from pose to pose, and the step that is played stands out in the list.
// Who wants less motion sees it step by step.

const still = matchMedia("(prefers-reduced-motion: reduce)");
const legMs = 1100; // from a pose to the next
const restMs = 700; // at each pose

for (const figure of document.querySelectorAll("[data-plays]")) {
  const svg = figure.querySelector("svg[data-poses]");
  const button = /** @type {HTMLButtonElement | null} */ (figure.querySelector("[data-play]"));
  const player = figure.querySelector(".player");
  if (!svg || !button || !player) continue;
  /** @type {[number, number, number, number, number][]} */
  const poses = JSON.parse(/** @type {SVGElement} */ (svg).dataset.poses ?? "[]");
  const steps = figure.querySelectorAll("ol > li");
  let frame = 0;
  let began = 0;

  const stop = () => {
    cancelAnimationFrame(frame);
    frame = 0;
    player.setAttribute("hidden", "");
    svg.classList.remove("playing");
    button.textContent = "Play";
    for (const li of steps) li.classList.remove("now");
  };

  /** Shows the craft some milliseconds after the beginning. @param {number} ms */
  const at = (ms) => {
    const k = Math.floor(ms / (legMs + restMs));
    if (k >= poses.length) return stop();
    const to = poses[k];
    const from = poses[Math.max(0, k - 1)];
    const share = still.matches ? 1 : Math.min(1, (ms - k * (legMs + restMs)) / legMs);
    const ease = share * share * (3 - 2 * share);
    // A turn goes the way that the step says, and any other change of the nose the short way.
    const turn = to[4] || ((to[3] - from[3] + 540) % 360) - 180;
    const heading = k === 0 ? to[3] : from[3] + ease * turn;
    const x = from[1] + ease * (to[1] - from[1]);
    const y = from[2] + ease * (to[2] - from[2]);
    player.setAttribute("transform", `translate(${x} ${y}) rotate(${heading})`);
    for (const [i, li] of steps.entries()) li.classList.toggle("now", i === to[0]);
    return undefined;
  };

  const play = () => {
    player.removeAttribute("hidden");
    svg.classList.add("playing");
    button.textContent = "Stop";
    began = performance.now();
    const tick = (/** @type {number} */ now) => {
      frame = requestAnimationFrame(tick);
      at(Math.max(0, now - began));
    };
    frame = requestAnimationFrame(tick);
  };

  button.hidden = false;
  button.addEventListener("click", () => (frame ? stop() : play()));
}
export {};
