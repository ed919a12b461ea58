// The marking pad without a network: the day, the attempts and the judge are on the device.
// Every mark is kept before it is judged; what has been marked goes to the server when it
// can be reached, and stays here until the server has said that it has it.
import { openDB } from "idb";
import { openCalls, sendAllCalls } from "../fly/calls.js";
import { newId } from "../frame/ids.js";
import { openPad } from "./marks.js";
import { lengthOf } from "../frame/units.js";

/** @typedef {import("./marks.js").Run} Run */
/** An attempt on the device: its place in the device's own order, and what is known of it.
 * @typedef {{id: string, seq: number, student: string, run: Run, nowS: number, ended: boolean, evidence: any,
 *   sent: string[], error: string}} Kept
 */
/**
 * @typedef {{id: string, name: string, craft: string, next: any, title: string, standing: string,
 *   marked: number}} Row
 */

const el = (/** @type {string} */ id) => /** @type {HTMLElement} */ (document.getElementById(id));
const page = /** @type {Window & {maestralePad: Record<string, (...args: any[]) => string>, Go: any}} */ (
  /** @type {any} */ (window)
);

const db = await openDB("maestrale-pad", 1, {
  upgrade(d) {
    d.createObjectStore("day"); // the bundle
    d.createObjectStore("attempts", { keyPath: "id" });
    d.createObjectStore("device"); // its id, and the counter
  },
});

/** Asks the judge. @param {string} what @param {...any} args */
function judge(what, ...args) {
  const out = JSON.parse(page.maestralePad[what](...args));
  if (out.error !== undefined) throw new Error(out.error);
  return out.ok;
}

/** @type {Kept[]} */
let attempts = [];
/** @type {any} */
let day = null;
let device = "";
let syncing = false;
let trouble = "";
/** Closes the calls that are noted. */
let closeCalls = () => {};

const pending = (/** @type {Kept} */ k) => k.run.marks.filter((m) => !k.sent.includes(m.id)).length;
const waiting = () => {
  const n = attempts.reduce((sum, k) => sum + pending(k), 0),
    of = attempts.filter((k) => pending(k) > 0).length;
  return n === 0 ? "all sent" : `${n} mark${n === 1 ? "" : "s"} of ${of} attempt${of === 1 ? "" : "s"} not sent yet`;
};

/** Counts on the device, whatever its clock says. */
async function count() {
  const tx = db.transaction("device", "readwrite");
  const n = ((await tx.store.get("counter")) ?? 0) + 1;
  await tx.store.put(n, "counter");
  await tx.done;
  return /** @type {number} */ (n);
}

/** Sends what the server does not have, in the device's order. */
async function sync() {
  if (syncing) return;
  const items = attempts.filter((k) => pending(k) > 0).sort((a, b) => a.seq - b.seq);
  if (items.length === 0) return say();
  syncing = true;
  try {
    const answer = await fetch("/pad/sync", {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({
        device,
        name: el("device-name").textContent,
        device_now: new Date().toISOString(),
        items: items.map((k) => ({
          seq: k.seq,
          opening: { ...k.run.opening, student: k.student },
          marks: k.run.marks,
          now_s: k.nowS,
        })),
      }),
    });
    const body = await answer.json().catch(() => ({}));
    if (body.cut) await forget(body.error);
    else if (answer.status === 401) trouble = "The sign-in has ended: sign in again, and what is here is sent.";
    else if (!answer.ok) trouble = body.error ?? "The school could not take it just now.";
    else {
      trouble = "";
      for (const said of body.items) {
        const k = attempts.find((x) => x.id === said.id);
        if (!k) continue;
        k.error = said.error ? `${said.error} ${said.do ?? ""}` : "";
        k.sent = [...new Set([...k.sent, ...said.kept])];
        await db.put("attempts", k);
      }
    }
  } catch {
    // No network: it stays here.
  }
  syncing = false;
  say();
  if (attempts.some((k) => pending(k) > 0)) setTimeout(sync, navigator.onLine ? 3000 : 20000);
}

function say() {
  el("unsent").textContent = waiting();
  el("away-unsent").textContent = waiting();
  const wrong = [trouble, ...attempts.filter((k) => k.error).map((k) => `${k.run.opening.drill}: ${k.error}`)].filter(
    Boolean,
  );
  el("away-wrong").hidden = wrong.length === 0;
  el("away-wrong").textContent = wrong.join(" ");
}

/** A device that was cut off forgets the school; what was not sent stays, to be shown.
 * @param {string} why */
async function forget(why) {
  await db.clear("day");
  day = null;
  trouble = why;
  list();
}

/** Takes the day anew, where the school can be reached. */
async function refresh() {
  try {
    const answer = await fetch("/pad/day", { headers: { Accept: "application/json" } });
    if (answer.ok && answer.headers.get("Content-Type")?.includes("json")) {
      const fresh = await answer.json();
      await db.put("day", fresh, "day");
      open(fresh);
      el("away-state").textContent = "";
      return;
    }
    const body = await answer.json().catch(() => ({}));
    if (body.cut) await forget(body.error);
    el("away-state").textContent = answer.status === 401 || answer.redirected ? "Not signed in." : "";
    el("away-signin").hidden = !(answer.status === 401 || answer.redirected);
  } catch {
    el("away-state").textContent = "No network: the day is the one on this device.";
  }
}

