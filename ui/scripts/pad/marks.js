// The marking screen: it hands taps, swipes and keys to the judge, and draws what the judge says. It decides nothing:
// which mark a tap makes, which tap is none, what is said and what comes next are answers of the compiled rules.
import { newId } from "../frame/ids.js";
import { lengthOf } from "../frame/units.js";
import { holds } from "./hold.js";
import { say, shake, tone } from "./say.js";

/**
 * @typedef {{id: string, t_s: number, mark: string, toward?: string, away_m?: number, right_m?: number,
 *   code?: string, reason?: string, of?: string}} Mark
 */
/**
 * @typedef {{attempt: string, verdict: string, sign: string, margin: string, summary: string, faults: string[],
 *   counts: boolean, why_not: string, standing: string, if_void: string, next: string, advice?: string[]}} Verdict
 */
/**
 * @typedef {{big?: string, small?: string, tap?: string, main: string, main_mark: string, out: boolean, clock: boolean,
 *   since_s: number, need_s: number, not_before_s: number}} Ask
 */
/**
 * @typedef {{ask: Ask, step: number, inside: boolean, faults: string[], cues?: {kind: string, words: string}[],
 *   ended: boolean, verdict: Verdict | null}} State
 */
/** An attempt on this device. Its beginning is told by the clocks; began is the server's time, as well as it was known.
 * @typedef {{opening: {id: string, drill: string, side: string, level: number, aids: string, craft: string,
 *   course: string, device_at: string}, seq: number, stretch: string, mono_ms: number, began: number, marks:
 * Mark[]}} Run
 */
/**
 * @typedef {{student: string, drill: string, side: string, level: number, aids: string, craft: string,
 *   course: string, offset: number, steps: {words: string}[]}} Config
 */
/** What stands behind the screen.
 * @typedef {{begin: () => Promise<Run>, keep: (run: Run, ended: boolean) => Promise<void>,
 *   judge: (run: Run, nowS: number) => Promise<State>, quick: () => boolean, now: () => number,
 *   holdBack: (run: Run) => void, letGo: (run: Run) => void, again: (side: string) => void, choose: () => void,
 *   waiting: () => string}} Line
 */

const backFor = 10_000; // ms in which an ending can be withdrawn, before it is sent
const calmFor = 1200; // ms after a verdict in which a late tap does nothing
const swipe = 40; // px that a finger goes for a swipe

/** @param {string} id */
const el = (id) => /** @type {HTMLElement} */ (document.getElementById(id));
/** @type {Config} */
let config;
/** @type {Line} */
let line;
/** @type {Run | null} */
let run = null;
/** @type {State | null} */
let state = null;
let base = 0; // of the page's clock at the attempt's first mark
/** What the hand did and was not judged yet, in its order. @type {{t: number, act: string, more: any}[]} */
let queue = [];
let working = false;
let starting = false; // an attempt is about to begin
let open = false; // the screen shows what would be begun
let asked = 0; // when the judge was asked last
/** The touch whose place can still be said. @type {Mark | null} */
let placed = null;
/** The attempt that has just ended, while it can be withdrawn. @type {{run: Run, done: Mark, until: number} | null} */
let back = null;
let calmUntil = 0;
let cycle = -1; // which fault a clicker has come to

const now = () => Math.round((performance.now() - base) / 10) / 100;
export const isMarking = () => run !== null;
/** Where the attempt that is marked stands; null for none. */
export const current = () => (run && state ? { id: run.opening.id, student: config.student, t_s: now() } : null);

/** @param {string} name */
function show(name) {
  for (const v of document.querySelectorAll(".pad-view"))
    /** @type {HTMLElement} */ (v).hidden = v.id !== `view-${name}`;
  el("row-fly").hidden = name !== "fly";
  el("big").hidden = !["start", "fly", "verdict"].includes(name);
  el("big").classList.toggle("flying", name === "fly");
  draw();
}
const view = () => document.querySelector(".pad-view:not([hidden])")?.id.replace("view-", "") ?? "";

/** Notes what the hand does, at the moment at which it does it. @param {string} act @param {any} [more] */
function act(act, more = {}) {
  queue.push({ t: now(), act, more });
  void work();
}

