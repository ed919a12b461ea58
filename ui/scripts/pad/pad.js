// The marking pad: one for every "Mark", with a network and without. The day, the attempts and the judge are on the
// device, behind a lock; what is marked is sealed for the server at every mark, and sent when it can be.
import { openCalls } from "../fly/calls.js";
import { adopt } from "../frame/adopt.js";
import * as keep from "../frame/keep.js";
import { lengthOf } from "../frame/units.js";
import * as asking from "./asking.js";
import { askOwn, bringJudge, judge, openDay } from "./asking.js";
import * as clock from "./clock.js";
import { holds } from "./hold.js";
import { askPin, onlyHere } from "./gate.js";
import { listenToHeadset, openKeys } from "./keys.js";
import * as line from "./line.js";
import { closeMarks, current, does, isMarking, leaveMarks, openMarks } from "./marks.js";
import { stayAwake } from "./say.js";
import { settings } from "./settings.js";
import { hearSpotter, openSpot } from "./spot.js";
import * as vault from "./vault.js";
import { openVoice } from "./voice.js";

/**
 * @typedef {{id: string, name: string, craft: string, next: any, title: string, standing: string, away: boolean,
 *   marked: number}} Row
 */

const el = (/** @type {string} */ id) => /** @type {HTMLElement} */ (document.getElementById(id));
const needs = 4 << 20; // bytes that must be free before an attempt is begun

/** @type {any} */
let day = null;
let closeCalls = () => {};

/** Shows what the judge said last of the same, at once, and then what it says now, where that is something else.
 * @template T @param {string} name @param {() => Promise<T>} ask @param {(said: T) => void | Promise<void>} shows */
async function remembered(name, ask, shows) {
  const kept = keep.canKeep && vault.isOpen();
  const old = kept && !asking.isOwn() ? await vault.readFrom(`said:${name}`) : undefined;
  if (old) {
    await shows(old);
    await new Promise((seen) => requestAnimationFrame(() => setTimeout(seen)));
  }
  const fresh = await ask();
  const same = JSON.stringify(fresh) === JSON.stringify(old);
  if (!same && !(old && isMarking())) await shows(fresh);
  if (!same && kept) await vault.putIn(`said:${name}`, fresh);
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
    /** @type {HTMLElement} */ (el("away-held").firstChild).textContent = keep.itemsWait(line.waiting);
  }
}

async function recount() {
  showRefused(await line.tally());
  sayUnsent();
}

let leaving = false;
/** Why the pad is left once the attempt that goes on has ended: the eyes are on the craft now. */
let later = "";
/** Leaves nothing here that can be read, and says why. @param {string} why */
async function leave(why) {
  if (leaving) return;
  if (isMarking()) {
    later = why;
    return;
  }
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

// What stands below comes with the first answer, so that it does not jump when that comes.
const answered = () => el("pad-away").classList.add("answered");
new MutationObserver(() => {
  if (el("away-state").textContent) answered(); // why there is no list
}).observe(el("away-state"), { childList: true });

/** Why what was asked for last is not shown; empty where it is. */
let notShown = "";

/** Ends when the day has been refreshed for whoever asked last. @type {Promise<void>} */
let refreshing = Promise.resolve();

/** Refreshes the day, where the school can be reached. One at a time: an answer that came late would take the record
 * that was fetched meanwhile off the day again, and what is said of it off the screen. */
function refresh() {
  refreshing = refreshing.catch(() => {}).then(refreshNow);
  return refreshing;
}

async function refreshNow() {
  /** @type {keep.Who | null} */
  let now;
  try {
    now = await keep.whoIs();
  } catch {
    el("away-state").textContent = notShown || "No network: the day is the one on this device.";
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
  await adopt(now).catch(() => {});
  el("device-name").textContent = line.deviceName();
  const r = await fetch(`/pad/day${besides()}`, { headers: { Accept: "application/json" } });
  if (!r.ok) {
    const body = await r.json().catch(() => ({}));
    if (body.cut) return leave(body.error);
    el("away-state").textContent = body.error ?? `The school answers ${r.status}.`;
    return;
  }
  day = await r.json();
  asking.takeDay(day);
  if (keep.canKeep) await vault.putIn("day", day);
  if (!asking.isOwn() && day.role !== "spotter") await judge("open", ...brought()).catch(() => {});
  await openDay();
  el("away-state").textContent = "";
}

/** Whose records were fetched besides those of the day. @returns {string[]} */
const brought = () => JSON.parse(sessionStorage.getItem("brought") ?? "[]");
const besides = () => {
  const ids = brought();
  return ids.length ? `?${new URLSearchParams(ids.map((id) => ["student", id]))}` : "";
};

/** Fetches the record of a student where the day has only the name, or none. @param {string} id */
async function bring(id) {
  const of = day.students.find((/** @type {any} */ s) => s.id === id);
  if (day.role === "spotter" || (of && !of.away)) return;
  sessionStorage.setItem("brought", JSON.stringify([...new Set([...brought(), id])]));
  el("away-state").textContent = "The record is being fetched.";
  await refresh().catch(() => {});
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
  el("away-day").textContent = day ? `${day.by}, ${day.school}` : "No day is on this device";
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
          textContent: [
            r.away ? "the record is fetched when you choose them" : r.title,
            r.away ? "" : r.standing,
            r.marked ? `${r.marked} marked here` : "",
          ]
            .filter(Boolean)
            .join(" · "),
        }),
      );
      b.addEventListener("click", () => {
        location.hash = `#student=${r.id}`;
      });
      li.append(b);
      return li;
    }),
  );
  answered();
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

