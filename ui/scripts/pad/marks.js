// The marking pad: it takes marks, hands them to the line of whoever opened it, and draws
// what the step machine says. It judges nothing.
import { newId } from "../frame/ids.js";
import { lengthOf } from "../frame/units.js";

/**
 * @typedef {{id: string, t_s: number, mark: string, toward?: string, away_m?: number, right_m?: number,
 *   code?: string, reason?: string, of?: string}} Mark
 */
/**
 * @typedef {{attempt: string, verdict: string, sign: string, margin: string, summary: string, faults: string[],
 *   counts: boolean, why_not: string, standing: string, next: string, again: string, debrief: string,
 *   student: string, advice?: string[]}} Verdict
 */
/**
 * @typedef {{step: number, inside: boolean, since_s: number, faults: string[], ended: boolean,
 *   verdict: Verdict | null}} State
 */
/**
 * @typedef {{opening: {id: string, drill: string, side: string, level: number, aids: string, craft: string,
 *   course: string, device_at: string}, t0: number, marks: Mark[], sent: string[], turning: boolean,
 *   at?: Record<string, number>, state: State | null}} Run
 */

/** @param {string} id */
const el = (id) => /** @type {HTMLElement} */ (document.getElementById(id));
/**
 * @typedef {{student: string, drill: string, side: string, level: number, aids: string, craft: string,
 *   course: string, offset: number, steps: {kind: string, words: string, seconds: number, rest?: number,
 *   corners?: number, call?: boolean, watch?: boolean, happens?: {words: string, asks: boolean,
 *   end: boolean}[]}[]}} Config
 */
/** What stands behind the pad: send hands marks over and says where the attempt stands,
 * keep keeps the attempt on the device, again opens the next one.
 * @typedef {{send: (run: Run, marks: Mark[], nowS: number) => Promise<{ok: boolean, body: any}>,
 *   keep: (run: Run | null) => void, again: (address: string) => void, choose: () => void,
 *   waiting?: () => string}} Line
 */
/** @type {Config} */
let config;
/** @type {Line} */
let line;

/** @type {Run | null} */
let run = null;
/** @type {{t: number, away: number, right: number, set: boolean} | null} */
let touch = null;
let askAgain = 0; // when the server may be asked again whether the clock has run out
let sending = false;
let wait = 1000;

const now = () => (run ? Math.round((Date.now() - run.t0) / 10) / 100 : 0);
const kind = () => (run?.state ? (config.steps[run.state.step]?.kind ?? "over") : config.steps[0]?.kind);
const unsent = () => (run ? run.marks.filter((m) => !run?.sent.includes(m.id)) : []);

const keep = () => line.keep(run);

/** @param {string} name */
function show(name) {
  for (const v of document.querySelectorAll(".pad-view"))
    /** @type {HTMLElement} */ (v).hidden = v.id !== `view-${name}`;
  el("row-fly").hidden = name !== "fly";
  el("b-main").hidden = !["start", "fly", "verdict"].includes(name);
  if (name === "touch") /** @type {HTMLElement} */ (document.querySelector(".pad-target")).focus();
  draw();
}

const view = () => document.querySelector(".pad-view:not([hidden])")?.id.replace("view-", "") ?? "";

/** Adds a mark, keeps it and sends it.
 * @param {string} mark
 * @param {Partial<Mark>} [more] */
function put(mark, more = {}) {
  if (!run) return;
  const id = newId();
  run.at = { ...run.at, [id]: run.state?.step ?? 0 };
  run.marks.push({ id, t_s: now(), mark, ...more });
  // The clock is drawn at once; the server's answer corrects it.
  if (run.state && (mark === "in" || mark === "out")) {
    run.state.inside = mark === "in";
    run.state.since_s = now() + 1; // the clock runs a second later
  }
  keep();
  send();
  draw();
}

async function send() {
  if (!run || sending) return;
  sending = true;
  const mine = run;
  const marks = unsent();
  const complain = el("pad-wrong");
  try {
    const answer = await line.send(mine, marks, now());
    const body = answer.body;
    wait = 1000;
    if (answer.ok) {
      complain.hidden = true;
      mine.sent.push(...marks.map((m) => m.id));
      if (!unsent().some((m) => ["in", "out"].includes(m.mark)) || body.ended) mine.state = body;
      keep();
      if (body.ended) ended(body.verdict);
    } else {
      complain.textContent = `${body.error} ${body.kept ?? ""} ${body.do ?? ""}`;
      complain.hidden = false;
      wait = 10000;
    }
  } catch {
    wait = Math.min(20000, wait * 1.6); // no network: the marks wait here
  }
  sending = false;
  draw();
  if (run && unsent().length > 0) setTimeout(send, wait);
}

