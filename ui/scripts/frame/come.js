// Brings what keeps parts of a page up to date.

/** @type {Promise<typeof import("htmx.org").default> | null} */
let coming = null;

/** @type {Promise<unknown>} */
const shown = new Promise((done) => {
  if (document.readyState === "complete") done(undefined);
  else addEventListener("load", done, { once: true });
});

/** htmx, which reads the page as soon as it is here. */
export function live() {
  const from = document.documentElement.dataset.live ?? "";
  coming ??= shown
    .then(() => import(from))
    .then((m) => m.default)
    .catch((e) => {
      coming = null; // the next who needs it tries again
      throw e;
    });
  return coming;
}
