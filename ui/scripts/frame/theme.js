// Loaded before the page is shown, so that it never flashes in the other theme.
document.documentElement.dataset.theme =
  localStorage.getItem("theme") ?? (matchMedia("(prefers-color-scheme: dark)").matches ? "dusk" : "day");
// A device that has kept something looks whether it may still be read here: on every page but the pad, which looks
// itself.
const { forget } = document.documentElement.dataset;
if (forget && Object.keys(localStorage).some((k) => /^(kept$|pad:|run:|calls:)/.test(k))) void import(forget);