/** Asks the server where the attempt stands, without a mark; once a second at
 * most, until it says that the step is done. */
function ask() {
  if (sending || Date.now() < askAgain) return;
  askAgain = Date.now() + 1000;
  send();
}

/** @param {Verdict} v */
function ended(v) {
  el("v-sign").textContent = v.sign;
  el("v-word").textContent = v.verdict;
  el("v-margin").textContent = v.margin ? `margin ${v.margin.replace("-", "−")}` : "nothing measured";
  el("v-summary").textContent = v.summary;
  el("v-faults").replaceChildren(
    ...v.faults.slice(1).map((t) => Object.assign(document.createElement("li"), { textContent: t })),
  );
  el("v-counts").hidden = v.counts;
  el("v-counts").textContent = `Practice only: ${v.why_not}.`;
  el("v-standing").textContent = v.standing;
  el("v-advice").hidden = !v.advice?.length;
  el("v-advice").replaceChildren(
    ...(v.advice ?? []).map((t) => Object.assign(document.createElement("li"), { textContent: t })),
  );
  /** @type {HTMLAnchorElement} */ (el("v-debrief")).href = v.debrief;
  el("view-verdict").querySelector(".pad-verdict")?.classList.add(v.verdict);
  el("b-main").dataset.href = v.again;
  setMain(v.next ? `Next side: ${v.next}` : "Once more");
  run = null;
  keep();
  show("verdict");
  el("step-name").textContent = v.verdict;
  el("before").textContent = ""; // what stands now is said below
  el("b-main").focus();
}

/** @param {string} words @param {string} [small] */
function setMain(words, small = "Enter") {
  const b = el("b-main");
  if (b.dataset.words === words) return;
  b.dataset.words = words;
  b.replaceChildren(words, Object.assign(document.createElement("small"), { textContent: small }));
}

function start() {
  const { drill, side, level, aids, craft, course } = config;
  run = {
    opening: { id: newId(), drill, side, level, aids, craft, course, device_at: new Date().toISOString() },
    t0: Date.now(),
    marks: [],
    sent: [],
    turning: false,
    state: { step: 0, inside: false, since_s: 0, faults: [], ended: false, verdict: null },
  };
  show("fly");
  put("start");
}

/** What was marked of the step that runs, without what was taken back: how a path,
 * the way to a place or a stop stands. */
function way() {
  const gone = new Set(run?.marks.filter((m) => m.mark === "undo").map((m) => m.of));
  const of =
    run?.marks.filter((m) => m.mark !== "undo" && !gone.has(m.id) && run?.at?.[m.id] === (run?.state?.step ?? 0)) ?? [];
  const begun = of.some((m) => m.mark === "moving" || m.mark === "call");
  const rests = of.filter((m) => m.mark === "rest").length;
  const last = of.filter((m) => ["moving", "rest", "call", "in"].includes(m.mark)).at(-1);
  return {
    begun,
    rests,
    resting: last?.mark === "rest",
    since: last?.t_s ?? 0,
    here: last?.mark === "in" || last?.mark === "rest",
  };
}

/** What is to happen in the step that runs: the next of it, and what waits for its
 * answer, since when. */
function due() {
  const happens = config.steps[run?.state?.step ?? 0]?.happens ?? [];
  const gone = new Set(run?.marks.filter((m) => m.mark === "undo").map((m) => m.of));
  const of =
    run?.marks.filter((m) => m.mark !== "undo" && !gone.has(m.id) && run?.at?.[m.id] === (run?.state?.step ?? 0)) ?? [];
  const calls = of.filter((m) => m.mark === "call");
  const last = of.filter((m) => ["call", "rest", "in"].includes(m.mark)).at(-1);
  const asked = calls.length > 0 && last?.mark === "call" ? happens[calls.length - 1] : undefined;
  return { next: happens[calls.length], asked: asked?.asks ? asked : undefined, since: last?.t_s ?? 0 };
}

/** Lets what is due happen: the instructor calls, or switches something off. */
function happen() {
  if (view() === "fly" && due().next && !due().asked) put("call");
}