/** @param {any} fresh */
function open(fresh) {
  judge("open", JSON.stringify(fresh));
  day = fresh;
  for (const k of attempts) if (k.ended && k.evidence) judge("add", k.student, JSON.stringify(k.evidence));
}

const over = () => day && Date.now() > Date.parse(day.until);

/** Shows one of the pad's three faces. @param {"pad-away" | "pad-mark" | "pad-calls"} which */
function face(which) {
  closeCalls();
  closeCalls = () => {};
  for (const id of ["pad-away", "pad-mark", "pad-calls"]) el(id).hidden = id !== which;
}

/** Notes calls of a student's. @param {string} student @param {string} light */
function showCalls(student, light) {
  let c;
  try {
    c = judge("calls", student, light);
  } catch (x) {
    trouble = String(x instanceof Error ? x.message : x);
    return list();
  }
  face("pad-calls");
  document.title = `How far ${c.name} tells the nose · Maestrale`;
  el("c-name").textContent = c.name;
  el("c-craft").textContent = `How far the nose of the ${c.title} is told`;
  /** @type {HTMLSelectElement} */ (el("c-light")).value = c.light;
  closeCalls = openCalls(c);
}

function list() {
  face("pad-away");
  document.title = "Marking pad · Maestrale";
  el("away-day").textContent = day ? `${day.school}, ${day.by}` : "No day is on this device";
  el("away-over").hidden = !over();
  const rows = day && !over() ? judge("rows", Date.now()) : [];
  el("away-list").replaceChildren(
    .../** @type {Row[]} */ (rows).map((r) => {
      const li = document.createElement("li"),
        b = document.createElement("button");
      b.type = "button";
      b.className = "away-student";
      b.dataset.student = r.id;
      b.append(
        Object.assign(document.createElement("b"), { textContent: r.name }),
        Object.assign(document.createElement("span"), {
          textContent: `${r.title} · ${r.standing}${r.marked ? ` · ${r.marked} marked here` : ""}`,
        }),
      );
      b.addEventListener("click", () => {
        location.hash = `#student=${r.id}`;
      });
      li.append(b);
      return li;
    }),
  );
  say();
}

/** @param {string} id @param {{key?: string, value?: string, words: string, chosen: boolean}[]} options */
function fill(id, options) {
  el(id).replaceChildren(
    ...options.map((o) =>
      Object.assign(document.createElement("option"), {
        value: o.key ?? o.words,
        textContent: o.words,
        selected: o.chosen,
      }),
    ),
  );
}