/** Does what the hand did, one after the other: what a tap means follows from what came before it. */
async function work() {
  if (working) return;
  working = true;
  try {
    while (queue.length > 0 && run) {
      const first = queue[0];
      const { t, act, more } = first;
      if (!state) await look();
      const mark = meant(act, t, more);
      if (!mark) shake("refused");
      else {
        await put(mark.mark, mark.more, t);
        shake("taken");
      }
      if (queue[0] === first) queue.shift(); // an attempt that has ended, or begun, has emptied the queue
    }
    if (!run) queue = [];
  } catch (x) {
    complain(x); // the judge was not reached: what the hand did waits
  }
  working = false;
  draw();
}

/** What an act means now; null where it means nothing. @param {string} act @param {number} t @param {any} more */
function meant(act, t, more) {
  const ask = /** @type {State} */ (state).ask;
  switch (act) {
    case "tap":
      return ask.tap && t >= ask.not_before_s ? { mark: ask.tap, more } : null;
    case "out":
      return ask.out ? { mark: "out", more } : null;
    case "call":
      return ask.main_mark === "call" || ask.tap === "call" ? { mark: "call", more } : null;
    case "undo": {
      const last = /** @type {Run} */ (run).marks.filter(
        (m) => !["undo", "start", "onlookers"].includes(m.mark) && !gone(m),
      );
      return last.length ? { mark: "undo", more: { of: /** @type {Mark} */ (last.at(-1)).id } } : null;
    }
    default:
      return { mark: act, more };
  }
}

/** @param {Mark} m */
const gone = (m) => run?.marks.some((u) => u.mark === "undo" && u.of === m.id) ?? false;

/** Adds a mark, judges it and keeps it. @param {string} mark @param {Partial<Mark>} more @param {number} t */
async function put(mark, more, t) {
  const mine = /** @type {Run} */ (run);
  const m = { id: newId(), t_s: Math.max(0, t), mark, ...more };
  mine.marks.push(m);
  mine.marks.sort((a, b) => a.t_s - b.t_s || (a.id < b.id ? -1 : 1));
  if (mark === "touch" && more.away_m === undefined) placed = m;
  if (mark === "done" || mark === "void") line.holdBack(mine);
  const kept = line.keep(mine, mark === "done" || mark === "void").then(
    () => {
      el("pad-wrong").hidden = true;
    },
    (x) => {
      shake("refused");
      complain(x);
    },
  );
  await look();
  await kept;
}

/** @param {unknown} x */
function complain(x) {
  el("pad-wrong").hidden = false;
  el("pad-wrong").textContent =
    `${x instanceof Error ? x.message : x}. What was marked waits here; keep this page open.`;
}

/** Asks the judge where the attempt stands. */
async function look() {
  const mine = run;
  if (!mine) return;
  asked = performance.now();
  const found = await line.judge(mine, now());
  if (run !== mine) return;
  state = found;
  for (const c of found.cues ?? []) say(c.kind, c.words);
  if (found.ended && found.verdict) ended(mine, found.verdict);
  draw();
}

/** @param {Run} mine @param {Verdict} v */
function ended(mine, v) {
  shake("over");
  el("v-sign").textContent = v.sign;
  el("v-word").textContent = v.verdict;
  el("v-margin").textContent = v.margin ? `margin ${v.margin.replace("-", "−")}` : "nothing measured";
  el("v-summary").textContent = v.summary;
  const items = (/** @type {string[]} */ list) =>
    list.map((t) => Object.assign(document.createElement("li"), { textContent: t }));
  el("v-faults").replaceChildren(...items(v.faults.slice(1)));
  el("v-counts").hidden = v.counts;
  el("v-counts").textContent = `Practice only: ${v.why_not}.`;
  el("v-standing").textContent = v.standing;
  el("v-advice").hidden = !v.advice?.length;
  el("v-advice").replaceChildren(...items(v.advice ?? []));
  /** @type {HTMLAnchorElement} */ (el("v-debrief")).href = `/attempts/${mine.opening.id}`;
  /** @type {HTMLAnchorElement} */ (el("v-student")).href = `/students/${config.student}`;
  /** @type {HTMLElement} */ (document.querySelector(".pad-verdict")).className = `pad-verdict ${v.verdict}`;
  const done = /** @type {Mark} */ (mine.marks.filter((m) => ["done", "void"].includes(m.mark) && !gone(m)).at(-1));
  back = { run: mine, done, until: performance.now() + backFor };
  el("v-void").title = v.if_void;
  el("void-says").textContent = v.if_void;
  el("v-undo").hidden = done?.mark === "void";
  calmUntil = performance.now() + calmFor;
  el("big").dataset.next = v.next;
  run = null;
  placed = null;
  queue = [];
  show("verdict");
  el("step-name").textContent = v.verdict;
  el("before").textContent = ""; // what stands now is said below
}

