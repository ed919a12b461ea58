// The reflex trainer: shows a craft at an aspect, measures from the frame that was shown
// to the first movement of the sticks, and sends it. The server says whether it was right,
// and what comes next.
import { pad, read, useRadios } from "./fly-sticks.js";
import { newId } from "../frame/ids.js";
import { Frames, Rest, tone } from "./reflex-sense.js";

/** @typedef {{key: string, words: string, aspect_deg: number, drift_deg: number | null, yaw: boolean}} Item */
/** @typedef {{pitch: number, roll: number, yaw: number}} First */

const el = (/** @type {string} */ id) => /** @type {HTMLElement} */ (document.getElementById(id));
const config = JSON.parse(el("reflex-config").dataset.config ?? "{}");
useRadios(config.radios ?? {});
/** @type {Item} */
let item = config.item;
let shown = 0; // when its first frame was drawn
let end = 0; // of the session
let asked = 0;
let right = 0;
let away = false; // the page was out of sight while the item was shown
let stood = false; // the display stood still meanwhile
let state = "idle"; // idle, settling (the sticks are let go of), shown, answered

const svg = /** @type {SVGSVGElement} */ (/** @type {unknown} */ (el("reflex-craft")));

/** Draws the craft as the pilot sees it: from a little below, the nose at its aspect.
 * @param {number} t seconds since it was shown */
function draw(t) {
  const n = (/** @type {number} */ v) => v.toFixed(1);
  const a = (item.aspect_deg * Math.PI) / 180;
  const drift = item.drift_deg === null ? null : (item.drift_deg * Math.PI) / 180;
  const x0 = drift === null ? 0 : 34 * Math.sin(drift) * Math.min(t, 2.4);
  const grow = drift === null ? 1 : 1 - 0.16 * Math.cos(drift) * Math.min(t, 2.4);
  const place = (/** @type {number} */ right, /** @type {number} */ ahead, up = 0) => {
    const x = right * Math.cos(a) + ahead * Math.sin(a);
    const y = -right * Math.sin(a) + ahead * Math.cos(a);
    const near = 1 - y / 420; // what is nearer looks larger
    return [150 + x0 + x * grow * near, 108 - y * 0.32 * grow - up * grow];
  };
  const parts = [];
  const arms = [
    [-52, 52, "nose"],
    [52, 52, "nose"],
    [-52, -52, "tail"],
    [52, -52, "tail"],
  ];
  const lines = [];
  for (const [r, f, end] of /** @type {[number, number, string][]} */ (arms)) {
    const [x, y] = place(r, f);
    const [mx, my] = place(0, 0);
    lines.push({
      depth: -r * Math.sin(a) + f * Math.cos(a),
      text:
        `<path class="arm ${end}" d="M${n(mx)} ${n(my)}L${n(x)} ${n(y)}"/>` +
        `<ellipse class="disc ${end}" cx="${n(x)}" cy="${n(y - 4)}" rx="${n(25 * grow)}" ry="${n(7 * grow)}"/>`,
    });
  }
  lines.sort((p, q) => q.depth - p.depth); // the farthest first
  parts.push(...lines.map((l) => l.text));
  const [bx, by] = place(0, 0);
  const [nx, ny] = place(0, 30);
  parts.push(`<ellipse class="body" cx="${n(bx)}" cy="${n(by)}" rx="${n(17 * grow)}" ry="${n(10 * grow)}"/>`);
  parts.push(`<circle class="beak" cx="${nx.toFixed(1)}" cy="${ny.toFixed(1)}" r="${(5.5 * grow).toFixed(1)}"/>`);
  el("reflex-parts").innerHTML = parts.join("");
}

/** @param {string} words @param {string} [kind] */
function say(words, kind = "") {
  el("reflex-say").textContent = words;
  el("reflex-say").className = `reflex-say ${kind}`;
}

function settle() {
  state = "settling";
  say("…");
  el("reflex-ask").textContent = item.words;
  el("reflex-parts").innerHTML = "";
}

const rest = new Rest();
const frames = new Frames();
let sound = false;
/** The radio's sticks from where they rest. */
const sticks = () => rest.from(read());
const still = () => {
  if (!pad()) return true;
  const s = sticks();
  return Math.hypot(s.pitch, s.roll) < 0.2 && Math.abs(s.yaw) < 0.2;
};

/** The tests do not wait for a person to get ready. @returns {number} */
const pace = () => (hasty() ? 0.05 : 1);
const hasty = () => Boolean(/** @type {{maestraleHaste?: boolean}} */ (globalThis).maestraleHaste);

