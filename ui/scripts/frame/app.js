// The frame of every screen: keys, dialogs, the why slip, walking through
// lists, and the theme. It draws and listens; it decides nothing.
import "../fleet/check.js";
import "../course/course.js";
import { live } from "../frame/come.js";
import { lengthOf } from "../frame/units.js";

// The wind in the head is the only part of most pages that changes; nobody waits for it.
if (document.documentElement.dataset.live)
  // Where that fails it is asked for again when it is needed.
  addEventListener("load", () => setTimeout(() => void live().catch(() => {}), 2500));

// A form whose text must not be lost brings its own script.
const keptForm = /** @type {HTMLElement | null} */ (document.querySelector("[data-kept-script]"));
if (keptForm) void import(keptForm.dataset.keptScript ?? "");

/** @param {string} id */
const byId = (id) => document.getElementById(id);

/** A text field is being written in.
 * @param {EventTarget | null} t */
const writing = (t) => t instanceof HTMLElement && (t.matches("input, textarea, select") || t.isContentEditable);

document.addEventListener("click", (e) => {
  const t = /** @type {HTMLElement} */ (e.target);
  const opener = t.closest("[data-opens]");
  if (opener instanceof HTMLElement) openDialog(opener.dataset.opens ?? "");
  if (t.closest("[data-closes]")) closeDialog(t.closest("dialog"));
  if (t.closest("[data-closes-slip]")) closeSlip();
  if (t.closest("[data-theme-switch]")) {
    const next = document.documentElement.dataset.theme === "dusk" ? "day" : "dusk";
    localStorage.setItem("theme", next);
    document.documentElement.dataset.theme = next;
  }
  for (const d of document.querySelectorAll("details.more-places[open], details.who[open]"))
    if (!d.contains(t) || t.closest("a, [data-opens]")) d.removeAttribute("open");
  const why = t.closest("a.why");
  if (why instanceof HTMLAnchorElement && !e.ctrlKey && !e.metaKey && !e.shiftKey) {
    e.preventDefault();
    openSlip(why);
  }
});

/** What lies open on top of the page. */
const onTop = "dialog[open], dialog:popover-open";

/** The jump lies on the page without making all the rest inert, which takes long where there is much of it.
 * @param {string} id */
function openDialog(id) {
  const d = byId(id);
  if (!(d instanceof HTMLDialogElement) || d.matches(onTop)) return;
  if (d.popover) d.showPopover();
  else d.showModal();
  const typed = d.querySelector("input[hx-get]");
  if (!(typed instanceof HTMLInputElement)) return;
  const search = () => {
    if (typed.value) typed.dispatchEvent(new Event("search")); // what was typed before it was here
  };
  void live().then(search, () => {}); // without it the form still goes to its page
}

/** @param {HTMLDialogElement | null} d */
function closeDialog(d) {
  if (d?.popover) d.hidePopover();
  else d?.close();
}

/** @type {HTMLElement | null} */
let slipFrom = null;

/** Opens the why slip beside the figure.
 * @param {HTMLAnchorElement} a */
async function openSlip(a) {
  const slip = byId("slip");
  if (!slip) return;
  slipFrom = a;
  try {
    await (await live()).ajax("get", a.href, { target: slip, swap: "innerHTML" });
  } catch {
    location.href = a.href;
    return;
  }
  slip.hidden = false;
  slip.querySelector("h2")?.focus();
}

function closeSlip() {
  const slip = byId("slip");
  if (!slip || slip.hidden) return false;
  slip.hidden = true;
  slipFrom?.focus();
  return true;
}

// Escape closes what lies on top; the dialogs close by themselves.
document.addEventListener("keydown", (e) => {
  if (e.key === "Escape")
    for (const d of document.querySelectorAll("details.more-places[open], details.who[open]")) {
      d.removeAttribute("open");
      d.querySelector("summary")?.focus();
    }
  if (e.key === "Escape" && !document.querySelector(onTop) && closeSlip()) e.preventDefault();
  if (writing(e.target)) {
    if (e.key === "ArrowDown" && e.target instanceof HTMLInputElement && e.target.id === "jump-q") {
      e.preventDefault();
      /** @type {HTMLElement | null} */ (document.querySelector("#jump-hits a"))?.focus();
    }
    return;
  }
  if (e.ctrlKey || e.metaKey || e.altKey) return;
  if (e.key === "/") {
    e.preventDefault();
    openDialog("jump-dialog");
  } else if (e.key === "?") {
    openDialog("keys-dialog");
  } else if (
    e.key === "w" &&
    document.activeElement instanceof HTMLAnchorElement &&
    document.activeElement.matches(".why")
  ) {
    openSlip(document.activeElement);
  } else if (e.key === "ArrowDown" || e.key === "ArrowUp") {
    if (walk(e.key === "ArrowDown" ? 1 : -1)) e.preventDefault();
  } else if (e.key === "[" || e.key === "]") {
    stepFault(e.key === "]" ? 1 : -1);
  } else if (!document.querySelector(onTop)) {
    const keyed = document.querySelector(`[data-key="${CSS.escape(e.key)}"]`);
    if (keyed instanceof HTMLElement && e.key !== "Enter") keyed.click();
  }
});