/** Takes the ending back: the attempt goes on, or becomes void. @param {string} [reason] */
async function takeBack(reason) {
  if (!back) return;
  const was = back;
  back = null;
  run = was.run;
  state = null;
  base = performance.now() - (line.now() - was.run.began);
  if (was.done.mark !== "void") run.marks.push({ id: newId(), t_s: now(), mark: "undo", of: was.done.id });
  if (reason) run.marks.push({ id: newId(), t_s: now(), mark: "void", reason });
  if (reason) line.holdBack(run);
  else show("fly");
  await line.keep(run, Boolean(reason)).catch(complain);
  await look().catch(complain);
}

/** The ending stands. */
function settle() {
  if (!back) return;
  line.letGo(back.run);
  back = null;
  draw();
}

async function start() {
  if (!open) return shake("refused"); // another drill was chosen and is not shown yet
  if (starting) return; // the second of two quick taps begins no second attempt
  starting = true;
  settle();
  try {
    run = await line.begin();
  } catch (x) {
    shake("refused");
    complain(x);
    return;
  } finally {
    starting = false;
  }
  base = performance.now();
  state = null;
  queue = [];
  show("fly");
  act("start");
  if (/** @type {HTMLInputElement} */ (el("watched")).checked) act("onlookers");
}

/** The large target: whatever comes next. */
function big() {
  switch (view()) {
    case "start":
      void start();
      break;
    case "fly":
      act("tap");
      break;
    case "verdict":
      if (performance.now() < calmUntil) return;
      settle();
      line.again(el("big").dataset.next ?? "");
  }
}

const names = /** @type {Record<string, string>} */ ({
  in: "Inside",
  out: "Outside",
  touch: "Landed",
  rest: "It stands",
  moving: "It moves",
  done: "Finish",
});

function draw() {
  if (!line) return;
  el("unsent").textContent = line.waiting();
  const v = view();
  /** @type {HTMLButtonElement} */ (el("big")).disabled = v === "start" && !open;
  if (v === "start") [el("big-word").textContent, el("big-small").textContent] = ["Start", "as the motors start"];
  if (v === "verdict") {
    const next = el("big").dataset.next;
    el("big-word").textContent = next ? `Next side: ${next}` : "Once more";
    el("big-small").textContent = "";
    el("big").classList.toggle("calm", performance.now() < calmUntil);
    el("v-back").hidden = !back;
    if (back) el("v-left").textContent = `${Math.max(0, Math.ceil((back.until - performance.now()) / 1000))} s`;
  }
  if (v !== "fly" || !state) return;
  const a = state.ask;
  const t = now() - a.since_s;
  const clock = a.clock
    ? (a.need_s > 0 ? Math.min(Math.max(t, 0), a.need_s) : Math.max(t, 0)).toFixed(1)
    : (a.big ?? "");
  el("ring-big").textContent = clock;
  el("ring-big").classList.toggle("words", !a.clock);
  el("ring-small").textContent = a.small ?? "";
  el("ring").classList.toggle("inside", state.inside);
  /** @type {SVGElement} */ (/** @type {unknown} */ (document.querySelector(".ring-run"))).style.strokeDasharray =
    `${a.clock && a.need_s > 0 ? 1000 * Math.min(1, Math.max(0, t / a.need_s)) : 0} 1000`;
  el("ring-say").textContent = state.faults.at(-1) ?? "";
  el("big-word").textContent =
    a.tap === "call"
      ? a.main_mark === "call"
        ? a.main
        : "Call"
      : a.main === "Answered"
        ? "Answered"
        : (names[a.tap ?? ""] ?? "…");
  el("big-small").textContent = a.out ? "swipe to say where it left to" : "";
  el("big").classList.toggle("calm", now() < a.not_before_s || queue.length > 0);
  /** @type {HTMLButtonElement} */ (el("b-call")).disabled = a.main_mark !== "call" && a.tap !== "call";
  el("view-place").hidden = !placed || config.offset <= 0;
  const over = state.step >= config.steps.length;
  el("step-name").textContent = over ? "all steps done" : `step ${state.step + 1} of ${config.steps.length}`;
  if (!over) el("asked").textContent = config.steps[state.step].words;
  const n = run?.marks.filter((m) => m.mark === "question").length ?? 0;
  const words = el("b-question").firstChild;
  if (words) words.textContent = n ? `asked ${n} ` : "asked a question ";
}