/** Marks what comes next of a path, the way to a place or a stop. */
function nextOfWay() {
  const w = way(),
    step = config.steps[run?.state?.step ?? 0];
  if (kind() === "return") {
    if (!w.begun) put("call");
    else if (step.watch) landed();
    else put("rest");
  } else if (kind() === "regain") put(w.begun ? "in" : "call");
  else if (kind() === "goto") put(w.here ? "moving" : "rest");
  else if (kind() === "stop") put(step.call && !w.begun ? "call" : "rest");
  else if (!w.begun || (w.resting && step.corners)) put("moving");
  else put(w.rests < (step.corners ?? 0) ? "rest" : "in");
}

/** What the ring in the middle does depends on the step. */
function tapRing() {
  if (!run) return;
  if (due().asked) return put("rest");
  switch (kind()) {
    case "turn":
      run.turning = !run.turning;
      put(run.turning ? "moving" : "rest");
      break;
    case "land":
    case "over":
      landed();
      break;
    case "path":
    case "goto":
    case "stop":
    case "return":
    case "regain":
      nextOfWay();
      break;
    default:
      put(run.state?.inside ? "out" : "in");
  }
}

const onWay = () => ["path", "goto"].includes(kind() ?? "");

/** @param {string} toward */
function out(toward) {
  if (run?.state?.inside || (onWay() && (way().begun || kind() === "goto"))) put("out", { toward });
}

function landed() {
  if (!run) return;
  touch = { t: now(), away: 0, right: 0, set: false };
  drawTouch();
  show("touch");
}

/** @param {boolean} measured */
function touched(measured) {
  if (!run || !touch) return;
  const at = { t_s: Math.max(touch.t, run.marks.at(-1)?.t_s ?? 0) };
  put("touch", measured ? { ...at, away_m: touch.away, right_m: touch.right } : at);
  show("fly");
}

/** The pilot was asked something while flying. */
function question() {
  if (run && view() === "fly") put("question");
}

function undo() {
  if (!run) return;
  const gone = new Set(run.marks.filter((m) => m.mark === "undo").map((m) => m.of));
  const last = run.marks.filter((m) => m.mark !== "undo" && m.mark !== "start" && !gone.has(m.id)).at(-1);
  if (!last) return;
  if (last.mark === "moving" || last.mark === "rest") run.turning = last.mark === "rest";
  put("undo", { of: last.id });
}

function main() {
  switch (view()) {
    case "start":
      start();
      break;
    case "fly":
      if (due().asked) put("rest");
      else if (due().next) happen();
      else if (kind() === "land") landed();
      else put("done");
      break;
    case "verdict":
      line.again(el("b-main").dataset.href ?? "");
  }
}

const target = /** @type {SVGSVGElement} */ (/** @type {unknown} */ (document.querySelector(".pad-target")));
let unit = 1 / 60; // the tolerance is drawn 60 units wide

function drawTouch() {
  if (!touch) return;
  const cross = el("touch-cross");
  cross.toggleAttribute("hidden", !touch.set);
  cross.setAttribute("transform", `translate(${touch.right / unit} ${-touch.away / unit})`);
  /** @type {HTMLButtonElement} */ (el("touch-keep")).disabled = !touch.set;
  const off = Math.hypot(touch.away, touch.right);
  el("touch-say").textContent = touch.set
    ? `${lengthOf(off, 1)} off; ${lengthOf(config.offset, 1)} is allowed`
    : "not set";
}

/** @param {number} right @param {number} away */
function setTouch(right, away) {
  if (!touch) return;
  const lim = 116 * unit;
  const clip = (/** @type {number} */ v) => Math.round(Math.max(-lim, Math.min(lim, v)) * 100) / 100;
  Object.assign(touch, { right: clip(right), away: clip(away), set: true });
  drawTouch();
}

target.addEventListener("click", (e) => {
  const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(target.getScreenCTM()?.inverse());
  setTouch(p.x * unit, -p.y * unit);
});