let from = 0;
/** @param {number} now */
function frame(now) {
  requestAnimationFrame(frame);
  if (frames.stalled(now) && state === "shown" && !hasty()) stood = true;
  if (end && now > end && state !== "idle") return over();
  if (end) el("reflex-left").textContent = `${Math.max(0, Math.ceil((end - now) / 1000))} s`;
  if (state === "settling") {
    if (!still()) {
      say(rest.learn(read(), now) ?? "let go of the sticks");
      from = now;
    } else if (now - from > 600 * pace()) {
      state = "shown";
      away = document.hidden;
      stood = false;
      draw(0);
      if (sound) tone(520, 0.05);
      say("");
      // What is drawn in this frame is seen with the next.
      requestAnimationFrame((at) => {
        shown = at;
      });
      shown = now;
    }
  } else if (state === "shown") {
    draw((now - shown) / 1000);
    if (pad()) {
      const s = sticks();
      if (Math.hypot(s.pitch, s.roll) > 0.35 || Math.abs(s.yaw) > 0.35)
        answer({ pitch: s.pitch, roll: s.roll, yaw: s.yaw });
    }
    if (now - shown > 6000) answer({ pitch: 0, roll: 0, yaw: 0 });
  }
}

/** @param {First} first */
async function answer(first) {
  if (state !== "shown") return;
  state = "answered";
  const seconds = Math.min(60, Math.max(0, (performance.now() - shown) / 1000));
  const clip = (/** @type {number} */ v) => Math.max(-1, Math.min(1, v));
  try {
    const reply = await fetch(config.post, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({
        id: newId(),
        item: item.key,
        seconds,
        pitch: clip(first.pitch),
        roll: clip(first.roll),
        yaw: clip(first.yaw),
        void: away || stood,
      }),
    });
    const got = await reply.json();
    if (!reply.ok) throw new Error(got.error);
    if (got.void) say(away ? "void: the page was out of sight" : "void: the display stood still for a moment");
    else {
      asked++;
      if (got.right) right++;
      say(got.right ? `right, ${seconds.toFixed(2)} s${frames.words()}` : "the other way", got.right ? "good" : "bad");
      if (sound) tone(got.right ? 780 : 190, 0.12);
    }
    el("reflex-count").textContent = `${right} of ${asked}`;
    el("reflex-advice").replaceChildren(
      ...got.advice.map((/** @type {string} */ t) => Object.assign(document.createElement("p"), { textContent: t })),
    );
    item = got.next;
    setTimeout(
      () => {
        if (state === "answered") {
          from = performance.now();
          settle();
        }
      },
      (got.right ? 350 : 900) * pace(),
    );
  } catch (e) {
    state = "idle";
    end = 0;
    say(
      e instanceof TypeError
        ? "No network: the answer was not saved. Start again when it is back."
        : String(e instanceof Error ? e.message : e),
      "bad",
    );
  }
}

/** @param {number} minutes */
function begin(minutes) {
  end = performance.now() + minutes * 60_000;
  asked = right = 0;
  from = performance.now();
  el("reflex-count").textContent = "";
  settle();
  svg.focus();
}

function over() {
  state = "idle";
  end = 0;
  el("reflex-left").textContent = "";
  el("reflex-ask").textContent = "Enough for now";
  say(asked ? `${right} of ${asked} right` : "nothing was asked");
}

const keys = /** @type {Record<string, First>} */ ({
  ArrowUp: { pitch: 1, roll: 0, yaw: 0 },
  ArrowDown: { pitch: -1, roll: 0, yaw: 0 },
  ArrowLeft: { pitch: 0, roll: -1, yaw: 0 },
  ArrowRight: { pitch: 0, roll: 1, yaw: 0 },
  a: { pitch: 0, roll: 0, yaw: -1 },
  d: { pitch: 0, roll: 0, yaw: 1 },
});
document.addEventListener("keydown", (e) => {
  if (
    e.ctrlKey ||
    e.metaKey ||
    e.altKey ||
    (e.target instanceof HTMLElement && e.target.closest("dialog, input, select, textarea"))
  )
    return;
  if (
    e.key === "Enter" &&
    state === "idle" &&
    !(e.target instanceof HTMLButtonElement) &&
    !(e.target instanceof HTMLAnchorElement)
  )
    return begin(2);
  if (e.key.toLowerCase() === "o") return turnSound();
  const first = keys[e.key.length === 1 ? e.key.toLowerCase() : e.key];
  if (!first || state === "idle") return;
  e.preventDefault();
  answer(first);
});
for (const b of document.querySelectorAll("[data-stick]")) {
  b.addEventListener("pointerdown", (e) => {
    e.preventDefault();
    const asked = /** @type {HTMLElement} */ (b).dataset.stick ?? "0 0 0";
    const [pitch, roll, yaw] = asked.split(" ").map(Number);
    answer({ pitch, roll, yaw });
  });
}
for (const b of document.querySelectorAll("[data-minutes]"))
  b.addEventListener("click", () => begin(Number(/** @type {HTMLElement} */ (b).dataset.minutes)));
function turnSound() {
  sound = !sound;
  el("reflex-sound").setAttribute("aria-pressed", String(sound));
  if (sound) tone(520, 0.05);
}
el("reflex-sound").addEventListener("click", turnSound);
document.addEventListener("visibilitychange", () => {
  if (document.hidden) away = true;
});
requestAnimationFrame(frame);

// For the tests, which look at what is asked.
Object.assign(globalThis, { maestraleReflex: { get: () => ({ ...item, state, asked, right }) } });