/** Opens the pad on what the address says. */
function show() {
  const want = Object.fromEntries(new URLSearchParams(location.hash.slice(1)));
  if (want.calls && day && !over()) return showCalls(want.calls, want.light ?? "day");
  if (!want.student || !day || over()) return list();
  let p;
  try {
    p = judge("page", JSON.stringify({ ...want, level: Number(want.level ?? 1) }), Date.now());
  } catch (x) {
    trouble = String(x instanceof Error ? x.message : x);
    return list();
  }
  face("pad-mark");
  document.title = `${p.title}, ${p.name} · Maestrale`;
  el("m-name").textContent = p.name;
  el("m-title").textContent = p.title;
  el("asked").textContent = p.asked;
  el("before").textContent = p.before;
  el("step-name").textContent = "ready";
  el("m-caution").textContent = p.caution;
  el("ground").textContent = p.on;
  el("m-far").hidden = !p.too_far;
  el("m-far-says").textContent = p.too_far;
  /** @type {HTMLAnchorElement} */ (el("m-calls")).href = `#calls=${p.student}`;
  fill(
    "drill",
    p.drills.map((/** @type {any} */ d) => ({ ...d, chosen: d.key === p.drill })),
  );
  fill(
    "side",
    p.sides.map((/** @type {string} */ s) => ({ words: s, chosen: s === p.side })),
  );
  fill(
    "aids",
    p.aids_of.map((/** @type {any} */ a) => ({ ...a, chosen: a.key === p.aids })),
  );
  fill(
    "level",
    Array.from({ length: p.levels }, (_, i) => ({ words: String(i + 1), chosen: i + 1 === p.level })),
  );
  /** @type {HTMLElement} */ (el("side").parentElement).hidden = p.sides.length < 2;
  el("m-steps").replaceChildren(
    ...p.steps.map((/** @type {any} */ s) => Object.assign(document.createElement("li"), { textContent: s.words })),
  );
  el("m-faults").replaceChildren(
    ...p.faults.map((/** @type {any} */ f) =>
      Object.assign(document.createElement("button"), { type: "button", textContent: f.words }),
    ),
  );
  p.faults.forEach((/** @type {any} */ f, /** @type {number} */ i) => {
    /** @type {HTMLElement} */ (el("m-faults").children[i]).dataset.fault = f.code;
  });
  el("m-offset").textContent = lengthOf(p.offset, 1);
  const going = attempts.find((k) => !k.ended && k.student === p.student && Date.now() - k.run.t0 < 3600_000);
  const config = {
    student: p.student,
    drill: p.drill,
    side: p.side,
    level: p.level,
    aids: p.aids,
    craft: p.craft,
    course: p.course,
    offset: p.offset,
    steps: p.steps,
  };
  openPad(
    config,
    {
      async send(run, marks, nowS) {
        const k = attempts.find((x) => x.id === run.opening.id);
        if (!k) throw new Error("the attempt is gone");
        const said = judge(
          "judge",
          JSON.stringify({ opening: { ...run.opening, student: p.student }, marks: run.marks, now_s: nowS }),
          Date.now(),
        );
        Object.assign(k, { run: structuredClone(run), nowS, ended: said.state.ended, evidence: said.evidence });
        await db.put("attempts", k);
        if (said.state.verdict)
          Object.assign(said.state.verdict, { debrief: `/attempts/${k.id}`, again: again(p, said.state.verdict.next) });
        if (marks.length > 0) void sync();
        return { ok: true, body: said.state };
      },
      keep(run) {
        if (!run) return;
        const there = attempts.find((x) => x.id === run.opening.id);
        if (there) {
          there.run = structuredClone(run);
          void db.put("attempts", there);
          return;
        }
        // The place in the order is taken at once; it is written with the first mark.
        const k = {
          id: run.opening.id,
          seq: 0,
          student: p.student,
          run: structuredClone(run),
          nowS: 0,
          ended: false,
          evidence: null,
          sent: [],
          error: "",
        };
        attempts.push(k);
        void count().then((n) => {
          k.seq = n;
          return db.put("attempts", k);
        });
      },
      again: (address) => {
        if (location.hash === address) show();
        else location.hash = address;
      },
      choose() {
        const v = (/** @type {string} */ id) => /** @type {HTMLSelectElement} */ (el(id)).value;
        const wanted = ["drill", "side", "aids", "level"].map((k) => `${k}=${v(k)}`);
        location.hash = `#student=${p.student}&${wanted.join("&")}`;
      },
      waiting,
    },
    going ? structuredClone(going.run) : null,
  );
}

/** @param {any} p @param {string} side */
const again = (p, side) =>
  `#student=${p.student}&drill=${p.drill}&side=${side || p.side}&aids=${p.aids}&level=${p.level}`;

async function begin() {
  if ("serviceWorker" in navigator)
    void navigator.serviceWorker
      .register("/sw.js", { scope: "/" })
      .then(() => navigator.serviceWorker.ready)
      .then(() => {
        el("away-kept").textContent = "This pad is on the device and opens without a network.";
      });
  if (navigator.storage?.persist) void navigator.storage.persist();
  device = (await db.get("device", "id")) ?? newId();
  await db.put("device", device, "id");
  el("device-name").textContent =
    `${/Android|iPhone|iPad/.test(navigator.userAgent) ? "a phone or tablet" : "a computer"}, ${device.slice(-4)}`;
  attempts = await db.getAll("attempts");
  // What the server has had for two days is of use to nobody here.
  for (const k of attempts)
    if (pending(k) === 0 && Date.now() - k.run.t0 > 48 * 3600_000) await db.delete("attempts", k.id);
  attempts = attempts.filter((k) => pending(k) > 0 || Date.now() - k.run.t0 <= 48 * 3600_000);
  const go = new page.Go();
  const code = await WebAssembly.instantiateStreaming(fetch(el("pad-away").dataset.wasm ?? ""), go.importObject);
  void go.run(code.instance);
  const old = await db.get("day", "day");
  if (old && Date.now() <= Date.parse(old.until)) open(old);
  else day = old;
  show();
  document.documentElement.dataset.ready = "pad";
  await refresh();
  if (!el("pad-away").hidden) list();
  void sync();
  void sendAllCalls();
}

addEventListener("hashchange", show);
addEventListener("online", () => {
  void refresh();
  void sync();
  void sendAllCalls();
});
el("calls-back").addEventListener("click", (e) => {
  e.preventDefault();
  location.hash = "";
});
el("c-light").addEventListener("change", () => {
  const want = new URLSearchParams(location.hash.slice(1));
  want.set("light", /** @type {HTMLSelectElement} */ (el("c-light")).value);
  location.hash = `#${want}`;
});
el("away-back").addEventListener("click", (e) => {
  e.preventDefault();
  location.hash = "";
});
el("away-again").addEventListener("click", () => {
  void refresh().then(list);
  void sync();
});
begin().catch((x) => {
  el("away-wrong").hidden = false;
  el("away-wrong").textContent =
    `The pad could not be opened: ${x instanceof Error ? x.message : x}. What was marked stays on this device.`;
});