setInterval(() => {
  if (!line) return;
  el("b-question").hidden = view() !== "fly";
  if (back && performance.now() > back.until) settle();
  const every = line.quick() ? 200 : 1000;
  if (run && !working && queue.length > 0) void work();
  else if (run && state && !working && performance.now() - asked > every) look().catch(() => {});
  draw();
}, 100);

// The large target: a tap is the next event, a swipe says where the craft left to.
/** @type {{x: number, y: number} | null} */
let from = null;
el("big").addEventListener("pointerdown", (e) => {
  from = { x: e.clientX, y: e.clientY };
});
let swiped = false;
el("big").addEventListener("pointerup", (e) => {
  const began = from;
  from = null;
  swiped = false;
  if (began && view() === "fly") {
    const dx = e.clientX - began.x,
      dy = e.clientY - began.y;
    swiped = Math.hypot(dx, dy) > swipe;
    if (swiped)
      act("out", {
        toward: Math.abs(dx) > Math.abs(dy) ? (dx > 0 ? "right" : "left") : dy < 0 ? "away" : "toward",
      });
  }
});
el("big").addEventListener("click", () => {
  if (swiped) swiped = false;
  else big();
});

el("b-call").addEventListener("click", () => act("call"));
el("b-undo").addEventListener("click", () => act("undo"));
el("b-question").addEventListener("click", () => act("question"));
el("b-fault").addEventListener("click", () => show("fault"));
el("b-wind").addEventListener("click", () => show("wind"));
el("v-undo").addEventListener("click", () => void takeBack());
el("v-void").addEventListener("click", () => show("fault"));
holds(el("b-end"), () => act("done"));
el("b-glare").addEventListener("click", () => {
  document.documentElement.dataset.theme = document.documentElement.dataset.theme === "glare" ? "day" : "glare";
});
const goBack = () => show(run ? "fly" : back ? "verdict" : "start");
for (const b of document.querySelectorAll("[data-back]")) b.addEventListener("click", goBack);
el("view-fault").addEventListener("click", (e) => {
  const b = e.target instanceof Element ? /** @type {HTMLElement | null} */ (e.target.closest("button")) : null;
  if (b?.dataset.fault && run) {
    act("fault", { code: b.dataset.fault });
    show("fly");
  } else if (b?.dataset.void) {
    if (run) {
      act("void", { reason: b.dataset.void });
      show("fly");
    } else void takeBack(b.dataset.void);
  }
});
el("choose").addEventListener("change", () => {
  closeMarks();
  line.choose();
});

// Where it touched can be said after the touch, while the eyes are free.
const target = /** @type {SVGSVGElement} */ (/** @type {unknown} */ (document.querySelector(".pad-target")));
const place = { right: 0, away: 0 };
/** @param {number} right @param {number} away */
function setPlace(right, away) {
  const lim = (116 / 60) * config.offset;
  const clip = (/** @type {number} */ v) => Math.round(Math.max(-lim, Math.min(lim, v)) * 100) / 100;
  place.right = clip(right);
  place.away = clip(away);
  el("touch-cross").removeAttribute("hidden");
  const unit = config.offset / 60;
  el("touch-cross").setAttribute("transform", `translate(${place.right / unit} ${-place.away / unit})`);
  el("touch-say").textContent =
    `${lengthOf(Math.hypot(place.right, place.away), 1)} off; ${lengthOf(config.offset, 1)} is allowed`;
}
function keepPlace() {
  if (!placed || !run) return;
  const was = placed;
  placed = null;
  run.marks.push({ id: newId(), t_s: now(), mark: "undo", of: was.id });
  const t = was.t_s;
  queue.push({ t, act: "touch", more: { away_m: place.away, right_m: place.right } });
  void work();
}
target.addEventListener("click", (e) => {
  const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(target.getScreenCTM()?.inverse());
  setPlace((p.x * config.offset) / 60, (-p.y * config.offset) / 60);
  keepPlace();
});

