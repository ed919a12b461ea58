// What the rotors do: a craft on a bench, its rotors set one by one or by the
// sticks, and questions that are answered by doing. The bench is core/flight's.

import { loadSim } from "./sim.js";

/** @template {HTMLElement} E @param {string} id @returns {E} */
const el = (id) => /** @type {E} */ (document.getElementById(id));
const page = el("mixing");
/**
 * @type {{numbers: number[], names: string[], rotors: {arm_m: number, angle_rad: number, clockwise: boolean}[],
 *   radius_m: number, span_m: number}}
 */
const config = JSON.parse(page.dataset.config ?? "{}");
/** @type {any} */
const all = globalThis;
const n = config.rotors.length;
/** @type {{key: string, ask: string, rotors: boolean, shown: number[] | null}[]} */
let questions = [];
let at = -1,
  right = 0,
  tried = 0,
  answered = false,
  last = 0;
/** @type {Record<string, number>} */
let f = {};
let state = new Float64Array(0);
const rotorInputs = /** @type {HTMLInputElement[]} */ ([...page.querySelectorAll("[data-rotor]")]);
const stickInputs = /** @type {HTMLInputElement[]} */ ([...page.querySelectorAll("[data-stick]")]);
const css = (/** @type {string} */ name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

/** Shows how the inputs stand. */
function told() {
  for (const i of [...rotorInputs, ...stickInputs]) el(`${i.id}-now`).textContent = i.value;
}

function byRotors() {
  for (const i of stickInputs) i.value = "0";
  const wrong = all.maestraleBench.rotors(rotorInputs.map((i) => Number(i.value) / 100));
  el("mix-kept").textContent = wrong || "";
  told();
}

function bySticks() {
  const v = stickInputs.map((i) => Number(i.value) / 100);
  const set = JSON.parse(all.maestraleBench.sticks(v[0], v[1], v[2], v[3]));
  set.rotors.forEach((/** @type {number} */ share, /** @type {number} */ i) => {
    rotorInputs[i].value = String(Math.round(100 * share));
  });
  el("mix-kept").textContent = set.said;
  told();
}

function level() {
  for (const i of rotorInputs) i.value = "100";
  for (const i of stickInputs) i.value = "0";
  all.maestraleBench.level();
  el("mix-kept").textContent = "";
  told();
}

/** Puts a question. @param {number} i */
function ask(i) {
  at = i;
  answered = false;
  const q = questions[i];
  level();
  el("mix-number").textContent = `${q.rotors ? "answer with the rotors" : "answer with a stick"}`;
  el("mix-ask").textContent = q.ask;
  el("mix-answer").textContent = "";
  for (const input of rotorInputs) input.disabled = !q.rotors;
  for (const input of stickInputs) input.disabled = q.rotors;
  if (q.shown) {
    q.shown.forEach((share, j) => {
      rotorInputs[j].value = String(Math.round(100 * share));
    });
    told();
  }
}

function next() {
  // Rotors and sticks by turns, in an order that is not learnt.
  const pool = questions
    .map((_, i) => i)
    .filter((i) => i !== at && questions[i].rotors !== (questions[at]?.rotors ?? false));
  ask(pool[Math.floor(Math.random() * pool.length)]);
}

function check() {
  const a = JSON.parse(all.maestraleBench.answer(questions[at].key));
  if (!answered) {
    tried++;
    if (a.right) right++;
  }
  answered = true;
  el("mix-answer").textContent = `${a.right ? "✓ Right." : "✕ Not yet."} ${a.why}`;
  el("mix-count").textContent = `${right} of ${tried} at the first try`;
  if (a.right) free();
}

/** After an answer everything may be moved. */
function free() {
  for (const i of [...rotorInputs, ...stickInputs]) i.disabled = false;
}

function show() {
  const q = questions[at];
  if (!answered) {
    tried++;
    answered = true;
  }
  const other = questions.find(
    (o) => o.shown && o.key.replace(/-sticks$/, "") === q.key.replace(/-(rotors|sticks)$/, ""),
  );
  other?.shown?.forEach((share, i) => {
    rotorInputs[i].value = String(Math.round(100 * share));
  });
  byRotors();
  const a = JSON.parse(all.maestraleBench.answer(q.key));
  el("mix-answer").textContent = a.why;
  el("mix-count").textContent = `${right} of ${tried} at the first try`;
  free();
}

/** @param {string} id @returns {[CanvasRenderingContext2D, number, number]} */
function sheet(id) {
  const c = /** @type {HTMLCanvasElement} */ (el(id)),
    g = /** @type {CanvasRenderingContext2D} */ (c.getContext("2d"));
  g.clearRect(0, 0, c.width, c.height);
  g.font = "13px Archivo, sans-serif";
  g.textAlign = "center";
  return [g, c.width, c.height];
}

/**
 * An arc with a head, clockwise on the screen or against. @param {CanvasRenderingContext2D} g @param {number} x
 *   @param {number} y @param {number} r @param {number} from @param {number} by
 */
function arrow(g, x, y, r, from, by) {
  if (Math.abs(by) < 0.04) return;
  g.beginPath();
  g.arc(x, y, r, from, from + by, by < 0);
  g.stroke();
  const end = from + by,
    tip = Math.sign(by) * 0.5 * Math.PI + end,
    s = 4 + g.lineWidth;
  g.beginPath();
  g.moveTo(x + r * Math.cos(end) + s * Math.cos(tip), y + r * Math.sin(end) + s * Math.sin(tip));
  g.lineTo(x + (r + s * 0.8) * Math.cos(end), y + (r + s * 0.8) * Math.sin(end));
  g.lineTo(x + (r - s * 0.8) * Math.cos(end), y + (r - s * 0.8) * Math.sin(end));
  g.fill();
}

function draw() {
  const ink = css("--ink"),
    soft = css("--ink-soft"),
    calm = css("--calm"),
    act = css("--act"),
    line = css("--line");
  const fastest = Math.max(...config.rotors.map((_, i) => state[f[`share${i + 1}`]]), 1);
  {
    const [g, w, h] = sheet("mix-top");
    const k = (Math.min(w, h) * 0.31) / Math.max(...config.rotors.map((r) => r.arm_m)),
      rr = Math.min(52, config.radius_m * k);
    g.save();
    g.translate(w / 2, h / 2);
    g.rotate(state[f.heading]);
    g.strokeStyle = soft;
    g.lineWidth = 5;
    for (const r of config.rotors) {
      g.beginPath();
      g.moveTo(0, 0);
      g.lineTo(r.arm_m * k * Math.sin(r.angle_rad), -r.arm_m * k * Math.cos(r.angle_rad));
      g.stroke();
    }
    g.fillStyle = ink;
    g.fillRect(-14, -24, 28, 48);
    g.fillStyle = act;
    g.beginPath();
    g.moveTo(0, -46);
    g.lineTo(13, -24);
    g.lineTo(-13, -24);
    g.fill();
    config.rotors.forEach((r, i) => {
      const x = r.arm_m * k * Math.sin(r.angle_rad),
        y = -r.arm_m * k * Math.cos(r.angle_rad),
        share = state[f[`share${i + 1}`]];
      g.lineWidth = 1;
      g.strokeStyle = soft;
      g.fillStyle = css("--paper");
      g.beginPath();
      g.arc(x, y, rr, 0, 7);
      g.fill();
      g.stroke();
      // The way it spins, as long as it is fast; the torque on the craft the other
      // way round, as thick as it is strong.
      g.strokeStyle = g.fillStyle = calm;
      g.lineWidth = 2.5;
      arrow(g, x, y, rr * 0.72, -Math.PI / 2, (((r.clockwise ? 1 : -1) * share) / fastest) * 4.2);
      g.strokeStyle = g.fillStyle = act;
      g.lineWidth = 1 + 3.5 * share * share;
      arrow(g, x, y, rr + 10, -Math.PI / 2, (r.clockwise ? -1 : 1) * Math.min(1.4, 0.9 * share * share));
      g.save();
      g.translate(x, y);
      g.rotate(-state[f.heading]);
      g.fillStyle = ink;
      g.fillText(`${i + 1}`, 0, -1);
      g.fillText(`${Math.round(100 * share)} %`, 0, 14);
      g.restore();
    });
    g.restore();
    g.strokeStyle = g.fillStyle = act;
    g.lineWidth = 4;
    arrow(g, w / 2, h / 2, Math.min(w, h) * 0.46, -Math.PI / 2, Math.max(-1.4, Math.min(1.4, state[f.yaw])));
    g.textAlign = "left";
    g.fillStyle = calm;
    g.fillText("inside each: the way it spins", 8, h - 26);
    g.fillStyle = act;
    g.fillText("outside: the torque that it puts on the craft; outermost, all together", 8, h - 8);
  }
  for (const [id, lean, what] of /** @type {[string, number, string][]} */ ([
    ["mix-behind", state[f.roll], "from behind"],
    ["mix-side", state[f.pitch], "from its left, nose to the left"],
  ])) {
    const [g, w, h] = sheet(id);
    g.strokeStyle = line;
    g.lineWidth = 1;
    for (const y of [0.2, 0.5, 0.8]) {
      g.beginPath();
      g.moveTo(0, h * y);
      g.lineTo(w, h * y);
      g.stroke();
    }
    g.save();
    g.translate(w / 2, h / 2 - (state[f.height] / 1.5) * h * 0.3);
    g.rotate(lean);
    g.fillStyle = ink;
    g.fillRect(-62, -3, 124, 6);
    g.fillRect(-16, -2, 32, 16);
    g.strokeStyle = calm;
    g.lineWidth = 3;
    for (const x of [-62, 62]) {
      g.beginPath();
      g.moveTo(x - 26, -8);
      g.lineTo(x + 26, -8);
      g.stroke();
    }
    if (id === "mix-side") {
      g.fillStyle = act;
      g.beginPath();
      g.moveTo(-30, 6);
      g.lineTo(-16, 0);
      g.lineTo(-16, 12);
      g.fill();
    }
    g.restore();
    g.fillStyle = soft;
    g.fillText(what, w / 2, h - 8);
  }
}

/** @param {number} seconds */
function step(seconds) {
  for (let left = seconds; left > 0; left -= 0.05) all.maestraleBench.step(Math.min(left, 0.05), state);
}

/** @param {number} now */
function frame(now) {
  if (!all.maestraleHeld) step(Math.min(0.1, (now - last) / 1000));
  last = now;
  draw();
  requestAnimationFrame(frame);
}

async function load() {
  await loadSim(page.dataset.wasm ?? "");
  const wrong = all.maestraleBench.begin(config.numbers, config.names);
  if (wrong) throw new Error(wrong);
  f = all.maestraleBench.fields;
  state = new Float64Array(Object.keys(f).length);
  questions = JSON.parse(all.maestraleBench.questions());
  const fastest = Math.floor(100 * all.maestraleBench.fastest());
  for (const i of rotorInputs) {
    i.max = String(Math.min(200, fastest));
    i.addEventListener("input", byRotors);
  }
  for (const i of stickInputs) i.addEventListener("input", bySticks);
  el("mix-check").addEventListener("click", check);
  el("mix-show").addEventListener("click", show);
  el("mix-next").addEventListener("click", next);
  el("mix-level").addEventListener("click", level);
  for (const id of ["mix-check", "mix-show", "mix-next"]) /** @type {HTMLButtonElement} */ (el(id)).disabled = false;
  step(0.02);
  ask(0);
  requestAnimationFrame(frame);
}

// For the tests, which step the bench and put the questions that they want.
all.maestraleMixing = {
  step,
  ask: (/** @type {string} */ key) => ask(questions.findIndex((q) => q.key === key)),
  get: (/** @type {string} */ name) => state[f[name]],
  count: n,
};
load().catch((e) => {
  el("mix-ask").textContent = `The bench did not load: ${e instanceof Error ? e.message : e}. Reload the page.`;
});
export {};
