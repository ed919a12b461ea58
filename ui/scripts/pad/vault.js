// What of the day can be read stands behind a key that never leaves the browser. The key is open while the pad is in
// use; after five idle minutes it is locked by a short PIN. Ten wrong tries throw it away.
import { forget, store } from "../frame/keep.js";

const idleFor = 5 * 60_000;
const mostTries = 10;
const rounds = 600_000; // of PBKDF2 with SHA-256
const enc = new TextEncoder();
const dec = new TextDecoder();

/** @type {CryptoKey | null} */
let key = null;
let touched = performance.now();
let touchedAt = Date.now();

const subtle = () => crypto.subtle;

/** The key that a PIN makes; it takes a while, so that nobody tries them all.
 * @param {string} pin @param {BufferSource} salt @returns {Promise<CryptoKey>} */
async function fromPin(pin, salt) {
  const raw = await subtle().importKey("raw", enc.encode(pin), "PBKDF2", false, ["deriveKey"]);
  return subtle().deriveKey(
    { name: "PBKDF2", hash: "SHA-256", salt, iterations: rounds },
    raw,
    { name: "AES-GCM", length: 256 },
    false,
    ["wrapKey", "unwrapKey"],
  );
}

export const isOpen = () => key !== null;

/** Begins anew for a sign-in, with a PIN. @param {string} signIn @param {string} pin */
export async function make(signIn, pin) {
  const fresh = await subtle().generateKey({ name: "AES-GCM", length: 256 }, true, ["encrypt", "decrypt"]);
  const salt = crypto.getRandomValues(new Uint8Array(16)),
    iv = crypto.getRandomValues(new Uint8Array(12)),
    outer = crypto.getRandomValues(new Uint8Array(12));
  const inside = await subtle().wrapKey("raw", fresh, await fromPin(pin, salt), { name: "AES-GCM", iv });
  // A second lock whose key cannot leave this browser: a copy of the store is of no use elsewhere.
  const binder = await subtle().generateKey({ name: "AES-GCM", length: 256 }, false, ["encrypt", "decrypt"]);
  const wrapped = await subtle().encrypt({ name: "AES-GCM", iv: outer }, binder, inside);
  const raw = await subtle().exportKey("raw", fresh);
  key = await subtle().importKey("raw", raw, "AES-GCM", false, ["encrypt", "decrypt"]);
  const db = await store();
  const tx = db.transaction(["vault", "rooms"], "readwrite");
  const v = tx.objectStore("vault");
  await Promise.all([
    tx.objectStore("rooms").clear(),
    v.put(signIn, "owner"),
    v.put({ salt, iv, outer, wrapped, binder, tries: 0 }, "lock"),
    v.put({ key, at: Date.now() }, "open"),
    tx.done,
  ]);
}

/** Whether there is something that a PIN opens. */
export const hasLock = async () => Boolean(await (await store()).get("vault", "lock"));

/** Opens what was in use less than five minutes ago. */
export async function reopen() {
  const db = await store();
  const open = await db.get("vault", "open");
  const idle = open ? Date.now() - open.at : Infinity;
  // A clock that was set back does not make it younger.
  if (!open || idle > idleFor || idle < -5000) {
    await db.delete("vault", "open");
    return false;
  }
  key = open.key;
  return true;
}

/** Tries a PIN. It says how many tries are left; 0 where the key is gone. @param {string} pin */
export async function unlock(pin) {
  const db = await store();
  const tx = db.transaction("vault", "readwrite");
  const lock = await tx.store.get("lock");
  if (!lock) return { ok: false, left: 0 };
  lock.tries += 1; // before it is tried, so that no try is free
  await tx.store.put(lock, "lock");
  await tx.done;
  try {
    const inside = await subtle().decrypt({ name: "AES-GCM", iv: lock.outer }, lock.binder, lock.wrapped);
    key = await subtle().unwrapKey(
      "raw",
      inside,
      await fromPin(pin, lock.salt),
      { name: "AES-GCM", iv: lock.iv },
      "AES-GCM",
      false,
      ["encrypt", "decrypt"],
    );
  } catch {
    if (lock.tries >= mostTries) {
      await forget();
      return { ok: false, left: 0 };
    }
    return { ok: false, left: mostTries - lock.tries };
  }
  await db.put("vault", { ...lock, tries: 0 }, "lock");
  await db.put("vault", { key, at: Date.now() }, "open");
  touched = performance.now();
  touchedAt = Date.now();
  return { ok: true, left: mostTries };
}

/** Locks it. */
export async function lock() {
  key = null;
  await (await store()).delete("vault", "open");
}

/** Somebody uses the pad. One that was idle for too long is not woken by a touch: it is locked by then. */
let noted = 0;
export function touch() {
  if (isIdle()) return;
  touched = performance.now();
  touchedAt = Date.now();
  if (!key || touched - noted < 5000) return;
  noted = touched;
  void store().then((db) => key && db.put("vault", { key, at: Date.now() }, "open"));
}

/** Both clocks are asked: the page's own stands still while a device sleeps. */
export const isIdle = () => performance.now() - touched > idleFor || Date.now() - touchedAt > idleFor;

/** Puts something behind the lock. @param {string} name @param {any} what */
export async function putIn(name, what) {
  if (!key) throw new Error("the pad is locked");
  const iv = crypto.getRandomValues(new Uint8Array(12));
  const box = await subtle().encrypt(
    { name: "AES-GCM", iv, additionalData: enc.encode(name) },
    key,
    enc.encode(JSON.stringify(what)),
  );
  await (await store()).put("rooms", { iv, box }, name);
}

/** Reads what is behind the lock; undefined where there is nothing. @param {string} name */
export async function readFrom(name) {
  const room = await (await store()).get("rooms", name);
  if (!room || !key) return undefined;
  const text = await subtle().decrypt(
    { name: "AES-GCM", iv: room.iv, additionalData: enc.encode(name) },
    key,
    room.box,
  );
  return JSON.parse(dec.decode(text));
}

/** The names behind the lock. @returns {Promise<string[]>} */
export const names = async () => /** @type {string[]} */ (await (await store()).getAllKeys("rooms"));
/** @param {string} name */
export const drop = async (name) => (await store()).delete("rooms", name);