/** Moves the focus through the links of a list's rows.
 * @param {number} by */
function walk(by) {
  const list =
    document.activeElement?.closest("[data-list]") ??
    document.querySelector(":is(dialog[open], dialog:popover-open) [data-list], main [data-list]");
  if (!list) return false;
  const links = /** @type {HTMLElement[]} */ ([...list.querySelectorAll("tbody tr a:first-of-type, li > a")]);
  const first = links.filter((a, i) => i === 0 || a.closest("tr, li") !== links[i - 1].closest("tr, li"));
  const at = first.indexOf(/** @type {HTMLElement} */ (document.activeElement));
  const next = at < 0 ? (by > 0 ? 0 : first.length - 1) : Math.min(first.length - 1, Math.max(0, at + by));
  first[next]?.focus();
  return first.length > 0;
}

/** Goes from fault to fault.
 * @param {number} by */
function stepFault(by) {
  const faults = /** @type {HTMLElement[]} */ ([...document.querySelectorAll(".faults li")]);
  const at = faults.indexOf(/** @type {HTMLElement} */ (document.activeElement));
  faults[at < 0 ? (by > 0 ? 0 : faults.length - 1) : (at + by + faults.length) % faults.length]?.focus();
}

document.addEventListener("click", (e) => {
  if (e.target instanceof Element && e.target.closest("[data-print]")) window.print();
});

// A file that is chosen fills the text that it is meant for.
document.addEventListener("change", async (e) => {
  if (!(e.target instanceof HTMLInputElement) || !e.target.dataset.into || !e.target.files?.[0]) return;
  const into = /** @type {HTMLTextAreaElement | null} */ (document.getElementById(e.target.dataset.into));
  if (!into) return;
  into.value = await e.target.files[0].text();
  into.dispatchEvent(new Event("input", { bubbles: true }));
});

/** What is wider than the screen scrolls by the keyboard too. */
function reachable() {
  for (const s of document.querySelectorAll(".scroll")) {
    if (s.scrollWidth > s.clientWidth) s.setAttribute("tabindex", "0");
    else s.removeAttribute("tabindex");
  }
}
window.addEventListener("resize", reachable);
document.body.addEventListener("htmx:afterSettle", reachable);
reachable();

// The time zone of this device is the likely one; the others are offered as it is typed.
for (const field of document.querySelectorAll("[data-zone]")) {
  const input = /** @type {HTMLInputElement} */ (field);
  if (!input.value) input.value = Intl.DateTimeFormat().resolvedOptions().timeZone;
  input.list?.append(
    ...Intl.supportedValuesOf("timeZone").map((zone) => {
      const option = document.createElement("option");
      option.value = zone;
      return option;
    }),
  );
}

// A site's place is where this device is, if it may say so.
for (const button of document.querySelectorAll("[data-locate]")) {
  button.addEventListener("click", () => {
    const form = button.closest("form");
    const says = form?.querySelector("[data-locate-says]");
    const tell = (/** @type {string} */ text) => {
      if (says) says.textContent = text;
    };
    if (!globalThis.isSecureContext || !navigator.geolocation) {
      tell("This device tells its place only over HTTPS. Type the coordinates.");
      return;
    }
    tell("Asking this device.");
    navigator.geolocation.getCurrentPosition(
      ({ coords }) => {
        const put = (/** @type {string} */ name, /** @type {string} */ value) => {
          const field = /** @type {HTMLInputElement | null} */ (form?.querySelector(`[name=${name}]`) ?? null);
          if (field) field.value = value;
        };
        put("latitude", coords.latitude.toFixed(6));
        put("longitude", coords.longitude.toFixed(6));
        if (coords.altitude !== null) put("elevation", `${Math.round(coords.altitude)} m`);
        tell(`Taken, to within ${lengthOf(coords.accuracy)}.`);
      },
      () => tell("This device did not tell its place. Type the coordinates."),
      { enableHighAccuracy: true, timeout: 20_000 },
    );
  });
}

// A link to hand over is selected whole when it is touched.
for (const field of document.querySelectorAll("[data-select]")) {
  field.addEventListener("focus", () => /** @type {HTMLInputElement} */ (field).select());
}
