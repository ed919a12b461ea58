// Slow motion: a device that draws too slowly stretches time, and says so.

const el = (/** @type {string} */ id) => /** @type {HTMLElement} */ (document.getElementById(id));
let notFlown = 0; // ms in the last while
let since = 0;

/** Says so when time passes slower than it does, since the pictures come too slowly.
 * @param {number} lost ms that are not flown @param {number} now */
export function stretched(lost, now) {
  notFlown += lost;
  if (now - since < 2000) return;
  const share = since ? notFlown / (now - since) : 0;
  el("f-slow").hidden = share < 0.1;
  el("f-slow").textContent =
    `This device draws too slowly: time passes at ${Math.round(100 * (1 - Math.min(1, share)))} % of its speed. ` +
    "Make the window smaller, or take a faster device; what is flown in slow motion trains less.";
  notFlown = 0;
  since = now;
}
