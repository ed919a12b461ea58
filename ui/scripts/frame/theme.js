// Loaded before the page is shown, so that it never flashes in the other theme.
document.documentElement.dataset.theme =
  localStorage.getItem("theme") ?? (matchMedia("(prefers-color-scheme: dark)").matches ? "dusk" : "day");
