// The marking pad: one for every "Mark", with a network and without. The day, the attempts and the judge are on the
// device, behind a lock; what is marked is sealed for the server at every mark, and sent when it can be.
import { openCalls } from "../fly/calls.js";
import * as keep from "../frame/keep.js";
import { lengthOf } from "../frame/units.js";
import * as clock from "./clock.js";
import { holds } from "./hold.js";
import { actions, keysOf, learn, listenToHeadset, openKeys, unlearn } from "./keys.js";
import * as line from "./line.js";
import { current, does, isMarking, leaveMarks, openMarks } from "./marks.js";
import { isOff, kinds, stayAwake, turn } from "./say.js";
import { hearSpotter, openSpot } from "./spot.js";
import * as vault from "./vault.js";
import { openVoice } from "./voice.js";

/**
 * @typedef {{id: string, name: string, craft: string, next: any, title: string, standing: string,
 *   marked: number}} Row
 */

const el = (/** @type {string} */ id) => /** @type {HTMLElement} */ (document.getElementById(id));
const needs = 4 << 20; // bytes that must be free before an attempt is begun

/** @type {any} */
let day = null;
/** The device has its own judge. */
let own = false;
let wasmThere = false;
/** @type {Worker | null} */
let worker = null;
let asked = 0;
/** The judge is on the device. One that has to come over the network would hold up what is seen first, and comes after. */
const has = Boolean(navigator.serviceWorker?.controller);
/** @type {Promise<void> | null} */
let comes = null;
let closeCalls = () => {};

/** Asks the judge: the compiled one, or the server's while that is still on its way.
 * @param {string} what @param {...any} args */
