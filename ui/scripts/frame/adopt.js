// What an earlier version left on this device in the clear: nobody knows under which sign-in it was made, so that it is
// sealed as something found, goes to a person for a decision, and is readable here no more.
import { openDB } from "idb";
import { newId } from "./ids.js";
import { canKeep, put } from "./keep.js";

const json = "application/json";

/** The keys that it used. */
const old = () => Object.keys(localStorage).filter((k) => /^(pad|run|calls):/.test(k));

/** Seals what is found. @param {import("./keep.js").Who} who */
export async function adopt(who) {
  if (!canKeep) return;
  for (const key of old()) {
    const [kind, student] = key.split(":");
    const of = JSON.parse(localStorage.getItem(key) ?? "null");
    if (kind === "pad" && of?.marks) await marks(who, student, of);
    if (kind === "run" && of?.id)
      await put(who, "found", of.id, { path: `/students/${student}/runs`, type: json, body: JSON.stringify(of) });
    if (kind === "calls")
      for (const c of of ?? [])
        await put(who, "found", c.id, { path: `/students/${student}/sight`, type: json, body: JSON.stringify(c) });
    localStorage.removeItem(key);
  }
  const all = await indexedDB.databases?.();
  if (!all?.some((d) => d.name === "maestrale-pad")) return;
  const db = await openDB("maestrale-pad");
  if (db.objectStoreNames.contains("attempts"))
    for (const k of await db.getAll("attempts"))
      if (k.run?.marks?.some((/** @type {any} */ m) => !k.sent?.includes(m.id))) await marks(who, k.student, k.run);
  db.close();
  indexedDB.deleteDatabase("maestrale-pad");
}

/** @param {import("./keep.js").Who} who @param {string} student @param {any} run */
const marks = (who, student, run) =>
  put(who, "found", run.opening?.id ?? newId(), {
    path: `/students/${student}/marks`,
    type: json,
    body: JSON.stringify({ opening: run.opening, marks: run.marks, now_s: run.marks.at(-1)?.t_s ?? 0 }),
  });
