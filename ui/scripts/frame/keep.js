// What this device keeps: nothing that can be read once nobody is signed in. What has not been
// sent is sealed to the server's key, with a proof of the sign-in that made it.
import { openDB } from "idb";
import { newId } from "./ids.js";

/**
 * Who is signed in, and what proves it.
 * @typedef {{sign_in: string, account: string, name: string, role: string, school: string, until: string, key: string,
 *   public: string, secret: string}} Who
 */
/** @typedef {{path: string, type: string, body: string}} Delivery */
/**
 * A sealed delivery, and what became of it: refused is kept until somebody has read it.
 * @typedef {{id: string, kind: string, signIn: string, seq: number, version: number, envelope: any,
 *   refused?: {error: string, do: string}}} Sealed
 */
/** @typedef {{id: string, taken: boolean, held: boolean, final: boolean, status: number, said?: any, error?: string,
 *   do?: string}} Answer */

/** Whether this page can keep anything: browsers seal only where the address has HTTPS, or is this machine. */
export const canKeep = globalThis.isSecureContext && Boolean(globalThis.crypto?.subtle) && "indexedDB" in globalThis;

/** @type {Promise<import("idb").IDBPDatabase> | null} */
let opened = null;
/** The device's own store. */
export const store = () => {
  localStorage.setItem("kept", "yes"); // so that every page looks whose it is
  opened ??= openDB("maestrale", 1, {
    upgrade(d) {
      d.createObjectStore("device"); // ids, the counter and the clocks: nobody's data
      d.createObjectStore("outbox", { keyPath: "id" }); // sealed
      d.createObjectStore("vault"); // the key, locked by the PIN, and open while the pad is in use
      d.createObjectStore("rooms"); // what that key locks
    },
  });
  return opened;
};

const enc = new TextEncoder();
/** @param {ArrayBuffer | Uint8Array} b */
export const base64 = (b) => btoa(Array.from(new Uint8Array(b), (x) => String.fromCharCode(x)).join(""));
/** @param {string} s */
export const bytes = (s) => Uint8Array.from(atob(s), (c) => c.charCodeAt(0));

/** Asks who is signed in. Nobody is null; without a network it throws. @returns {Promise<Who | null>} */
export async function whoIs() {
  const r = await fetch("/pad/key", { headers: { Accept: "application/json" } });
  if (r.redirected || r.status === 401 || r.status === 403) return null;
  if (!r.ok) throw new Error(`the school answers ${r.status}`);
  return r.json();
}

/**
 * Seals a delivery to the server. @param {Who} who @param {string} kind @param {string} id @param {Delivery}
 * delivery
 */
export async function seal(who, kind, id, delivery) {
  const subtle = crypto.subtle;
  const head = ["maestrale sealed/1", kind, id, who.sign_in, who.key].join("\n");
  const body = JSON.stringify(delivery);
  const mac = await subtle.importKey("raw", bytes(who.secret), { name: "HMAC", hash: "SHA-256" }, false, ["sign"]);
  const proof = base64(await subtle.sign("HMAC", mac, enc.encode(`${head}\n${body}`)));
  const curve = { name: "ECDH", namedCurve: "P-256" };
  const server = bytes(who.public);
  const to = await subtle.importKey("raw", server, curve, false, []);
  const fresh = await subtle.generateKey(curve, true, ["deriveBits"]);
  const point = new Uint8Array(await subtle.exportKey("raw", fresh.publicKey));
  const shared = await subtle.deriveBits({ name: "ECDH", public: to }, fresh.privateKey, 256);
  const from = await subtle.importKey("raw", shared, "HKDF", false, ["deriveKey"]);
  const salt = new Uint8Array(point.length + server.length);
  salt.set(point);
  salt.set(server, point.length);
  const box = await subtle.deriveKey(
    { name: "HKDF", hash: "SHA-256", salt, info: enc.encode("maestrale sealed/1") },
    from,
    { name: "AES-GCM", length: 256 },
    false,
    ["encrypt"],
  );
  const iv = crypto.getRandomValues(new Uint8Array(12));
  const text = enc.encode(JSON.stringify({ proof, body }));
  const sealed = await subtle.encrypt({ name: "AES-GCM", iv, additionalData: enc.encode(head) }, box, text);
  return { kind, id, sign_in: who.sign_in, key: who.key, point: base64(point), iv: base64(iv), box: base64(sealed) };
}

/** Keeps a delivery sealed until the server has it. Where it was there, the newer one takes its place.
 * @param {Who} who @param {string} kind @param {string} id @param {Delivery} delivery
 * @param {{seq?: number, version?: number}} [more] */