function draw() {
  const n = unsent().length;
  el("unsent").textContent = line?.waiting
    ? line.waiting()
    : n === 0
      ? "all sent"
      : `${n} mark${n === 1 ? "" : "s"} not sent yet`;
  if (view() !== "fly" || !run) return;
  const k = kind();
  const s = run.state;
  const inside = Boolean(s?.inside) && k !== "over";
  let big = "";
  let small = "";
  let share = 0;
  const d = due();
  if (d.asked) [big, small] = [(now() - d.since).toFixed(1), "s, tap when answered"];
  else if (k === "return") {
    const w = way();
    [big, small] = !w.begun
      ? ["call", "tap as it sets off home"]
      : config.steps[s?.step ?? 0].watch
        ? ["watch", "tap at the touch"]
        : ["watch", "tap when it stands in hand"];
  } else if (k === "regain")
    [big, small] = way().begun
      ? [(now() - way().since).toFixed(1), "s, tap as it comes home"]
      : ["lost", "tap as you say so"];
  else if (k === "hold" && inside && s && d.next) [big, small] = ["in", "call when you like"];
  else if (k === "hold" && inside && s) {
    const t = Math.max(0, now() - s.since_s);
    const need = config.steps[s.step].seconds;
    big = Math.min(t, need).toFixed(1);
    small = `of ${need} s inside`;
    share = Math.min(1, t / need);
    if (t >= need) ask();
  } else if (k === "hold") [big, small] = ["out", "tap when it is in"];
  else if (k === "takeoff") [big, small] = ["climbing", "tap when in position"];
  else if (k === "turn") {
    [big, small] = run.turning ? ["turning", "tap when it stands"] : ["turn", "tap when it turns"];
    if (!run.turning && run.marks.at(-1)?.mark === "rest") {
      [big, small] = ["standing", "a second, to be sure"];
      if (now() > (run.marks.at(-1)?.t_s ?? 0) + 1.05) ask();
    }
  } else if (k === "path" || k === "goto" || k === "stop") {
    const w = way(),
      step = config.steps[s?.step ?? 0],
      corners = step.corners ?? 0;
    if (k === "goto") {
      [big, small] = w.here
        ? [(now() - w.since).toFixed(1), `of ${step.rest ?? 0} s at rest`]
        : ["on its way", "tap when it is there"];
      if (w.here && now() - w.since > (step.rest ?? 0)) ask();
    } else if (k === "stop") {
      [big, small] =
        step.call && !w.begun
          ? ["call", "tap as you call"]
          : w.resting
            ? ["stands", "a second, to be sure"]
            : ["stops", "tap when it stands"];
      if (w.resting && now() - w.since > 1.05) ask();
    } else if (!w.begun) [big, small] = ["set off", "tap as it sets off"];
    else if (w.resting && corners > 0) {
      [big, small] = [(now() - w.since).toFixed(1), `of ${step.rest} s, corner ${w.rests} of ${corners}`];
      share = Math.min(1, (now() - w.since) / (step.rest ?? 1));
    } else if (w.rests < corners) [big, small] = [`corner ${w.rests + 1}`, "tap when it rests"];
    else [big, small] = ["flying", "tap at the end"];
  } else if (k === "land") [big, small] = ["land", "tap at the touch"];
  else if (k === "over") [big, small] = ["down", "press Done"];
  el("ring-big").textContent = big;
  el("ring-big").classList.toggle("words", Number.isNaN(Number(big)));
  el("ring-small").textContent = small;
  el("ring").classList.toggle("inside", inside);
  /** @type {SVGElement} */ (/** @type {unknown} */ (document.querySelector(".ring-run"))).style.strokeDasharray =
    `${1000 * share} 1000`;
  for (const d of document.querySelectorAll(".dir"))
    d.classList.toggle("off", !inside && !(onWay() && (way().begun || k === "goto")));
  el("ring-say").textContent = s?.faults.length
    ? (s.faults.at(-1) ?? "")
    : inside || onWay()
      ? "out? touch where it went"
      : "";
  el("step-name").textContent = s
    ? k === "over"
      ? "all steps done"
      : `step ${s.step + 1} of ${config.steps.length}`
    : "";
  el("asked").textContent = s && config.steps[s.step] ? config.steps[s.step].words : el("asked").textContent;
  if (d.asked) setMain("Answered");
  else
    setMain(
      d.next ? d.next.words : ({ land: "Landed", over: "Done" }[k ?? ""] ?? "End it here"),
      d.next ? "call it or let it happen: Enter or C" : "Enter",
    );
}

setInterval(() => {
  if (!line) return;
  draw();
  const b = el("b-question");
  const n = run?.marks.filter((m) => m.mark === "question").length ?? 0;
  b.hidden = view() !== "fly";
  b.firstChild && (b.firstChild.textContent = n ? `asked ${n} ` : "asked a question ");
}, 100);