el("wind-form").addEventListener("submit", async (e) => {
  e.preventDefault();
  const body = new URLSearchParams({ id: newId() });
  for (const [k, v] of new FormData(/** @type {HTMLFormElement} */ (e.target))) body.set(k, String(v));
  const wrong = el("wind-wrong");
  try {
    const answer = await fetch("/wind", { method: "POST", body, headers: { Accept: "text/plain" } });
    const text = await answer.text();
    if (!answer.ok)
      throw new Error(
        answer.status === 422
          ? "Give the mean in metres a second, and a gust that is no less."
          : "The wind could not be kept; try again.",
      );
    el("b-wind").textContent = text;
    wrong.hidden = true;
    goBack();
  } catch (x) {
    wrong.textContent =
      x instanceof TypeError
        ? "No network: the wind was not kept. Try again when it is back."
        : String(x instanceof Error ? x.message : x);
    wrong.hidden = false;
  }
});

/** What a key of a keyboard, a clicker or a headset does. @param {string} what */
export function does(what) {
  if (!line || el("pad").getClientRects().length === 0) return false;
  const v = view();
  if (v === "fault" && run && cycle >= 0) {
    const list = [...el("m-faults").querySelectorAll("button")];
    if (what === "tap") {
      act("fault", { code: list[cycle].dataset.fault });
      cycle = -1;
      show("fly");
    } else if (what === "fault") sayFault(list);
    else {
      cycle = -1;
      show("fly");
    }
    return true;
  }
  if (what === "tap") big();
  else if (v !== "fly") return false;
  else if (what === "fault") {
    show("fault");
    sayFault([...el("m-faults").querySelectorAll("button")]);
  } else if (what === "landed") act(state?.ask.tap === "touch" ? "tap" : "touch");
  else act(what);
  return true;
}

/** Without looking: each press says the next fault, and the next event confirms it. @param {HTMLElement[]} list */
function sayFault(list) {
  cycle = (cycle + 1) % list.length;
  say("out", list[cycle].textContent ?? "");
}

document.addEventListener("keydown", (e) => {
  if (!line || el("pad").getClientRects().length === 0 || e.defaultPrevented) return;
  const t = e.target;
  if (e.ctrlKey || e.metaKey || e.altKey || (t instanceof HTMLElement && t.matches("input, select"))) {
    if (e.key === "Escape") goBack();
    return;
  }
  const v = view();
  const onButton = t instanceof HTMLElement && t.matches("button, a, summary");
  if (e.key === "Escape" && ["fault", "wind"].includes(v)) return goBack();
  if (v === "fly" && t === target && placed) {
    const s = { ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] }[e.key];
    if (s) {
      e.preventDefault();
      const grain = config.offset / 8;
      return setPlace(place.right + s[0] * grain, place.away + s[1] * grain);
    }
    if (e.key === "Enter") return keepPlace();
  }
  if (v === "fly") {
    const toward = { ArrowUp: "away", ArrowDown: "toward", ArrowLeft: "left", ArrowRight: "right" }[e.key];
    if (toward) {
      e.preventDefault();
      return act("out", { toward });
    }
    const key = { c: "call", l: "landed", f: "", u: "undo", q: "question" }[e.key.toLowerCase()];
    if (e.key.toLowerCase() === "f") return show("fault");
    if (key && !e.repeat) return void does(key);
  }
  if ((e.key === "Enter" || e.key === " ") && !onButton && !e.repeat && ["start", "fly", "verdict"].includes(v)) {
    e.preventDefault();
    big();
  }
});

/** Opens the screen on an item; an attempt that was being marked when the page was closed goes on.
 * @param {Config} of @param {Line} behind @param {Run | null} left */
export function openMarks(of, behind, left) {
  settle();
  open = true;
  config = of;
  line = behind;
  // It is being marked: what the hand has done meanwhile stays, and the step that runs.
  if (run && left?.opening.id === run.opening.id) return draw();
  run = left;
  state = null;
  queue = [];
  placed = null;
  place.right = place.away = 0;
  el("touch-cross").setAttribute("hidden", "");
  if (run) {
    const last = run.marks.at(-1)?.t_s ?? 0;
    // The attempt's own clock goes on, and never back.
    base = performance.now() - 1000 * Math.max(last, (line.now() - run.began) / 1000);
    show("fly");
    look().catch(complain);
    return;
  }
  tone(); // a browser lets a page sound only after a touch, and this follows one
  show("start");
}

/** Nothing is begun until the screen shows what was asked for; an attempt that is marked goes on. */
export function closeMarks() {
  open = false;
  draw();
}

/** Leaves the screen: what has ended is let go. */
export function leaveMarks() {
  settle();
}
