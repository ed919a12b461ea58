// The instructor's panel: a student's flight as it is flown, and what may happen
// to it. Nothing is flown here.
import { address } from "./fly-live.js";
import { gauges } from "./fly-gauges.js";
import { Scene } from "./fly-scene.js";

/** @template {HTMLElement} E @param {string} id @returns {E} */
const el = (id) => /** @type {E} */ (document.getElementById(id));
const panel = el("watch");
/** @type {import("./fly-scene.js").Look & {student: string, run: string, aids: {words: string}[], modes: string[]}} */
const config = JSON.parse(panel.dataset.config ?? "{}");
const at = Object.fromEntries(config.fields.map((name, i) => [name, i]));
/** @type {{s: Float64Array, at: number}[]} the two newest pictures */
let seen = [];
const axes = { throttle: 0, yaw: 0, pitch: 0, roll: 0, wheel: 0 };
/** @type {[number, number][]} */
const path = [];
/** @type {Scene | null} */
let scene = null;
/** @type {Map<string, HTMLElement>} */
const sent = new Map();
let lines = 0;

/** @param {string} text */
const status = (text) => {
  el("w-state").textContent = text;
};

if (config.run) {
  try {
    scene = new Scene(el("view"), config, at).furnished();
  } catch {
    status("This browser draws no WebGL: the insets are all there is to see");
  }
  requestAnimationFrame(frame);
}

function connect() {
  const line = new WebSocket(address(`/students/${config.student}/watch/live`));
  line.addEventListener("message", (e) => {
    const m = JSON.parse(e.data);
    if (m.changed) {
      if (!config.run) location.reload();
      else next();
      return;
    }
    picture(m);
  });
  line.addEventListener("close", () => {
    setTimeout(connect, Math.min(10_000, 500 * 2 ** lines++));
  });
  line.addEventListener("open", () => {
    lines = 0;
  });
}

/** Another flight began, or this one ended: what is drawn is of the last one. */
async function next() {
  status("This run has ended, or another began.");
  el("w-next").hidden = false;
  for (const b of panel.querySelectorAll("button[data-event]")) /** @type {HTMLButtonElement} */ (b).disabled = true;
}

/** @param {{s: number[], k: number[], got?: string[], paused?: boolean}} m */
function picture(m) {
  if (!config.run || m.s.length !== config.fields.length) return;
  const s = Float64Array.from(m.s);
  seen = [...seen.slice(-1), { s, at: performance.now() }];
  [axes.throttle, axes.yaw, axes.pitch, axes.roll] = m.k;
  const [x, y] = [s[at.x], s[at.y]];
  if (path.length === 0 || Math.hypot(path[path.length - 1][0] - x, path[path.length - 1][1] - y) > 0.1)
    path.push([x, y]);
  for (const id of m.got ?? []) {
    const li = sent.get(id);
    if (li) li.textContent = `${s[at.t].toFixed(1)} s: ${li.dataset.words}`;
  }
  status(m.paused ? "Paused by the pilot" : s[at.crashed] ? "Crashed" : "Live");
  panel.dataset.t = String(s[at.t]);
}

/** What is drawn now: between the two newest pictures, a tenth of a second late. */
function between() {
  const [a, b] = seen;
  if (!b) return a?.s;
  const span = Math.max(1, b.at - a.at),
    u = Math.max(0, Math.min(1, (performance.now() - b.at) / span));
  const s = Float64Array.from(b.s);
  for (const name of ["x", "y", "z", "middle", "tilt", "t", "airX", "airY"])
    s[at[name]] = a.s[at[name]] + u * (b.s[at[name]] - a.s[at[name]]);
  const same = ["qw", "qx", "qy", "qz"].reduce((d, n) => d + a.s[at[n]] * b.s[at[n]], 0) < 0 ? -1 : 1;
  for (const n of ["qw", "qx", "qy", "qz"]) s[at[n]] = a.s[at[n]] * (1 - u) + same * b.s[at[n]] * u;
  const l = Math.hypot(s[at.qw], s[at.qx], s[at.qy], s[at.qz]) || 1;
  for (const n of ["qw", "qx", "qy", "qz"]) s[at[n]] /= l;
  return s;
}

function frame() {
  const s = between();
  if (s) {
    scene?.draw(s);
    gauges(config, s, at, axes, 2, path);
  }
  requestAnimationFrame(frame);
}

/** Lets something happen to the run. @param {string} event */
async function happen(event) {
  const r = await fetch(`/students/${config.student}/watch`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ run: config.run, event }),
  }).catch(() => null);
  const found = r ? await r.json().catch(() => ({})) : { error: "There is no network." };
  const li = document.createElement("li");
  if (found.id) {
    li.dataset.words = found.words;
    li.textContent = `sent: ${found.words}`;
    sent.set(found.id, li);
  } else {
    li.textContent = `${found.error ?? "It was not sent."} ${found.do ?? ""}`;
  }
  el("w-sent").prepend(li);
}

panel.addEventListener("click", (e) => {
  const b = /** @type {HTMLElement} */ (e.target).closest("button[data-event]");
  if (!(b instanceof HTMLElement)) return;
  const event = (b.dataset.event ?? "").replace(
    "{rotor}",
    /** @type {HTMLSelectElement | null} */ (document.getElementById("w-rotor"))?.value ?? "1",
  );
  void happen(event);
});
const view = document.getElementById("w-view");
view?.addEventListener("click", () => {
  if (!scene) return;
  const all = ["pilot", "chase", "onboard"];
  scene.view = all[(all.indexOf(scene.view) + 1) % 3];
  view.textContent = ["As the pilot sees it", "From behind the craft", "From on board"][all.indexOf(scene.view)];
});
connect();