for (const d of document.querySelectorAll(".dir")) {
  d.addEventListener("click", () => out(/** @type {SVGElement} */ (d).dataset.out ?? ""));
}
el("ring").addEventListener("click", tapRing);
el("b-main").addEventListener("click", main);
el("b-land").addEventListener("click", landed);
el("b-undo").addEventListener("click", undo);
el("b-question").addEventListener("click", question);
el("b-fault").addEventListener("click", () => show("fault"));
el("b-wind").addEventListener("click", () => show("wind"));
el("touch-keep").addEventListener("click", () => touched(true));
el("touch-skip").addEventListener("click", () => touched(false));
el("b-glare").addEventListener("click", () => {
  document.documentElement.dataset.theme = document.documentElement.dataset.theme === "glare" ? "day" : "glare";
});
const back = () => show(run ? "fly" : "start");
for (const b of document.querySelectorAll("[data-back]")) b.addEventListener("click", back);
el("view-fault").addEventListener("click", (e) => {
  const b = e.target instanceof Element ? /** @type {HTMLElement | null} */ (e.target.closest("[data-fault]")) : null;
  if (!b) return;
  put("fault", { code: b.dataset.fault });
  show("fly");
});
for (const b of document.querySelectorAll("[data-void]")) {
  b.addEventListener("click", () => {
    put("void", { reason: /** @type {HTMLElement} */ (b).dataset.void });
    show("fly");
  });
}
el("choose").addEventListener("change", () => line.choose());

el("wind-form").addEventListener("submit", async (e) => {
  e.preventDefault();
  const form = new FormData(/** @type {HTMLFormElement} */ (e.target));
  const body = new URLSearchParams({ id: newId() });
  for (const [k, v] of form) body.set(k, String(v));
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
    back();
  } catch (x) {
    wrong.textContent =
      x instanceof TypeError
        ? "No network: the wind was not kept. Try again when it is back."
        : String(x instanceof Error ? x.message : x);
    wrong.hidden = false;
  }
});

document.addEventListener("keydown", (e) => {
  if (!line || el("pad").getClientRects().length === 0) return;
  const t = e.target;
  if (e.ctrlKey || e.metaKey || e.altKey || (t instanceof HTMLElement && t.matches("input, select"))) {
    if (e.key === "Escape") back();
    return;
  }
  const v = view();
  const onButton = t instanceof HTMLElement && t.matches("button, a, summary");
  if (e.key === "Escape" && v !== "fly" && v !== "verdict") return back();
  if (v === "touch" && touch) {
    const s = { ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] }[e.key];
    if (s) {
      e.preventDefault();
      const grain = config.offset / 8;
      setTouch(touch.right + s[0] * grain, touch.away + s[1] * grain);
    } else if (e.key === "Enter" && touch.set && !onButton) touched(true);
    return;
  }
  if (v === "fly") {
    const toward = { ArrowUp: "away", ArrowDown: "toward", ArrowLeft: "left", ArrowRight: "right" }[e.key];
    const does = {
      c: happen,
      l: landed,
      f: () => show("fault"),
      u: undo,
      q: question,
      p: () => {
        if (
          (kind() === "turn" && run?.turning) ||
          (kind() === "path" && way().begun && (config.steps[run?.state?.step ?? 0].corners ?? 0) > 0)
        )
          tapRing();
      },
    }[e.key.toLowerCase()];
    if (toward) {
      e.preventDefault();
      out(toward);
    } else if (e.key === " " && !onButton) {
      e.preventDefault();
      const on = t instanceof SVGElement ? /** @type {SVGElement} */ (t.closest("[data-out]"))?.dataset.out : undefined;
      on ? out(on) : tapRing();
    } else if (does) does();
  }
  if (e.key === "Enter" && !onButton && ["start", "fly", "verdict"].includes(v)) {
    e.preventDefault();
    const on = t instanceof SVGElement ? /** @type {SVGElement} */ (t.closest("[data-out]"))?.dataset.out : undefined;
    if (on) out(on);
    else if (t instanceof SVGElement && t.closest("#ring")) tapRing();
    else main();
  }
});

/** Opens the pad on a cell; an attempt that was being marked when the page was closed
 * goes on where it is of the same cell, and is sent where it is not.
 * @param {Config} of @param {Line} behind @param {Run | null} left */
export function openPad(of, behind, left) {
  config = of;
  line = behind;
  unit = (config.offset || 1) / 60;
  run = left;
  touch = null;
  if (run && Date.now() - run.t0 < 3600_000 && run.opening.drill === config.drill && run.opening.side === config.side) {
    show("fly");
    send();
    return;
  }
  if (run && unsent().length > 0) {
    send().then(() => {
      run = null;
      keep();
    });
  } else if (run) {
    run = null;
    keep();
  }
  setMain("Start");
  show("start");
}
addEventListener("online", () => {
  if (run) send();
});