async function judge(what, ...args) {
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

/** Shows what the judge said last of the same, at once, and then what it says now, where that is something else.
 * @template T @param {string} name @param {() => Promise<T>} ask @param {(said: T) => void | Promise<void>} shows */
async function remembered(name, ask, shows) {
  const kept = keep.canKeep && vault.isOpen();
  const old = kept && !own ? await vault.readFrom(`said:${name}`) : undefined;
  if (old) {
    await shows(old);
    await new Promise((seen) => requestAnimationFrame(() => setTimeout(seen)));
  }
  const fresh = await ask();
  const same = JSON.stringify(fresh) === JSON.stringify(old);
  if (!same && !(old && isMarking())) await shows(fresh);
  if (!same && kept) await vault.putIn(`said:${name}`, fresh);
}

/** Asks the compiled judge. @param {string} what @param {any[]} args @returns {Promise<string>} */
function askOwn(what, args) {
  worker ??= new Worker(el("pad-away").dataset.judge ?? "", { type: "module" });
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
function bringJudge() {
  const { wasm, exec } = el("pad-away").dataset;
  comes ??= askOwn("begin", [{ wasm, exec }]).then(async (said) => {
    if (JSON.parse(said).error) throw new Error(JSON.parse(said).error);
    wasmThere = true;
    await openDay();
    document.documentElement.dataset.judge = "own";
  });
  return comes;
}

/** Hands the day, and what was marked here, to the compiled judge. */
async function openDay() {
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

/** What was refused is shown until somebody has read it. @param {keep.Sealed[]} all */
function showRefused(all) {
  el("away-refused").replaceChildren(
    ...all
      .filter((s) => s.refused)
      .map((s) => {
        const li = document.createElement("li");
        const k = line.attempts.find((x) => x.id === s.id);
        const name = day?.students.find((/** @type {any} */ x) => x.id === k?.student)?.name ?? "Something";
        li.className = "wrong";
        li.textContent = `${name}: ${s.refused?.error} ${s.refused?.do} `;
        const b = Object.assign(document.createElement("button"), { type: "button", textContent: "I have read it" });
        b.addEventListener("click", () => void keep.forgetSealed(s.id).then(recount));
        li.append(b);
        return li;
      }),
  );
}

function sayUnsent() {
  el("away-unsent").textContent = line.words();
  el("unsent").textContent = line.words();
  el("away-wrong").hidden = line.trouble === "";
  el("away-wrong").textContent = line.trouble;
  if (line.waiting > 0) {
    el("away-held").hidden = false;
    el("away-held").innerHTML = "<b></b> <a href='/held'>Decide on it</a>";
    /** @type {HTMLElement} */ (el("away-held").firstChild).textContent =
      `${line.waiting} made under another sign-in ${line.waiting === 1 ? "waits" : "wait"} for a person's decision.`;
  }
}

async function recount() {
  showRefused(await line.tally());
  sayUnsent();
}

let leaving = false;
/** Leaves nothing here that can be read, and says why. @param {string} why */
async function leave(why) {
  if (leaving) return;
  if (keep.canKeep) {
    leaving = true;
    await keep.forget();
    sessionStorage.setItem("pad-why", why);
    location.replace("/pad");
    return;
  }
  line.say(why);
  sayUnsent();
}

/** Takes the day anew, where the school can be reached. */
async function refresh() {
  /** @type {keep.Who | null} */
  let now;
  try {
    now = await keep.whoIs();
  } catch {
    el("away-state").textContent = "No network: the day is the one on this device.";
    return;
  }
  if (!now && !line.who) {
    el("away-state").textContent = "Not signed in.";
    el("away-signin").hidden = false;
    return;
  }
  if (!now) return leave("Nobody is signed in here any more. What was marked is sealed, and is sent once you sign in.");
  if (line.who && now.sign_in !== line.who.sign_in) return leave("Somebody else signed in on this device.");
  if (!["chief", "instructor", "spotter"].includes(now.role)) {
    await keep.forget();
    day = null;
    el("away-state").textContent = `A ${now.role} does not mark. The pad is for instructors and spotters.`;
    return;
  }
  await line.take(now);
  el("device-name").textContent = line.deviceName();
  const r = await fetch("/pad/day", { headers: { Accept: "application/json" } });
  if (!r.ok) {
    const body = await r.json().catch(() => ({}));
    if (body.cut) return leave(body.error);
    el("away-state").textContent = body.error ?? `The school answers ${r.status}.`;
    return;
  }
  day = await r.json();
  if (keep.canKeep) await vault.putIn("day", day);
  if (!own && day.role !== "spotter") await judge("open").catch(() => {});
  await openDay();
  el("away-state").textContent = "";
}

const over = () => day && clock.serverNow() > Date.parse(day.until);

/** Shows one of the pad's faces. @param {"pad-away" | "pad-mark" | "pad-calls" | "pad-spot"} which */
function face(which) {
  closeCalls();
  closeCalls = () => {};
  if (which !== "pad-mark") leaveMarks();
  for (const id of ["pad-away", "pad-mark", "pad-calls", "pad-spot"]) el(id).hidden = id !== which;
}

/** Where the craft is carried next, as the compiled judge says. @param {string} of */
async function askOwnNext(of) {
  await bringJudge();
  return askOwn("nextCall", [of]);
}

/** Notes calls of a student's. @param {string} student @param {string} light */
async function showCalls(student, light) {
  const c = await judge("calls", student, light);
  face("pad-calls");
  document.title = `How far ${c.name} tells the nose · Maestrale`;
  el("c-name").textContent = c.name;
  el("c-craft").textContent = `How far the nose of the ${c.title} is told`;
  /** @type {HTMLSelectElement} */ (el("c-light")).value = c.light;
  const shelf = `calls:${student}`;
  closeCalls = openCalls(
    c,
    line.who,
    line.device,
    (asked) => askOwnNext(asked),
    keep.canKeep
      ? { read: async () => (await vault.readFrom(shelf)) ?? [], write: (list) => vault.putIn(shelf, list) }
      : undefined,
  );
}

async function list() {
  face("pad-away");
  document.title = "Marking pad · Maestrale";
  el("away-day").textContent = day ? `${day.school}, ${day.by}` : "No day is on this device";
  if (!day || over()) return rowsAre([]);
  if (day.role === "spotter")
    return rowsAre(
      day.students.map((/** @type {any} */ s) => ({
        ...s,
        title: "in, out, call, traffic, stop",
        standing: "",
        marked: 0,
      })),
    );
  await remembered("rows", () => judge("rows", clock.serverNow()), rowsAre);
}

/** @param {Row[]} rows */
async function rowsAre(rows) {
  if (location.hash.length > 1) return; // somebody has gone on meanwhile
  el("away-list").replaceChildren(
    ...rows.map((r) => {
      const li = document.createElement("li"),
        b = document.createElement("button");
      b.type = "button";
      b.className = "away-student";
      b.dataset.student = r.id;
      b.append(
        Object.assign(document.createElement("b"), { textContent: r.name }),
        Object.assign(document.createElement("span"), {
          textContent: `${r.title}${r.standing ? ` · ${r.standing}` : ""}${r.marked ? ` · ${r.marked} marked here` : ""}`,
        }),
      );
      b.addEventListener("click", () => {
        location.hash = `#student=${r.id}`;
      });
      li.append(b);
      return li;
    }),
  );
  await recount();
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

/** @param {string} id @param {{words: string, set: [string, string]}[]} list */
function buttons(id, list) {
  el(id).replaceChildren(
    ...list.map(({ words, set }) => {
      const b = Object.assign(document.createElement("button"), { type: "button", textContent: words });
      b.dataset[set[0]] = set[1];
      return b;
    }),
  );
}

/** Opens the pad on what the address says. */
async function show() {
  const want = Object.fromEntries(new URLSearchParams(location.hash.slice(1)));
  try {
    if (want.calls && day && !over()) return await showCalls(want.calls, want.light ?? "day");
    if (!want.student || !day || over()) return await list();
    if (day.role === "spotter") return showSpot(want.student);
    await showMarks(want);
  } catch (x) {
    line.say(String(x instanceof Error ? x.message : x));
    await list().catch(sayUnsent);
  }
}

/** The spotter's view of a student. @param {string} id */
function showSpot(id) {
  const of = day.students.find((/** @type {any} */ s) => s.id === id);
  if (!of) return list();
  face("pad-spot");
  document.title = `Spot for ${of.name} · Maestrale`;
  openSpot(el("pad-spot"), of);
  return undefined;
}

/** @param {Record<string, string>} want */
async function showMarks(want) {
  const at = location.hash;
  await remembered(
    `page:${at}`,
    () => judge("page", JSON.stringify({ ...want, level: Number(want.level ?? 1) }), clock.serverNow()),
    (p) => (location.hash === at ? pageIs(p) : undefined),
  );
}

/** @param {any} p */
async function pageIs(p) {
  face("pad-mark");
  document.title = `${p.title}, ${p.name} · Maestrale`;
  el("m-name").textContent = p.name;
  el("m-title").textContent = p.title;
  el("asked").textContent = p.asked;
  el("before").textContent = p.before;
  el("step-name").textContent = "ready";
  el("m-caution").textContent = p.caution;
  el("m-wind").hidden = !p.wind;
  el("m-wind").textContent = p.wind ? `Practice only in this wind: ${p.wind}.` : "";
  el("ground").textContent = p.on;
  el("m-far").hidden = !p.too_far;
  el("m-far-says").textContent = p.too_far;
  /** @type {HTMLAnchorElement} */ (el("m-calls")).href = `#calls=${p.student}`;
  const item = `drill=${p.drill}&side=${p.side}&aids=${p.aids}&level=${p.level}`;
  /** @type {HTMLAnchorElement} */ (el("m-follow")).href = `/students/${p.student}/follow?${item}`;
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
  buttons(
    "m-faults",
    p.faults.map((/** @type {any} */ f) => ({ words: f.words, set: ["fault", f.code] })),
  );
  buttons(
    "m-voids",
    p.voids.map((/** @type {any} */ v) => ({ words: v.words, set: ["void", v.key] })),
  );
  el("m-offset").textContent = lengthOf(p.offset, 1);
  await room();
  const going = line.attempts.find(
    (k) => !k.ended && k.student === p.student && clock.serverNow() - k.run.began < 3600_000,
  );
  openMarks(p, lineOf(p), going ? going.run : null);
}

/** Says before an attempt, and not after it, that the device is full. */
async function room() {
  const e = await navigator.storage?.estimate?.().catch(() => null);
  const full = Boolean(keep.canKeep && e?.quota && e.quota - (e.usage ?? 0) < needs);
  el("m-full").hidden = !full;
  return !full;
}

/** What stands behind the marking screen. @param {any} p @returns {import("./marks.js").Line} */
function lineOf(p) {
  const { student, drill, side, level, aids } = p;
  return {
    async begin() {
      if (!(await room())) throw new Error("This device is full: nothing was begun.");
      if (over()) throw new Error("The sign-in has ended: sign in again.");
      listenToHeadset();
      return line.begin(student, p);
    },
    keep: (run) => line.keepAttempt(line.keptOf(run)),
    async judge(run, nowS) {
      const k = line.keptOf(run);
      const said = await judge(
        "judge",
        JSON.stringify({ opening: { ...run.opening, student }, marks: run.marks, now_s: nowS }),
        clock.serverNow(),
      );
      k.ended = said.state.ended;
      k.evidence = said.evidence;
      return said.state;
    },
    quick: () => own,
    now: clock.serverNow,
    holdBack: (run) => line.holdBack(run.opening.id),
    letGo: line.letGo,
    again(next) {
      const at = `#student=${student}&drill=${drill}&side=${next || side}&aids=${aids}&level=${level}`;
      if (location.hash === at) void show();
      else location.hash = at;
    },
    choose() {
      const v = (/** @type {string} */ id) => /** @type {HTMLSelectElement} */ (el(id)).value;
      const wanted = ["drill", "side", "aids", "level"].map((k) => `${k}=${v(k)}`);
      location.hash = `#student=${student}&${wanted.join("&")}`;
    },
    waiting: line.words,
  };
}

/** Asks for a PIN: to choose one, or the one that opens the pad.
 * @param {boolean} fresh @param {(pin: string) => Promise<string>} then says what is wrong, or nothing */
function askPin(fresh, then) {
  return new Promise((done) => {
    const form = /** @type {HTMLFormElement} */ (el("pin-form")),
      input = /** @type {HTMLInputElement} */ (el("pin"));
    form.hidden = false;
    input.value = "";
    el("away-state").textContent = "";
    el("pin-says").textContent = fresh ? "Choose a PIN for this pad, 4 to 8 digits" : "Your PIN";
    el("pin-why").textContent = fresh
      ? "The pad asks for it after five minutes without a touch, and when it is opened without a network."
      : "The pad was locked. Ten wrong tries throw its key away; what was marked stays sealed for the school.";
    el("pin-forget").hidden = fresh;
    input.focus();
    form.onsubmit = async (e) => {
      e.preventDefault();
      el("pin-go").toggleAttribute("disabled", true);
      const wrong = await then(input.value);
      el("pin-go").toggleAttribute("disabled", false);
      el("pin-wrong").hidden = !wrong;
      el("pin-wrong").textContent = wrong;
      if (wrong) return input.select();
      form.hidden = true;
      done(undefined);
    };
  });
}

/** Opens the lock, or makes one for a new sign-in. */
async function openVault() {
  if (await vault.reopen()) return;
  if (await vault.hasLock()) {
    await askPin(false, async (pin) => {
      const { ok, left } = await vault.unlock(pin);
      if (ok) return "";
      if (left > 0) return `That is not the PIN. ${left} ${left === 1 ? "try is" : "tries are"} left.`;
      await leave("Ten wrong PINs: the pad's key is gone. Sign in to open it again; what was marked is sealed.");
      return "";
    });
    return;
  }
  /** @type {keep.Who | null} */
  let now;
  try {
    now = await keep.whoIs();
  } catch {
    el("away-state").textContent =
      "No network, and no day is on this device. Open the pad once where the school is reached.";
    throw new Stop();
  }
  if (!now) {
    el("away-state").textContent = "Not signed in.";
    el("away-signin").hidden = false;
    throw new Stop();
  }
  if (!["chief", "instructor", "spotter"].includes(now.role)) {
    el("away-state").textContent = `A ${now.role} does not mark. The pad is for instructors and spotters.`;
    throw new Stop();
  }
  const fresh = now;
  await askPin(true, async (pin) => {
    await vault.make(fresh.sign_in, pin);
    return "";
  });
}

/** The pad goes no further, and has said why. */
class Stop extends Error {}

/** Of two tabs one is the pad: two would mark over each other. */
function onlyHere() {
  if (!navigator.locks) return Promise.resolve();
  let tries = 0;
  return new Promise((go) => {
    const take = (/** @type {LockOptions} */ how) =>
      navigator.locks
        .request("maestrale-pad", how, (lock) => {
          if (!lock && how.ifAvailable && tries++ < 20) {
            setTimeout(() => void take(how), 50); // the page before this one may be closing
            return undefined;
          }
          if (!lock) {
            el("away-state").textContent = "";
            el("pad-elsewhere").hidden = false;
            el("use-here").onclick = () => void take({ steal: true });
            return undefined;
          }
          el("pad-elsewhere").hidden = true;
          go(undefined);
          return new Promise(() => {}); // until the page is closed
        })
        .catch(() => location.reload()); // another tab took it
    void take({ ifAvailable: true });
  });
}

function settings() {
  el("say-kinds").replaceChildren(
    ...Object.entries(kinds).map(([kind, words]) => {
      const label = document.createElement("label"),
        box = Object.assign(document.createElement("input"), { type: "checkbox", checked: !isOff(kind) });
      box.addEventListener("change", () => turn(kind, box.checked));
      label.append(box, ` ${words}`);
      return label;
    }),
  );
  el("key-kinds").replaceChildren(
    ...Object.entries(actions).map(([action, words]) => {
      const row = document.createElement("p"),
        choose = Object.assign(document.createElement("button"), { type: "button", textContent: words }),
        none = Object.assign(document.createElement("button"), { type: "button", textContent: "take the key away" });
      const has = Object.assign(document.createElement("span"), {
        className: "data",
        textContent: keysOf(action).join(", ") || "no key",
      });
      choose.addEventListener("click", () => {
        learn(action);
        choose.blur();
        listenToHeadset();
        el("key-says").textContent = `Press the key for “${words}”.`;
      });
      none.className = choose.className = "plain";
      none.hidden = keysOf(action).length === 0;
      none.addEventListener("click", () => {
        unlearn(action);
        settings();
      });
      row.append(choose, has, none);
      return row;
    }),
  );
}

function keepOnDevice() {
  if (!("serviceWorker" in navigator)) {
    el("away-kept").textContent = "This browser does not keep the pad on the device.";
    return;
  }
  void navigator.serviceWorker
    .register("/sw.js", { scope: "/" })
    .then(async (r) => {
      await navigator.serviceWorker.ready;
      el("away-kept").textContent = "This pad is on the device and opens without a network.";
      // A newer pad waits until the day is over, so that nothing changes in mid-lesson.
      if (r.waiting && (!day || over())) r.waiting.postMessage("take over");
    })
    .catch(() => {});
  if (navigator.storage?.persist) void navigator.storage.persist();
}

async function begin() {
  await clock.openClock();
  if (keep.canKeep) {
    await onlyHere();
    const why = sessionStorage.getItem("pad-why");
    sessionStorage.removeItem("pad-why");
    if (why) line.say(why);
    sayUnsent();
    await openVault();
    await line.readRooms();
    el("device-name").textContent = line.deviceName();
    day = (await vault.readFrom("day")) ?? null;
    await recount();
  } else el("away-online").hidden = false;
  line.listen({ told: () => void recount(), left: leave });
  void clock.meet().then(() => void line.sync());
  if (day) await openDay();
  if (!day) await refresh();
  await show();
  document.documentElement.dataset.ready = "pad";
  keepOnDevice();
  settings();
  el("away-lock").hidden = !keep.canKeep;
  void stayAwake(el("wake-says"));
  await bringJudge().catch(() => {});
  if (!own) await openDay();
  await refresh();
  if (!el("pad-away").hidden) await list();
}

for (const t of ["pointerdown", "keydown"]) document.addEventListener(t, () => vault.touch(), { capture: true });
setInterval(() => {
  if (!keep.canKeep || !vault.isOpen()) return;
  if (over() && !isMarking())
    void leave("The sign-in has ended. Sign in to open the pad again; what was marked is sealed.");
  else if (vault.isIdle() && !isMarking()) void vault.lock().then(() => location.reload());
}, 2000);

addEventListener("hashchange", () => void show());
addEventListener("online", () => {
  void refresh();
  void line.sync();
});
const home = (/** @type {Event} */ e) => {
  e.preventDefault();
  location.hash = "";
};
el("calls-back").addEventListener("click", home);
el("spot-back").addEventListener("click", home);
openVoice(el("b-voice"), el("voice-says"));
setInterval(() => {
  const at = current();
  if (at && navigator.onLine) void hearSpotter(at.student, el("spotter-says"));
}, 1500);
el("away-back").addEventListener("click", home);
el("away-lock").addEventListener("click", () => void vault.lock().then(() => location.reload()));
// Whoever goes on to a page of the school finds there what was marked: it is sent before.
document.addEventListener("click", (e) => {
  const a = e.target instanceof Element ? e.target.closest("a") : null;
  if (!a || a.origin !== location.origin || a.pathname === location.pathname || line.unsent.sealed === 0) return;
  e.preventDefault();
  leaveMarks();
  const soon = new Promise((r) => setTimeout(r, 3000));
  void Promise.race([soon, line.sync()]).finally(() => {
    location.href = a.href;
  });
});
el("pin-forget").addEventListener("click", () => {
  void leave("Sign in to open the pad again; what was marked is sealed on this device.").then(() => {
    location.href = "/sign-in";
  });
});
el("c-light").addEventListener("change", () => {
  const want = new URLSearchParams(location.hash.slice(1));
  want.set("light", /** @type {HTMLSelectElement} */ (el("c-light")).value);
  location.hash = `#${want}`;
});
el("away-again").addEventListener("click", () => {
  void refresh().then(list);
  void line.sync();
});
// Rain taps too: a locked screen takes nothing but a press of a second on the lock.
holds(el("b-rain"), () => {
  const on = document.body.classList.toggle("rain");
  el("b-rain").setAttribute("aria-pressed", String(on));
  el("b-rain").textContent = on ? "hold to unlock" : "lock the screen";
});
for (const t of ["pointerdown", "pointerup", "click"])
  document.addEventListener(
    t,
    (e) => {
      if (!document.body.classList.contains("rain") || el("b-rain").contains(/** @type {Node} */ (e.target))) return;
      e.preventDefault();
      e.stopPropagation();
    },
    { capture: true },
  );
openKeys(does, () => {
  el("key-says").textContent = "The key is learnt.";
  settings();
});
begin().catch((x) => {
  if (x instanceof Stop) return;
  el("away-wrong").hidden = false;
  el("away-wrong").textContent =
    `The pad could not be opened: ${x instanceof Error ? x.message : x}. What was marked stays on this device.`;
});
