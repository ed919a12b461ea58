// The field day: the board is asked for anew whenever the database says that it has
// changed, and a planned flight is moved by dragging it or with the arrow keys. What a
// move breaks, the server says.

const el = (/** @type {string} */ id) => /** @type {HTMLElement} */ (document.getElementById(id));
const changed = () => document.body.dispatchEvent(new CustomEvent("board-changed"));

const board = el("board");
let quiet = 0;

function listen() {
  const line = new EventSource("/today/live");
  line.addEventListener("open", () => {
    el("board-line").textContent = "";
    if (quiet) changed();
    quiet = 0;
  });
  line.addEventListener("board", () => changed());
  line.addEventListener("error", () => {
    quiet = quiet || Date.now();
    el("board-line").textContent =
      "The line to the school is down; what stands here may be old. It is tried again by itself.";
    if (line.readyState === EventSource.CLOSED) setTimeout(listen, 3000);
  });
}
listen();

// A board that is being worked in is not swapped under the hand.
board.addEventListener("htmx:beforeSwap", (e) => {
  const at = document.activeElement;
  if (drag || (at && board.contains(at) && (at.tagName === "SELECT" || at.tagName === "INPUT"))) {
    e.preventDefault();
    setTimeout(() => changed(), 2000);
  }
});

// Folds keep how they stand when the board is drawn anew. Those that a wide screen shows open are open there.
const wide = matchMedia("(min-width: 641px)");
/** @type {Map<string, boolean>} */
const folds = new Map();
const foldsNow = () => /** @type {NodeListOf<HTMLDetailsElement>} */ (board.querySelectorAll("details[id]"));
function fold() {
  for (const d of foldsNow()) {
    const always = wide.matches && d.classList.contains("wide-open");
    d.open = always || (folds.get(d.id) ?? d.open);
    const summary = /** @type {HTMLElement} */ (d.firstElementChild);
    summary.tabIndex = always ? -1 : 0;
  }
}
board.addEventListener("htmx:beforeSwap", () => {
  for (const d of foldsNow()) if (!wide.matches || !d.classList.contains("wide-open")) folds.set(d.id, d.open);
});
board.addEventListener("htmx:afterSwap", fold);
wide.addEventListener("change", fold);
fold();
// Where something is asked for by its address, what folds it is opened.
function unfold() {
  const at = /^#[\w-]+$/.test(location.hash) ? document.querySelector(location.hash) : null;
  const d = at?.closest("details");
  if (d) d.open = true;
  at?.scrollIntoView();
}
addEventListener("hashchange", unfold);
unfold();

/**
 * @typedef {{g: SVGGElement, index: number, key: string, x: number, y: number, minutes: number, boxes: number}} Drag
 */
/** @type {Drag | null} */
let drag = null;
const boxHigh = 46; // of a lane, as it is drawn

const flightOf = (/** @type {EventTarget | null} */ t) =>
  /** @type {SVGGElement | null} */ (t instanceof Element ? t.closest("g[data-flight]") : null);
const perMinute = () => Number(el("strip").dataset.perMinute);
const scale = () => {
  const s = el("strip").querySelector("svg");
  return s ? s.viewBox.baseVal.width / s.getBoundingClientRect().width : 1;
};

/** @param {SVGGElement} g */
const begin = (g, x = 0, y = 0) => ({
  g,
  index: Number(g.dataset.flight),
  key: g.dataset.key ?? "",
  x,
  y,
  minutes: 0,
  boxes: 0,
});

let soon = 0; // the timer until what a move breaks is asked for
function show() {
  if (!drag) return;
  drag.g.setAttribute("transform", `translate(${drag.minutes * perMinute()} ${drag.boxes * boxHigh})`);
  clearTimeout(soon);
  soon = window.setTimeout(() => void foretell(), 150);
}

function drop() {
  if (drag) drag.g.removeAttribute("transform");
  drag = null;
  clearTimeout(soon);
  el("strip-says").textContent = "";
}

/** Says what the move would break while the flight is being moved. */
async function foretell() {
  const of = drag;
  if (!of || (!of.minutes && !of.boxes)) return;
  const { ok, said } = await consequences(of);
  if (drag !== of) return;
  el("strip-says").textContent = ok ? wordsOf(said) : "";
}

/** What a move breaks, by the server. @param {Drag} of @param {boolean} [keep] */
async function consequences(of, keep) {
  const lane = Math.round(of.g.getBBox().y / boxHigh - 0.6) + 1;
  const move = { index: of.index, key: of.key, minutes: of.minutes, box: Math.max(1, lane + of.boxes) };
  const answer = await fetch(`/today/move${keep ? "?keep=yes" : ""}`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(move),
  });
  return { ok: answer.ok, said: await answer.json().catch(() => ({})) };
}

/** @param {{says: string, breaks: string[]}} said */
const wordsOf = (said) =>
  said.breaks.length ? `${said.says}. ${said.breaks.join(". ")}.` : `${said.says}. That breaks nothing.`;

board.addEventListener("pointerdown", (e) => {
  const g = flightOf(e.target);
  if (!g || e.button !== 0) return;
  drag = begin(g, e.clientX, e.clientY);
  g.setPointerCapture(e.pointerId);
  g.focus();
  e.preventDefault();
});
board.addEventListener("pointermove", (e) => {
  if (!drag || !e.buttons) return;
  drag.minutes = Math.round(((e.clientX - drag.x) * scale()) / perMinute());
  drag.boxes = Math.round(((e.clientY - drag.y) * scale()) / boxHigh);
  show();
});
board.addEventListener("pointerup", () => {
  if (drag && (drag.minutes || drag.boxes)) void ask();
  else drop();
});
board.addEventListener("keydown", (e) => {
  const g = flightOf(e.target);
  if (!g) return;
  const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
  if (by) {
    if (!drag || drag.g !== g) {
      drop();
      drag = begin(g);
    }
    drag.minutes += by[0];
    drag.boxes += by[1];
    show();
    e.preventDefault();
  } else if (e.key === "Enter" && drag) {
    e.preventDefault();
    void ask();
  } else if (e.key === "Escape") drop();
});

/** Asks what the move breaks, and keeps it where that is wanted. @param {boolean} [keep] */
async function ask(keep) {
  if (!drag) return;
  const { ok, said } = await consequences(drag, keep);
  const dialog = /** @type {HTMLDialogElement} */ (el("move-dialog"));
  if (keep && ok) {
    dialog.close();
    drop();
    changed();
    return;
  }
  el("move-says").textContent = ok
    ? `${said.says}. ${said.breaks.length ? "That is not possible:" : "That breaks nothing."}`
    : `${said.What ?? said.what ?? "That could not be kept."}`;
  el("move-breaks").replaceChildren(
    .../** @type {string[]} */ (said.breaks ?? []).map((b) =>
      Object.assign(document.createElement("li"), { textContent: b }),
    ),
  );
  el("move-keep").hidden = !ok || said.breaks.length > 0;
  if (!dialog.open) dialog.showModal();
}
el("move-keep").addEventListener("click", () => void ask(true));
el("move-dialog").addEventListener("close", drop);
export {};
