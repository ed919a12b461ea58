// Calls of a craft's aspect at known distances: the rules of core say which mark and which
// aspect come next, on this device, with a network or without; the page keeps what was not
// sent, and sends it.

/** @typedef {{id: string, at: string, craft: string, distance_m: number, light: string, shown: number, called: number}} Call */
/** @typedef {{mark_m: number, aspect: number, tell_m: number, half_m: number, low_m: number, high_m: number, calls: number, from_cue: boolean, enough: boolean}} Next */

const el = (/** @type {string} */ id) => /** @type {HTMLElement} */ (document.getElementById(id));
/** @type {any} */
const page = globalThis;
const holder = el("sight-config");
const config = JSON.parse(holder?.dataset.config ?? "{}");
/** @type {{distance_m: number, right: boolean, light: string}[]} */
const calls = config.calls ?? [];
/** @type {number[]} */
const shown = [];
/** @type {Next | null} */
let next = null;
let stands = 0;
/** The last call, which can still be undone. @type {Call | null} */
let held = null;
let holding = 0;

/** @returns {Call[]} */
const kept = () => JSON.parse(localStorage.getItem(config.key) ?? "[]");
/** @param {Call[]} list */
const keep = (list) => { if (list.length) localStorage.setItem(config.key, JSON.stringify(list)); else localStorage.removeItem(config.key); };

function ask() {
  const got = JSON.parse(page.maestralePad.nextCall(JSON.stringify({ spacing_m: config.spacing_m, light: config.light, stands_m: stands, shown, calls })));
  if (got.error) {
    el("sight-ask").textContent = got.error;
    return;
  }
  next = /** @type {Next} */ (got.ok);
  el("sight-ask").textContent = next.mark_m === stands ? `Still at ${next.mark_m} m` : `Carry it to ${next.mark_m} m`;
  el("sight-what").textContent = `turn it ${config.names[next.aspect]}${next.enough ? " · enough: the interval is narrow" : ""}`;
  for (const b of document.querySelectorAll("[data-called]")) /** @type {HTMLButtonElement} */ (b).disabled = false;
  if (!calls.length) return;
  el("sight-tell").textContent = `${Math.floor(next.tell_m)} m`;
  el("sight-from").textContent = next.from_cue ? `by the craft's colour cue; ${next.calls} calls are too few` : `by ${next.calls} calls`;
  el("sight-interval").textContent = next.from_cue ? "" : `Half way between a guess and always: ${next.half_m.toFixed(0)} m, ${next.low_m.toFixed(0)} to ${next.high_m.toFixed(0)} m.`;
}

/** @param {number} called */
function note(called) {
  if (!next) return;
  release();
  held = { id: crypto.randomUUID?.() ?? `${Date.now().toString(16).padStart(8, "0").slice(-8)}-0000-4000-8000-${Math.floor(Math.random() * 2 ** 48).toString(16).padStart(12, "0")}`, at: new Date().toISOString(), craft: config.craft, distance_m: next.mark_m, light: config.light, shown: next.aspect, called };
  keep([...kept(), held]);
  holding = window.setTimeout(release, 8000);
  calls.push({ distance_m: next.mark_m, right: called === next.aspect, light: config.light });
  shown.push(next.aspect);
  stands = next.mark_m;
  el("sight-undo").hidden = false;
  el("sight-sent").textContent = called === next.aspect ? "right" : "wrong";
  ask();
}

function undo() {
  if (!held) return;
  const id = held.id;
  keep(kept().filter((k) => k.id !== id));
  calls.pop();
  shown.pop();
  held = null;
  clearTimeout(holding);
  el("sight-undo").hidden = true;
  el("sight-sent").textContent = "undone";
  ask();
}

/** Lets the last call go, so that it is sent. */
function release() {
  clearTimeout(holding);
  held = null;
  el("sight-undo").hidden = true;
  void send();
}

let sending = false;
async function send() {
  if (sending) return;
  sending = true;
  try {
    for (const k of kept()) {
      if (k.id === held?.id) continue;
      const r = await fetch(config.post, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(k) });
      if (r.status >= 500 || r.status === 401) break;
      keep(kept().filter((x) => x.id !== k.id));
      if (!r.ok) el("sight-sent").textContent = `A call was refused: ${(await r.json()).error ?? r.status}`;
    }
    const left = kept().filter((k) => k.id !== held?.id).length;
    if (left) el("sight-sent").textContent = `${left} not sent yet; they stay on this device`;
  } catch {
    el("sight-sent").textContent = `${kept().length} kept on this device; they are sent when there is a network`;
  } finally {
    sending = false;
  }
}

async function load() {
  const go = new page.Go();
  const { instance } = await WebAssembly.instantiateStreaming(fetch(holder.dataset.wasm ?? ""), go.importObject);
  void go.run(instance);
  // What was noted before and not sent belongs to the fit too.
  for (const k of kept()) calls.push({ distance_m: k.distance_m, right: k.called === k.shown, light: k.light });
  void send();
  ask();
}

if (holder?.dataset.wasm) {
  for (const b of document.querySelectorAll("[data-called]")) b.addEventListener("click", () => note(Number(/** @type {HTMLElement} */ (b).dataset.called)));
  el("sight-undo").addEventListener("click", undo);
  document.addEventListener("keydown", (e) => {
    if (e.ctrlKey || e.metaKey || e.altKey || (e.target instanceof HTMLElement && e.target.closest("dialog, input, select, textarea"))) return;
    if (e.key >= "0" && e.key <= String(config.names.length)) note(Number(e.key) - 1);
    if (e.key.toLowerCase() === "u") undo();
  });
  window.addEventListener("online", () => void send());
  window.addEventListener("pagehide", release);
  load().catch((e) => { el("sight-ask").textContent = `The fit did not load: ${e instanceof Error ? e.message : e}. Reload the page`; });
  page.maestraleSight = { get: () => ({ ...next, calls: calls.length, kept: kept().length }) };
}
