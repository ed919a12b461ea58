// The device's clocks, as they stand side by side: the page's own runs evenly and is never set; the date and time are
// what people set. What is noted here lets the server tell when a mark was made.
import { newId } from "../frame/ids.js";
import { canKeep, store } from "../frame/keep.js";

/** @typedef {{id: string, cut: string, wall_ms: number, server_ms: number | null, round_ms: number}} Stretch */

const jump = 400; // ms by which the two part before it is a jump; less is the grain of a clock
const most = 200; // stretches that are kept

/** @type {Stretch[]} */
let list = [];
let hidden = document.hidden; // the page was out of sight since the last look
/** The server's clock less the date and time, as last known. */
let off = 0;

const wall = () => Date.now() - performance.now();
const newest = () => /** @type {Stretch} */ (list.at(-1));

async function keep() {
  if (!canKeep) return;
  const db = await store();
  await db.put("device", list, "clocks");
  await db.put("device", off, "off");
}

/** @param {string} cut */
function begin(cut) {
  list.push({ id: newId(), cut, wall_ms: wall(), server_ms: null, round_ms: 0 });
  list = list.slice(-most);
  void keep();
}

/** Looks whether the clock was set, or the device slept. */
export function look() {
  const apart = wall() - newest().wall_ms;
  if (Math.abs(apart) > jump) {
    // A device that sleeps is out of sight, and its page's clock stands still; a clock that goes back was set.
    const slept = apart > 0 && hidden;
    if (!slept) off -= apart;
    begin(slept ? "slept" : "set");
  }
  hidden = document.hidden;
}

/** Begins to note. */
export async function openClock() {
  if (canKeep) {
    const db = await store();
    list = (await db.get("device", "clocks")) ?? [];
    off = (await db.get("device", "off")) ?? 0;
  }
  begin("opened");
  setInterval(look, 500);
  document.addEventListener("visibilitychange", () => {
    hidden ||= document.hidden;
    look();
  });
}

/** Asks the server for its time, unless a quick answer is known. False is no network. */
export async function meet() {
  look();
  const known = newest();
  if (known.server_ms !== null && known.round_ms < 500) return true;
  const from = performance.now();
  try {
    const r = await fetch("/pad/now", { cache: "no-store" });
    const { now_ms: now } = await r.json();
    const to = performance.now();
    look();
    if (list.slice(list.indexOf(known) + 1).some((s) => s.cut === "slept")) return true; // it slept: another time
    const s = newest();
    if (s.server_ms === null || to - from < s.round_ms) {
      s.server_ms = now - (from + to) / 2;
      s.round_ms = to - from;
      off = now - Date.now();
      await keep();
    }
    return true;
  } catch {
    return false;
  }
}

/** The server's time as well as the device knows it, ms. */
export function serverNow() {
  look();
  let i = list.length - 1;
  for (; i >= 0; i--) {
    const s = list[i];
    if (s.server_ms !== null) return s.server_ms + performance.now();
    if (s.cut !== "set") break; // the page's clock does not reach farther back
  }
  return Date.now() + off;
}

/** Where the clocks stand now: what goes with a mark. */
export function here() {
  look();
  return { stretch: newest().id, mono_ms: performance.now() };
}

export const stretches = () => list;
