// What stands between the marking screen and the school: the attempts of this device, sealed at every mark, and sent
// when
// they can be. It shows nothing and judges nothing; the pad does that.
import { newId } from "../frame/ids.js";
import * as keep from "../frame/keep.js";
import * as clock from "./clock.js";
import * as vault from "./vault.js";

/** @typedef {import("./marks.js").Run} Run */
/** An attempt on the device.
 * @typedef {{id: string, student: string, run: Run, ended: boolean, evidence: any, version: number}} Kept
 */

/** Who is signed in, as the device knows it. @type {keep.Who | null} */
export let who = null;
/** The device's id at the school of whoever is signed in. */
export let device = "";
/** What was marked here under this sign-in. @type {Kept[]} */
export const attempts = [];
/** What is not sent yet, as last counted. */
export const unsent = { marks: 0, attempts: 0, sealed: 0 };
/** What went wrong, in a sentence; empty for nothing. */
export let trouble = "";
/** How many deliveries wait for a person's decision. */
export let waiting = 0;

/** Attempts whose ending can still be taken back: they are sent later. @type {Set<string>} */
const held = new Set();
/** Without HTTPS: the versions that the server has. @type {Map<string, number>} */
const sent = new Map();
/** @type {{told: () => void, left: (why: string) => Promise<void>}} */
let pad = { told: () => {}, left: async () => {} };
let again = false;
/** @type {Promise<void> | null} */
let running = null;

/** @param {string} words */
export const say = (words) => {
  trouble = words;
};
/** Whoever shows the pad is told of changes, and of a sign-in that has ended.
 * @param {{told: () => void, left: (why: string) => Promise<void>}} to */
export const listen = (to) => {
  pad = to;
};

export const deviceName = () =>
  `${/Android|iPhone|iPad/.test(navigator.userAgent) ? "a phone or tablet" : "a computer"}, ${device.slice(-4)}`;

/** Takes note of who is signed in. @param {keep.Who} now */
export async function take(now) {
  who = now;
  device = keep.canKeep ? await keep.deviceAt(now.school) : device || newId();
  if (keep.canKeep) await vault.putIn("who", now);
}

/** Reads what is behind the lock; the day is for the pad. */
export async function readRooms() {
  who = (await vault.readFrom("who")) ?? null;
  if (who) device = await keep.deviceAt(who.school);
  for (const name of await vault.names()) {
    if (!name.startsWith("attempt:")) continue;
    const k = await vault.readFrom(name);
    // What the server has had for two days is of use to nobody here.
    if (clock.serverNow() - k.run.began > 48 * 3600_000) await vault.drop(name);
    else attempts.push(k);
  }
  await tally();
}

/** Begins an attempt of a student: its place in the device's order and its moment are taken at once, before anything is
 * sent. @param {string} student @param {{drill: string, side: string, level: number, aids: string, craft: string,
 *   course: string}} item @returns {Promise<Run>} */
export async function begin(student, { drill, side, level, aids, craft, course }) {
  const began = clock.serverNow();
  const at = clock.here();
  const run = {
    opening: { id: newId(), drill, side, level, aids, craft, course, device_at: new Date(began).toISOString() },
    seq: keep.canKeep ? await keep.count() : attempts.length + 1,
    ...at,
    began,
    marks: [],
  };
  attempts.push({ id: run.opening.id, student, run, ended: false, evidence: null, version: 0 });
  return run;
}

/** @param {Run} run */
export const keptOf = (run) => /** @type {Kept} */ (attempts.find((k) => k.id === run.opening.id));

/** An attempt as the server takes it. @param {Kept} k */
const deliveryOf = (k) => ({
  path: `/students/${k.student}/marks`,
  type: "application/json",
  body: JSON.stringify({
    opening: k.run.opening,
    marks: k.run.marks,
    now_s: k.run.marks.at(-1)?.t_s ?? 0,
    from: {
      sign_in: keep.canKeep ? undefined : who?.sign_in, // what is sealed carries a proof of it
      device,
      name: deviceName(),
      seq: k.run.seq,
      stretch: k.run.stretch,
      mono_ms: k.run.mono_ms,
      stretches: clock.stretches(),
    },
  }),
});

/** Keeps an attempt: readable behind the lock, and sealed for the server. @param {Kept} k */
export async function keepAttempt(k) {
  k.version += 1;
  if (keep.canKeep) {
    const mine = /** @type {keep.Who} */ (who);
    await keep.put(mine, "attempt", k.id, deliveryOf(k), { seq: k.run.seq, version: k.version });
    await vault.putIn(`attempt:${k.id}`, k);
    await tally();
  }
  void sync();
}

/** Keeps something else that goes to the school: sealed, or sent at once where nothing can be kept.
 * @param {string} kind @param {string} id @param {string} path @param {any} body */
