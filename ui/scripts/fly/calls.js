// Calls of a craft's aspect at known distances: the rules of core say which mark and which
// aspect come next, on this device, with a network or without; what was not sent is kept
// here, and sent when it can be. Used by the page of how far a student tells the nose, and
// by the pad of a device.
import { newId } from "../frame/ids.js";
import { lengthOf } from "../frame/units.js";

/**
 * @typedef {{id: string, at: string, craft: string, distance_m: number, light: string, shown: number,
 *   called: number}} Call
 */
/**
 * @typedef {{mark_m: number, aspect: number, tell_m: number, half_m: number, low_m: number, high_m: number,
 *   calls: number, from_cue: boolean, enough: boolean}} Next
 */
/**
 * @typedef {{student: string, craft: string, spacing_m: number, light: string, calls: {distance_m: number,
 *   right: boolean, light: string}[], names: string[]}} Config
 */

const el = (/** @type {string} */ id) => /** @type {HTMLElement} */ (document.getElementById(id));
/** @type {any} */
const page = globalThis;

const undoFor = 8000; // ms in which a call can be undone, before it is sent
const prefix = "calls:";

/** What is kept of a student and not sent. @param {string} student @returns {Call[]} */
const kept = (student) => JSON.parse(localStorage.getItem(prefix + student) ?? "[]");
/** @param {string} student @param {Call[]} list */
const keep = (student, list) => {
  if (list.length) localStorage.setItem(prefix + student, JSON.stringify(list));
  else localStorage.removeItem(prefix + student);
};

let sending = false;
/** Sends what is kept of a student; it says what became of it, empty for nothing to say.
 * @param {string} student @param {string} [but] a call that can still be undone */
async function send(student, but) {
  if (sending) return "";
  sending = true;
  try {
    let refused = "";
    for (const k of kept(student)) {
      if (k.id === but) continue;
      const r = await fetch(`/students/${student}/sight`, {
        method: "POST",
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify(k),
      });
      if (r.status >= 500 || r.status === 401 || r.redirected) break;
      keep(
        student,
        kept(student).filter((x) => x.id !== k.id),
      );
      if (!r.ok) refused = `A call was refused: ${(await r.json()).error ?? r.status}`;
    }
    const left = kept(student).filter((k) => k.id !== but).length;
    return refused || (left ? `${left} not sent yet; they stay on this device` : "");
  } catch {
    return `${kept(student).length} kept on this device; they are sent when there is a network`;
  } finally {
    sending = false;
  }
}

/** Sends what is kept of everybody. */
export async function sendAllCalls() {
  for (const key of Object.keys(localStorage)) if (key.startsWith(prefix)) await send(key.slice(prefix.length));
}

/** Notes calls of a student on the page, until it is closed.
 * @param {Config} config @returns {() => void} closes it */
export function openCalls(config) {
  const ends = new AbortController(),
    { signal } = ends;
  const calls = [...config.calls];
  /** @type {number[]} */
  const shown = [];
  /** @type {Next | null} */
  let next = null;
  let stands = 0;
  /** The last call, which can still be undone. @type {Call | null} */
  let held = null;
  let holding = 0;
  const say = (/** @type {string} */ words) => {
    if (words) el("sight-sent").textContent = words;
  };

  function ask() {
    const got = JSON.parse(
      page.maestralePad.nextCall(
        JSON.stringify({ spacing_m: config.spacing_m, light: config.light, stands_m: stands, shown, calls }),
      ),
    );
    if (got.error) {
      el("sight-ask").textContent = got.error;
      return;
    }
    next = /** @type {Next} */ (got.ok);
    el("sight-ask").textContent =
      next.mark_m === stands ? `Still at ${lengthOf(next.mark_m)}` : `Carry it to ${lengthOf(next.mark_m)}`;
    el("sight-what").textContent =
      `turn it ${config.names[next.aspect]}${next.enough ? " · enough: the interval is narrow" : ""}`;
    for (const b of document.querySelectorAll("[data-called]")) /** @type {HTMLButtonElement} */ (b).disabled = false;
    el("sight-tell").textContent = lengthOf(Math.floor(next.tell_m));
    el("sight-from").textContent = next.from_cue
      ? `by the craft's colour cue; ${next.calls ? `${next.calls} calls are too few` : "no calls yet"}`
      : `by ${next.calls} calls`;
    el("sight-interval").textContent = next.from_cue
      ? ""
      : `Half way between a guess and always: ${lengthOf(next.half_m)}, ` +
        `${lengthOf(next.low_m)} to ${lengthOf(next.high_m)}.`;
  }

  /** @param {number} called */
  function note(called) {
    if (!next) return;
    release();
    held = {
      id: newId(),
      at: new Date().toISOString(),
      craft: config.craft,
      distance_m: next.mark_m,
      light: config.light,
      shown: next.aspect,
      called,
    };
    keep(config.student, [...kept(config.student), held]);
    holding = window.setTimeout(release, undoFor);
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
    keep(
      config.student,
      kept(config.student).filter((k) => k.id !== id),
    );
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
    void send(config.student).then(say);
  }

  for (const b of document.querySelectorAll("[data-called]"))
    b.addEventListener("click", () => note(Number(/** @type {HTMLElement} */ (b).dataset.called)), { signal });
  el("sight-undo").addEventListener("click", undo, { signal });
  document.addEventListener(
    "keydown",
    (e) => {
      if (
        e.ctrlKey ||
        e.metaKey ||
        e.altKey ||
        (e.target instanceof HTMLElement && e.target.closest("dialog, input, select, textarea"))
      )
        return;
      if (e.key >= "0" && e.key <= String(config.names.length)) note(Number(e.key) - 1);
      if (e.key.toLowerCase() === "u") undo();
    },
    { signal },
  );
  window.addEventListener("online", () => void send(config.student, held?.id).then(say), { signal });
  window.addEventListener("pagehide", release, { signal });
  // What was noted before and not sent belongs to the fit too.
  for (const k of kept(config.student))
    calls.push({ distance_m: k.distance_m, right: k.called === k.shown, light: k.light });
  void send(config.student).then(say);
  ask();
  page.maestraleSight = { get: () => ({ ...next, calls: calls.length, kept: kept(config.student).length }) };
  return () => {
    release();
    ends.abort();
  };
}