/** What the judge says is wrong, as it stands on a page. @param {string} t */
const asSentence = (t) => t.charAt(0).toUpperCase() + t.slice(1) + (/[.!?]$/.test(t) ? "" : ".");

/** Opens the pad on what the address says. */
async function show() {
  const want = Object.fromEntries(new URLSearchParams(location.hash.slice(1)));
  notShown = "";
  try {
    if (day && !over() && (want.calls || want.student)) await bring(want.calls ?? want.student);
    if (want.calls && day && !over()) return await showCalls(want.calls, want.light ?? "day");
    if (!want.student || !day || over()) return await list();
    if (day.role === "spotter") return showSpot(want.student);
    await showMarks(want);
  } catch (x) {
    const why = asSentence(String(x instanceof Error ? x.message : x));
    line.say(why);
    await list().catch(sayUnsent);
    notShown = el("away-state").textContent = why;
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
  closeMarks();
  await remembered(
    `page:${at}`,
    () => judge("page", JSON.stringify({ ...want, level: Number(want.level ?? 1) }), clock.serverNow()),
    (p) => (location.hash === at ? pageIs(p) : undefined),
  );
}

/** What opens the pad on an item.
 * @param {{student: string, drill: string, side: string, aids: string, level: number}} of */
const addressOf = (of) => `#student=${of.student}&drill=${of.drill}&side=${of.side}&aids=${of.aids}&level=${of.level}`;

/** Opens the pad at an address, which may be where it is. @param {string} at */
function open(at) {
  if (location.hash === at) void show();
  else location.hash = at;
}

/** The attempt of a student that is being marked. @param {string} student */
const goingOn = (student) =>
  line.attempts.find((k) => !k.ended && k.student === student && clock.serverNow() - k.run.began < 3600_000);

/** @param {any} p */
async function pageIs(p) {
  const o = goingOn(p.student)?.run.opening;
  // An attempt that is under way is shown with its own drill, whatever was chosen meanwhile.
  const its = o ? addressOf({ ...o, student: p.student }) : "";
  if (o && location.hash !== its && addressOf(p) !== its) return open(its);
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
  openMarks(p, lineOf(p), goingOn(p.student)?.run ?? null);
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
    quick: asking.isOwn,
    now: clock.serverNow,
    holdBack: (run) => line.holdBack(run.opening.id),
    letGo: line.letGo,
    again(next) {
      open(addressOf({ student, drill, side: next || side, aids, level }));
    },
    choose() {
      const v = (/** @type {string} */ id) => /** @type {HTMLSelectElement} */ (el(id)).value;
      const wanted = ["drill", "side", "aids", "level"].map((k) => `${k}=${v(k)}`);
      open(`#student=${student}&${wanted.join("&")}`);
    },
    waiting: line.words,
  };
}

/** Opens the lock, or makes one for a new sign-in. */
async function openVault() {
  // Somebody signed out here where no network reached: the school hears of it before the pad opens for anybody.
  if (await keep.signingOut()) {
    el("away-state").textContent = "Somebody signed out here. The pad opens once the school has heard of it.";
    throw new Stop();
  }
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
    await recount();
    await openVault();
    await line.readRooms();
    el("device-name").textContent = line.deviceName();
    day = (await vault.readFrom("day")) ?? null;
    asking.takeDay(day);
    await recount();
  } else el("away-online").hidden = false;
  line.listen({ told: () => void recount(), left: leave });
  void clock.meet().then(() => void line.sync());
  if (day) await openDay();
  const kept = Boolean(day);
  if (!day) await refresh();
  const came = performance.now();
  await show();
  document.documentElement.dataset.ready = "pad";
  keepOnDevice();
  settings();
  el("away-lock").hidden = !keep.canKeep;
  void stayAwake(el("wake-says"));
  await bringJudge().catch(() => {});
  if (!asking.isOwn()) await openDay();
  // A day that has only just come is not fetched again.
  if (kept || !day || performance.now() - came > 60_000) await refresh();
  if (!el("pad-away").hidden) await list();
}

const lockNow = () => void vault.lock().then(() => location.reload());
for (const t of ["pointerdown", "keydown"])
  document.addEventListener(
    t,
    (e) => {
      if (!keep.canKeep || !vault.isOpen() || !vault.isIdle() || isMarking()) return vault.touch();
      e.stopPropagation(); // the first touch after a long while is somebody's who has to know the PIN
      lockNow();
    },
    { capture: true },
  );
setInterval(() => {
  if (later && !isMarking()) {
    const why = later;
    later = "";
    void leave(why);
  }
  if (!keep.canKeep || !vault.isOpen()) return;
  if (over() && !isMarking())
    void leave("The sign-in has ended. Sign in to open the pad again; what was marked is sealed.");
  else if (vault.isIdle() && !isMarking()) lockNow();
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
el("away-lock").addEventListener("click", lockNow);
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