export async function deliver(kind, id, path, body) {
  const d = { path, type: "application/json", body: JSON.stringify(body) };
  if (!keep.canKeep) {
    const r = await fetch(path, { method: "POST", headers: { "Content-Type": d.type }, body: d.body });
    if (!r.ok) throw new Error((await r.json().catch(() => ({}))).error ?? `the school answers ${r.status}`);
    return;
  }
  await keep.put(/** @type {keep.Who} */ (who), kind, id, d, { seq: await keep.count() });
  await tally();
  pad.told();
  void sync();
}

/** The ending of an attempt can be withdrawn for a while: it is not sent yet. @param {string} id */
export const holdBack = (id) => void held.add(id);
/** @param {Run} run */
export function letGo(run) {
  held.delete(run.opening.id);
  if (keep.canKeep) void vault.putIn(`attempt:${run.opening.id}`, keptOf(run)).catch(() => {});
  void sync();
}

/** Counts what is not sent. */
export async function tally() {
  const all = keep.canKeep ? await keep.outbox() : [];
  const mine = attempts.filter((k) =>
    keep.canKeep ? all.some((s) => s.id === k.id) : (sent.get(k.id) ?? 0) < k.version,
  );
  unsent.attempts = mine.length;
  unsent.marks = mine.reduce((n, k) => n + k.run.marks.length, 0);
  unsent.sealed = keep.canKeep ? all.length : mine.length;
  return all;
}

/** What is not sent, in words. */
export function words() {
  const { marks, attempts: n, sealed } = unsent;
  if (sealed === 0) return "all sent";
  if (n === 0) return `${sealed} not sent yet`;
  return `${marks} mark${marks === 1 ? "" : "s"} of ${n} attempt${n === 1 ? "" : "s"} not sent yet`;
}

/** Sends what the server does not have. Whoever asks while it goes on waits for it, and for what came after.
 * @returns {Promise<void>} */
export function sync() {
  again = true;
  running ??= syncOn().finally(() => {
    running = null;
  });
  return running;
}

async function syncOn() {
  let left = false;
  while (again) {
    again = false;
    left = true;
    try {
      if (!(await clock.meet())) throw new TypeError("no network");
      left = keep.canKeep ? await syncSealed() : await syncPlain();
    } catch (x) {
      if (!(x instanceof TypeError)) trouble = x instanceof Error ? x.message : String(x);
    }
    await tally();
    pad.told();
  }
  if (left) setTimeout(() => void sync(), navigator.onLine ? 3000 : 20000);
}

async function syncSealed() {
  // What the clocks have shown since an attempt was sealed tells its moment better.
  if (who && vault.isOpen()) {
    for (const s of await keep.outbox()) {
      const k = attempts.find((x) => x.id === s.id);
      if (k && !s.refused && s.signIn === who.sign_in)
        await keep.put(who, "attempt", k.id, deliveryOf(k), { seq: k.run.seq, version: k.version });
    }
  }
  const { answers, signedOut, cut } = await keep.send(device, deviceName(), held);
  if (signedOut) {
    await pad.left(
      cut || "The sign-in has ended. What was marked is sealed on this device, and is sent once you sign in.",
    );
    return false;
  }
  trouble = "";
  for (const a of answers) heardOf(a);
  waiting += answers.filter((a) => a.held).length;
  // What was made under this very sign-in is held where somebody else signed in on this device meanwhile.
  if (answers.some((a) => a.held && attempts.some((k) => k.id === a.id))) {
    await pad.left("Somebody else signed in on this device. What was marked waits for a person's decision.");
    return false;
  }
  return (await keep.outbox()).some((s) => !s.refused);
}

/** What the school judged otherwise than this device: somebody else has seen what was not seen here.
 * @param {keep.Answer} a */
function heardOf(a) {
  const k = attempts.find((x) => x.id === a.id);
  const said = a.said?.verdict;
  const late = a.said?.late?.length ?? 0;
  if (late > 0)
    trouble = `The school had this attempt as ended: ${late} later mark${late === 1 ? " was" : "s were"} not taken.`;
  if (!k?.evidence || !said || said.verdict === k.evidence.verdict) return;
  k.evidence.verdict = said.verdict;
  trouble = `The school judged an attempt ${said.verdict}: ${said.faults?.[0] ?? said.summary}. Others saw it too.`;
}

/** Without HTTPS nothing is kept: what is in memory is sent as it is. */
async function syncPlain() {
  let left = false;
  for (const k of attempts) {
    if ((sent.get(k.id) ?? 0) >= k.version) continue;
    if (held.has(k.id)) {
      left = true;
      continue;
    }
    const version = k.version;
    const d = deliveryOf(k);
    const r = await fetch(d.path, { method: "POST", headers: { "Content-Type": d.type }, body: d.body });
    if (r.status === 401 || r.redirected)
      throw new Error("The sign-in has ended. Sign in in another tab; keep this one.");
    const body = await r.json().catch(() => ({}));
    if (r.status >= 500) left = true;
    else {
      sent.set(k.id, version);
      trouble = r.ok ? "" : `${body.error ?? ""} ${body.do ?? ""}`;
    }
  }
  return left;
}