export async function put(who, kind, id, delivery, { seq = 0, version = 1 } = {}) {
  const envelope = await seal(who, kind, id, delivery);
  await (await store()).put("outbox", { id, kind, signIn: who.sign_in, seq, version, envelope });
}

/** What has not been sent. @returns {Promise<Sealed[]>} */
export const outbox = async () => (canKeep ? (await store()).getAll("outbox") : []);

/** Forgets a delivery: the server has it, or somebody has read why it does not want it. @param {string} id */
export const forgetSealed = async (id) => (await store()).delete("outbox", id);

/** The device's id at a school: a phone that is used at two has two. @param {string} school */
export async function deviceAt(school) {
  const db = await store();
  const id = (await db.get("device", `id:${school}`)) ?? newId();
  await db.put("device", id, `id:${school}`);
  return /** @type {string} */ (id);
}

/** Counts on this device, from 1, whatever its clock says. */
export async function count() {
  const tx = (await store()).transaction("device", "readwrite");
  const n = ((await tx.store.get("counter")) ?? 0) + 1;
  await tx.store.put(n, "counter");
  await tx.done;
  return /** @type {number} */ (n);
}

const most = 20; // in one request

/**
 * Sends what is sealed, oldest first. It says what became of each; what was taken, or waits for a person, is forgotten
 * here, and what was refused is kept with the reason. Nothing is sent while nobody is signed in.
 * @param {string} device @param {string} name @param {Set<string>} [notYet] what is sent later
 * @returns {Promise<{answers: Answer[], signedOut: boolean, cut: string}>}
 */
export async function send(device, name, notYet = new Set()) {
  const db = await store();
  const all = /** @type {Sealed[]} */ (await db.getAll("outbox"))
    .filter((s) => !s.refused && !notYet.has(s.id))
    .sort((a, b) => a.seq - b.seq);
  /** @type {Answer[]} */
  const answers = [];
  for (let i = 0; i < all.length; i += most) {
    const some = all.slice(i, i + most);
    const r = await fetch("/pad/sealed", {
      method: "POST",
      headers: { "Content-Type": "application/json", Accept: "application/json" },
      body: JSON.stringify({ device: device || undefined, name, items: some.map((s) => s.envelope) }),
    });
    const body = await r.json().catch(() => ({}));
    if (body.cut) return { answers, signedOut: true, cut: body.error };
    if (r.status === 401 || r.redirected) return { answers, signedOut: true, cut: "" };
    if (!r.ok) throw new Error(body.error ?? `the school answers ${r.status}`);
    for (const a of /** @type {Answer[]} */ (body.items)) {
      answers.push(a);
      const sent = some.find((s) => s.id === a.id);
      if (!sent || !a.final) continue;
      const tx = db.transaction("outbox", "readwrite");
      const now = /** @type {Sealed | undefined} */ (await tx.store.get(a.id));
      // What was changed meanwhile is sent anew.
      if (now && now.version === sent.version) {
        if (a.taken || a.held) await tx.store.delete(a.id);
        else await tx.store.put({ ...now, refused: { error: a.error ?? "", do: a.do ?? "" } });
      }
      await tx.done;
    }
  }
  return { answers, signedOut: false, cut: "" };
}

// Choices that say nothing of anybody, and stay.
const choices = ["theme", "kept", "pad-said", "pad-keys"];

/** Leaves nothing on this device that can be read. What is sealed stays, for the server alone. */
export async function forget() {
  // What an earlier version left in the clear is sealed before it is forgotten here (adopt.js).
  for (const key of Object.keys(localStorage))
    if (!choices.includes(key) && !/^(pad|run|calls):/.test(key)) localStorage.removeItem(key);
  sessionStorage.clear();
  if (!("indexedDB" in globalThis)) return;
  const db = await store();
  const tx = db.transaction(["vault", "rooms"], "readwrite");
  await Promise.all([tx.objectStore("vault").clear(), tx.objectStore("rooms").clear(), tx.done]);
}

/** Tells the school of a sign-out that it has not heard of. True where it still has not. */
export async function signingOut() {
  const db = await store();
  if (!(await db.get("device", "signing-out"))) return false;
  try {
    const r = await fetch("/sign-out", { method: "POST" });
    if (!r.ok && r.status !== 401) return true;
  } catch {
    return true;
  }
  await db.delete("device", "signing-out");
  return false;
}

/** Whose the readable part is; empty for nobody's. @returns {Promise<string>} */
export async function ownerHere() {
  if (!("indexedDB" in globalThis)) return "";
  const db = await store();
  return (await db.get("vault", "owner")) ?? "";
}

/** What waits for a person, in a sentence. @param {number} n */
export const itemsWait = (n) =>
  n === 1
    ? "1 item from another sign-in waits for a decision."
    : `${n} items from another sign-in wait for a decision.`;
