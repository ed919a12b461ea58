// Asking the judge: the compiled one beside the page, or the server's while that is still on its way. Both are the same
// rules.
import * as line from "./line.js";

const root = () => /** @type {HTMLElement} */ (document.getElementById("pad-away"));

/** The day that is judged. @type {any} */
let day = null;
/** The device has its own judge. */
let own = false;
let wasmThere = false;
/** @type {Worker | null} */
let worker = null;
let asked = 0;
/**
 * The judge is on the device. One that has to come over the network would hold up what is seen first, and comes
 * after.
 */
const has = Boolean(navigator.serviceWorker?.controller);
/** @type {Promise<void> | null} */
let comes = null;

/** Whether the device has its own judge by now. */
export const isOwn = () => own;
/** The day that is judged from now on. @param {any} to */
export function takeDay(to) {
  day = to;
}

/** Asks the judge: the compiled one, or the server's while that is still on its way.
 * @param {string} what @param {...any} args */
export async function judge(what, ...args) {
  /** @type {any} */
  let said;
  if (!own && has) {
    await bringJudge().catch(() => {});
    await openDay();
  }
  if (own) said = JSON.parse(await askOwn(what, args));
  else {
    const r = await fetch("/pad/judge", {
      method: "POST",
      headers: { "Content-Type": "application/json", Accept: "application/json" },
      body: JSON.stringify({ what, args }),
    }).catch(() => {
      throw new Error("The judge is not on this device yet, and the school is not reached.");
    });
    said = await r.json().catch(() => ({ error: `The school answers ${r.status}.` }));
  }
  if (said.error !== undefined) throw new Error(said.error);
  return said.ok;
}

/** Asks the compiled judge. @param {string} what @param {any[]} args @returns {Promise<string>} */
export function askOwn(what, args) {
  worker ??= new Worker(root().dataset.judge ?? "", { type: "module" });
  const mine = worker;
  const id = (asked += 1);
  return new Promise((said, no) => {
    const hear = (/** @type {MessageEvent} */ e) => {
      if (e.data.id !== id) return;
      mine.removeEventListener("message", hear);
      said(e.data.said);
    };
    mine.addEventListener("message", hear);
    mine.addEventListener("error", () => no(new Error("The judge did not begin.")), { once: true });
    mine.postMessage({ id, what, args });
  });
}

/** Brings the compiled judge here, and hands the day over to it. */
export function bringJudge() {
  const { wasm, exec } = root().dataset;
  comes ??= askOwn("begin", [{ wasm, exec }]).then(async (said) => {
    if (JSON.parse(said).error) throw new Error(JSON.parse(said).error);
    wasmThere = true;
    await openDay();
    document.documentElement.dataset.judge = "own";
  });
  return comes;
}

/** Hands the day, and what was marked here, to the compiled judge. */
export async function openDay() {
  if (!day) return;
  const { units } = day;
  Object.assign(document.documentElement.dataset, {
    length: units.length,
    lengthOne: units.length_one,
    speed: units.speed,
    speedOne: units.speed_one,
  });
  if (!wasmThere) return;
  const said = JSON.parse(await askOwn("open", [JSON.stringify(day)]));
  if (said.error) throw new Error(said.error);
  for (const k of line.attempts)
    if (k.ended && k.evidence) await askOwn("add", [k.student, JSON.stringify(k.evidence)]);
  own = true;
}
