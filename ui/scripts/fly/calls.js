// Calls of a craft's aspect at known distances: the rules of core say which mark and which
// aspect come next, on this device, with a network or without; what was not sent is kept
// sealed, and sent when it can be. Used by the page of how far a student tells the nose, and
// by the pad of a device.
import { newId } from "../frame/ids.js";
import { canKeep, forgetSealed, put, send } from "../frame/keep.js";
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
/** Where what is noted and not sent can be read again: behind the lock of a pad.
 * @typedef {{read: () => Promise<Call[]>, write: (list: Call[]) => Promise<void>}} Shelf */
/** How calls go to the school. @typedef {{keep: (c: Call) => Promise<void>, forget: (id: string) => Promise<void>,
 *   send: (but: string) => Promise<{done: string[], refused: string}>}} Post */

/**
 * Calls are sealed on the device before they are sent.
 * @param {import("../frame/keep.js").Who} who @param {string} student @param {string} device @returns {Post}
 */
function sealing(who, student, device) {
  return {
    keep: (c) =>
      put(who, "call", c.id, { path: `/students/${student}/sight`, type: "application/json", body: JSON.stringify(c) }),
    forget: (id) => forgetSealed(id),
    async send(but) {
      const { answers, signedOut } = await send(device, "", new Set([but]));
      if (signedOut) throw new Error("signed out");
      const final = answers.filter((a) => a.final);
      return { done: final.map((a) => a.id), refused: final.find((a) => a.error)?.error ?? "" };
    },
  };
}

/** Without HTTPS they are in memory until they are sent. @param {string} student @returns {Post} */
function sending(student) {
  /** @type {Call[]} */
  let list = [];
  return {
    async keep(c) {
      list.push(c);
    },
    async forget(id) {
      list = list.filter((c) => c.id !== id);
    },
    async send(but) {
      /** @type {string[]} */
      const done = [];
      let refused = "";
      for (const k of list) {
        if (k.id === but) continue;
        const r = await fetch(`/students/${student}/sight`, {
          method: "POST",
          headers: { "Content-Type": "application/json" },
          body: JSON.stringify(k),
        });
        if (r.status >= 500 || r.status === 401 || r.redirected) break;
        done.push(k.id);
        if (!r.ok) refused = (await r.json()).error ?? String(r.status);
      }
      list = list.filter((c) => !done.includes(c.id));
      return { done, refused };
    },
  };
}

/** Notes calls of a student on the page, until it is closed.
 * @param {Config} config @param {import("../frame/keep.js").Who | null} who @param {string} device
 * @param {(asked: string) => Promise<string> | string} nextCall the rules @param {Shelf} [shelf]
 * @returns {() => void} closes it */
export function openCalls(config, who, device, nextCall, shelf = undefined) {
  const post = canKeep && who ? sealing(who, config.student, device) : sending(config.student);
  /** What the school does not have yet. @type {Call[]} */
  let mine = [];
  let shelved = 0; // how many stood on the device when it was written last
  /** One is written after the other, so that an older list never stands in the place of a newer one. */
  let writing = Promise.resolve();
  const shelve = () => {
    writing = writing.then(async () => {
      const now = [...mine];
      await shelf?.write(now).then(
        () => (shelved = now.length),
        () => {},
      );
    });
  };
  let busy = false;
  /**
   * Sends what is kept; it says what became of it, empty for nothing to say. @param {string} [but] can still be
   * undone
   */
  async function deliver(but = "") {
    if (busy) return "";
    busy = true;
    try {
      const { done, refused } = await post.send(but);
      mine = mine.filter((c) => !done.includes(c.id));
      shelve();
      if (refused) return `A call was refused: ${refused}`;
      const left = mine.filter((c) => c.id !== but).length;
      return left ? `${left} not sent yet; they stay on this device` : "";
    } catch {
      return mine.length ? `${mine.length} kept on this device; they are sent when there is a network` : "";
    } finally {
      busy = false;
    }
  }
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

  async function ask() {
    const got = JSON.parse(
      await nextCall(
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
    const noted = held;
    mine.push(noted);
    post.keep(noted).then(shelve, () => say("This device could not keep the call; it is tried again."));
    holding = window.setTimeout(release, undoFor);
    calls.push({ distance_m: next.mark_m, right: called === next.aspect, light: config.light });
    shown.push(next.aspect);
    stands = next.mark_m;
    el("sight-undo").hidden = false;
    el("sight-sent").textContent = called === next.aspect ? "right" : "wrong";
    void ask();
  }

  function undo() {
    if (!held) return;
    const id = held.id;
    mine = mine.filter((k) => k.id !== id);
    void post.forget(id).then(shelve);
    calls.pop();
    shown.pop();
    held = null;
    clearTimeout(holding);
    el("sight-undo").hidden = true;
    el("sight-sent").textContent = "undone";
    void ask();
  }

  /** Lets the last call go, so that it is sent. */
  function release() {
    clearTimeout(holding);
    held = null;
    el("sight-undo").hidden = true;
    void deliver().then(say);
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
  window.addEventListener("online", () => void deliver(held?.id).then(say), { signal });
  window.addEventListener("pagehide", release, { signal });
  // What was noted before and not sent belongs to the fit too.
  void ask();
  void (shelf?.read() ?? Promise.resolve([])).then((list) => {
    mine.unshift(...list);
    for (const k of list) calls.push({ distance_m: k.distance_m, right: k.called === k.shown, light: k.light });
    if (list.length) void ask();
    void deliver().then(say);
  });
  page.maestraleSight = { get: () => ({ ...next, calls: calls.length, kept: mine.length, shelved }) };
  return () => {
    release();
    ends.abort();
  };
}
