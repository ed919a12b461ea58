// The Fly screen: it reads the sticks, lets the simulator fly them, draws what it
// says, and sends the trace. The simulator flies; the server judges.
import { gauges } from "./fly-gauges.js";
import { end as endLine, picture, tell } from "./fly-live.js";
import { hearRotors, soundOff, soundOn, sounds } from "./fly-sound.js";
import {
  forget,
  isStick,
  keyDown,
  keyUp,
  letGo,
  middle,
  mode,
  pad,
  read,
  rest,
  spring,
  switches,
  touch,
  touchSticks,
  unplugged,
  useRadios,
} from "./fly-sticks.js";
import { showResult } from "./fly-result.js";
import { Scene } from "./fly-scene.js";
import { stretched } from "./fly-slow.js";
import { showStep } from "./fly-step.js";
import { deliverRun } from "./deliver.js";
import { centimetres, keepSeat, seatNow, sizeWords } from "./screen.js";
import { loadSim } from "./sim.js";

/** @template {HTMLElement} E @param {string} id @returns {E} */
const el = (id) => /** @type {E} */ (document.getElementById(id));
const main = el("fly");
/**
 * @type {import("./fly-scene.js").Look & {student: string, hide_nose?: boolean, spec: Record<string, any>,
 *   numbers: number[], names: string[], start: [number, number, number, number], gate_numbers: number[],
 *   gate_names: string[], lost?: import("./fly-dot.js").Lost,
 *   radios: Record<string, import("./radio-map.js").Settings>, aid: number, aids: {key: string, words: string,
 *   has: boolean, holds_height: boolean}[], frames: string[], modes: string[], words: string[] | null}}
 */
const config = JSON.parse(main.dataset.config ?? "{}");
/** @type {any} */
const page = globalThis;
/** The numbers of the state; at names where each stands.
 * @type {import("./fly-scene.js").Fields} */
const at = Object.fromEntries(config.fields.map((name, i) => [name, i]));
const state = new Float64Array(config.fields.length);
const run = {
  id: "",
  shown: 0,
  gentle: false,
  asked: "",
  on: false,
  paused: false,
  over: false,
  aids: config.aid,
  frame: 0,
  owed: 0,
  last: 0,
  moved: false, // in the picture before
  drawn: 0,
  said: "",
  flownAt: "",
  zoomed: false,
  calls: 0,
};
/** @type {[number, number][]} */
const path = [];
/** @type {ReturnType<typeof sceneOf>} */
let scene;
let drawn = false;
let axes = { throttle: -1, yaw: 0, pitch: 0, roll: 0, wheel: 0 };

/** @typedef {{view: string, zoom: boolean, dot: null, draw: (s: Float64Array) => void, reveal: () => void,
 *   mark: (p: [number, number, number] | null) => void, parts: () => (() => void)[],
 *   warm: (turn: () => Promise<unknown>) => Promise<any>, warmed: () => Promise<any>}} NoView */

/** The view, or what stands in for one where the browser draws no WebGL. @returns {Scene | NoView} */
function sceneOf() {
  try {
    return new Scene(el("view"), config, at);
  } catch {
    say("This browser draws no WebGL: the insets are all there is to see");
    const nothing = () => {};
    return {
      view: "pilot",
      zoom: false,
      dot: null,
      draw: nothing,
      reveal: nothing,
      mark: nothing,
      parts: () => [],
      warm: async () => {},
      warmed: async () => {},
    };
  }
}

/** Ends once the page has had its turn. */
const turn = () => new Promise((done) => setTimeout(done));

function draw() {
  if (scene.dot?.near(state[at.x], state[at.y])) find();
  scene.draw(state);
  gauges(config, state, at, axes, mode(), path);
  el("f-arm").firstChild?.replaceWith(state[at.armed] ? "Stop the motors " : "Start the motors ");
  if (sounds())
    hearRotors(
      config.craft.rotors.map((_, i) => state[at.rotor1 + i]),
      config.craft.blades,
      config.craft.hover_rps,
      Math.hypot(state[at.x], state[at.y], state[at.z]),
      run.on && !run.paused && !run.over,
    );
}

/** Says something over the view for a while. @param {string} text */
function say(text) {
  el("f-say").textContent = text;
  run.said = text;
  if (text)
    setTimeout(() => {
      if (run.said === text) el("f-say").textContent = "";
    }, 4000);
}

async function load() {
  const comes = loadSim(main.dataset.wasm ?? "");
  comes.catch(() => {}); // it is told below
  await build(comes);
  await comes;
  await turn();
  prepare();
  const b = el("f-start");
  /** @type {HTMLButtonElement} */ (b).disabled = false;
  b.textContent = "Start the run";
  b.focus({ preventScroll: true });
}

/** Builds the view and draws the craft where it will begin, while the simulator is still on its way.
 * @param {Promise<void>} comes */
async function build(comes) {
  useRadios(config.radios);
  let here = false; // the simulator has arrived: a first picture is no longer worth waiting for
  const told = () => (here = true);
  comes.then(told, told);
  const pauses = async () => {
    if (!here) await turn();
  };
  const [x, y, z, heading] = config.start;
  const begins = { x, y, z, middle: z, heading, qw: Math.cos(heading / 2), qz: -Math.sin(heading / 2), picture: 1 };
  for (const [name, v] of Object.entries(begins)) state[at[name]] = v;
  await pauses();
  const built = sceneOf();
  for (const part of built.parts()) {
    await pauses();
    part();
  }
  scene = built;
  if (!here) await built.warm(pauses);
  if (!here) await Promise.race([built.warmed(), comes]);
  if (here) return;
  built.draw(state);
  drawn = true;
}

function prepare() {
  const wrong = page.maestraleSim.begin(
    config.numbers,
    config.names,
    config.spec,
    config.gate_numbers,
    config.gate_names,
  );
  if (wrong) throw new Error(wrong);
  if (config.lost) followLost(config.lost, config.spec);
  rest();
  flyWith(config.aid);
  page.maestraleSim.reading(0, -1, 0, 0, 0, 0, run.aids, 0, state);
  draw();
}

/** Lets the simulator follow what could be known, for the coach.
 * @param {import("./fly-dot.js").Lost} lost @param {Record<string, any>} spec */
function followLost(lost, spec) {
  const wrong = page.maestraleSim.watch(
    lost.speed_mps,
    lost.yaw_dps,
    spec.wind_mps,
    spec.wind_from_deg,
    ...lost.station,
  );
  if (wrong) throw new Error(wrong);
  main.classList.add("lost");
  for (const id of ["f-view", "f-zoom"]) /** @type {HTMLButtonElement} */ (el(id)).disabled = true;
}

/** The craft is near enough to be seen as it is. */
function find() {
  scene.reveal();
  main.classList.remove("lost");
  for (const id of ["f-view", "f-zoom"]) /** @type {HTMLButtonElement} */ (el(id)).disabled = false;
  document.getElementById("f-coach")?.toggleAttribute("disabled", true);
  if (run.on) say("It is near enough to be seen: bring it to the pad and put it down");
}

/** Asks the lost-craft trainer's coach: the run is practice then. */
function ask() {
  if (!run.on || run.over || !scene.dot) return;
  const told = JSON.parse(page.maestraleSim.coach());
  if (told.says) say(`${told.says[0].toUpperCase()}${told.says.slice(1)}. The run is practice now`);
}

/** Switches the aids. @param {number} aids */
function flyWith(aids) {
  run.aids = aids;
  /** @type {HTMLSelectElement} */ (el("f-aids-pick")).value = String(aids);
  spring(config.aids[aids].holds_height);
}

function start() {
  el("f-brief").hidden = true;
  run.zoomed = scene.zoom;
  run.on = true;
  run.last = performance.now();
  run.flownAt = new Date().toISOString();
  run.id = crypto.randomUUID();
  el("f-asked").hidden = config.words === null;
  el("f-asked").toggleAttribute("open", innerWidth > 600); // on a phone it would hide the sky
  tell(
    config.student,
    run.id,
    config.spec,
    (event, by) => {
      if (!run.over) page.maestraleSim.happen(event, by);
    },
    (now) => showStep(now, scene),
  );
  for (const id of ["f-arm", "f-pause", "f-finish"]) /** @type {HTMLButtonElement} */ (el(id)).disabled = false;
  main.focus();
  if (state[at.armed]) {
    middle();
    say("It is in the air: your sticks");
  } else say("Throttle low, then start the motors");
}

/** Flies so many readings of 10 ms: the sticks are read for each.
 * @param {number} n */
function fly(n) {
  for (let i = 0; i < n && run.on && !run.over; i++) {
    if (unplugged()) {
      pause(true);
      say("The radio is gone: the run is paused. Plug it in, or press p to fly on by keys");
      forget();
      return;
    }
    axes = read();
    obey(switches());
    const on = page.maestraleSim.reading(
      1,
      axes.throttle,
      axes.yaw,
      axes.pitch,
      axes.roll,
      axes.wheel,
      run.aids,
      run.frame,
      state,
    );
    if (
      path.length === 0 ||
      Math.hypot(path[path.length - 1][0] - state[at.x], path[path.length - 1][1] - state[at.y]) > 0.1
    )
      path.push([state[at.x], state[at.y]]);
    hear();
    if (run.shown++ % 10 === 0 || !on) picture(state, axes, false);
    if (!on) void finish();
  }
}

/** Says what the drill calls out, for longer than other words stay. */
function hear() {
  const calls = page.maestraleSim.calls();
  if (calls === run.calls) return;
  run.calls = calls;
  const words = page.maestraleSim.said();
  const call = el("f-call");
  call.textContent = words;
  call.hidden = false;
  setTimeout(() => {
    if (run.calls === calls) call.hidden = true;
  }, 5000);
}

/** Flies with what the radio's switches ask for, once they ask for something else.
 * @param {{aids?: string, frame?: string}} sw */
function obey(sw) {
  const asked = `${sw.aids ?? ""}/${sw.frame ?? ""}`;
  if (asked === run.asked) return;
  run.asked = asked;
  const a = config.aids.findIndex((x) => x.key === sw.aids && x.has),
    f = config.frames.indexOf(sw.frame ?? "");
  if (a >= 0 && a !== run.aids) {
    flyWith(a);
    say(config.aids[a].words);
  }
  if (f >= 0 && f !== run.frame) frameTo(f);
}

/** @param {number} f */
function frameTo(f) {
  run.frame = f;
  if (config.frames[f] === "frozen") page.maestraleSim.happen("freeze", "");
  say(`Stick frame: ${config.frames[f]}`);
}

/** @param {number} now */
function frame(now) {
  if (run.on && !run.paused && !run.over && !page.maestraleHeld) {
    const asked = run.owed + (now - run.last) / 10;
    run.owed = Math.min(asked, 25); // a stalled page does not race
    stretched(10 * (asked - run.owed), now);
    const n = Math.floor(run.owed);
    run.owed -= n;
    fly(n);
  }
  run.last = now;
  const moves = run.on && !run.paused && !run.over;
  // What stands still is drawn twice a second, in case the window changes its size. A test that steps the simulator
  // asks for its own pictures.
  if (!page.maestraleHeld && (moves || run.moved || now - run.drawn > 400)) {
    draw();
    run.drawn = now;
  }
  run.moved = moves;
  requestAnimationFrame(frame);
}

/** @param {boolean} on */
function pause(on) {
  run.paused = on;
  picture(state, axes, on);
  letGo();
  el("f-pause").firstChild?.replaceWith(on ? "Go on " : "Pause ");
}

/** Lets something happen and says why it was refused, where it was.
 * @param {string} event @param {string} [done] */
function happen(event, done) {
  if (!run.on || run.over) return;
  page.maestraleSim.happen(event, "");
  const before = page.maestraleSim.refused();
  fly(1);
  const after = page.maestraleSim.refused().slice(before.length).trim();
  say(after ? `Refused: ${after.replace(/^[\w-]+: /, "")}` : (done ?? (state[at.armed] ? "Motors run" : "Motors off")));
}

const arm = () => happen(state[at.armed] ? "disarm" : "arm");

/** What forward on the stick refers to, the next of the three. */
function turnFrame() {
  frameTo((run.frame + 1) % config.frames.length);
}

/** Gentle halves what the sticks ask for. */
function turnGentle() {
  run.gentle = !run.gentle;
  happen(`gentle=${run.gentle ? "on" : "off"}`, `Gentle ${run.gentle ? "on" : "off"}`);
}

function takeOff() {
  happen("takeoff", "Takes off by itself");
  if (state[at.mode]) middle();
}
const land = () => happen("land", "Lands by itself");
const home = () => happen("home", "Flies home; any stick takes over");

function turnSound() {
  if (sounds()) soundOff();
  else soundOn(config.craft.rotors.length);
  el("f-sound").setAttribute("aria-pressed", String(sounds()));
}

/** @param {boolean} on */
function turnTouch(on) {
  el("f-touch").hidden = !on;
  el("f-touch-switch").setAttribute("aria-pressed", String(on));
  main.classList.toggle("touching", on);
  touch(on);
}

function zoom() {
  scene.zoom = !scene.zoom;
  run.zoomed = run.zoomed || (scene.zoom && run.on);
  say(scene.zoom ? "Zoom inset on: the run is practice" : "Zoom inset off");
}

/** The nose from above, for whoever asks: the run is practice then. */
function showNose() {
  if (!config.hide_nose) return;
  config.hide_nose = false;
  run.zoomed = true;
  el("f-nose").hidden = true;
  say("The plan shows the nose: the run is practice");
  draw();
}

/** Sets or takes away the fence. @param {string} fence radius and height in m; 0/0 for none */
function setFence(fence) {
  const [radius, high] = fence.split("/");
  happen(`fence=${fence}`, radius === "0" ? "Fence off" : `Fence: ${radius} m away and ${high} m up`);
}

/** Draws as large as the seat asks for. */
function sit() {
  const field = (/** @type {string} */ id) => /** @type {HTMLInputElement} */ (el(id)).value;
  const seat = { screen_cm: centimetres(field("f-screen"), 5, 400), away_cm: centimetres(field("f-away"), 15, 1000) };
  if (scene instanceof Scene) scene.seat = seat;
  keepSeat(seat);
  el("f-size").textContent = sizeWords(seat, el("view").clientHeight, screen.width);
  draw();
}

/** Fills in what was measured before. */
function seated() {
  const seat = seatNow();
  for (const [id, cm] of /** @type {[string, number][]} */ ([
    ["f-screen", seat.screen_cm],
    ["f-away", seat.away_cm],
  ])) {
    /** @type {HTMLInputElement} */ (el(id)).value = cm ? String(cm) : "";
    el(id).addEventListener("change", sit);
  }
  el("f-size").textContent = sizeWords(seat, el("view").clientHeight, screen.width);
}

async function finish() {
  if (!run.on || run.over) return;
  run.over = true;
  say("");
  for (const id of ["f-arm", "f-pause", "f-finish"]) /** @type {HTMLButtonElement} */ (el(id)).disabled = true;
  picture(state, axes, false);
  endLine();
  el("f-asked").hidden = true;
  if (sounds()) draw();
  const body = { id: run.id, flown_at: run.flownAt, trace: JSON.parse(page.maestraleSim.trace(run.zoomed)) };
  const box = el("f-result");
  box.hidden = false;
  const again = new URL(location.href);
  again.searchParams.delete("seed");
  /** @type {HTMLAnchorElement} */ (el("r-again")).href = again.href;
  el("r-debrief").hidden = true;
  el("r-word").textContent = "The server flies it again";
  await deliverRun(config.student, body, (word, summary, found) => {
    if (found) return showResult(found, Boolean(config.lost), config.spec.side !== "none");
    el("r-word").textContent = word;
    el("r-summary").textContent = summary;
  });
  box.querySelector("a")?.focus();
}

document.addEventListener("keydown", (e) => {
  const t = e.target;
  if (t instanceof HTMLElement && t.matches("input, select, textarea")) return;
  const key = e.key.length === 1 ? e.key.toLowerCase() : e.key;
  if (run.on && !run.over) {
    if (isStick(key)) {
      keyDown(e);
      e.preventDefault();
      return;
    }
    if (key === "m") {
      arm();
      return;
    }
    if (key === "t") {
      takeOff();
      return;
    }
    if (key === "l") {
      land();
      return;
    }
    if (key === "h") {
      home();
      return;
    }
    if (key === "g") {
      turnGentle();
      return;
    }
    if (key === "c") {
      happen("call", "Called");
      return;
    }
    if (key === "x") {
      turnFrame();
      return;
    }
    if (key === "p") {
      pause(!run.paused);
      return;
    }
    if (key === "k") {
      ask();
      return;
    }
    const n = Number(key) - 1;
    if (config.aids[n]?.has) {
      flyWith(n);
      say(config.aids[n].words);
      return;
    }
    if (key === "Enter" && !(t instanceof HTMLButtonElement)) {
      void finish();
      return;
    }
  }
  if (scene && !scene.dot && key === "v") turnView();
  if (scene && !scene.dot && key === "z") zoom();
  if (scene && key === "o") turnSound();
  if (scene && key === "n") showNose();
});
document.addEventListener("keyup", keyUp);
window.addEventListener("blur", letGo);
window.addEventListener("gamepadconnected", (e) =>
  say(
    config.radios[e.gamepad.id]
      ? "The radio flies, as you have set it"
      : "A radio that is not set yet: throttle and yaw on its left stick. Set it under Fly, Radio",
  ),
);

function turnView() {
  const views = ["pilot", "chase", "onboard"];
  const i = (views.indexOf(scene.view) + 1) % 3;
  scene.view = views[i];
  el("f-view").firstChild?.replaceWith(["From behind the craft ", "From on board ", "As the pilot sees it "][i]);
  scene.draw(state);
}

el("f-start").addEventListener("click", start);
el("f-arm").addEventListener("click", () => {
  arm();
  main.focus();
});
el("f-pause").addEventListener("click", () => {
  pause(!run.paused);
  main.focus();
});
el("f-view").addEventListener("click", () => {
  if (scene && !scene.dot) turnView();
  main.focus();
});
el("f-finish").addEventListener("click", () => void finish());
for (const [id, does] of /** @type {[string, () => void][]} */ ([
  ["f-takeoff", takeOff],
  ["f-land", land],
  ["f-home", home],
  ["f-frame", turnFrame],
  ["f-gentle", turnGentle],
  [
    "f-zoom",
    () => {
      if (scene && !scene.dot) zoom();
    },
  ],
  ["f-sound", turnSound],
  ["f-touch-switch", () => turnTouch(el("f-touch").hidden === true)],
])) {
  el(id).addEventListener("click", () => {
    does();
    main.focus();
  });
}
el("f-fence").addEventListener("change", (e) => {
  setFence(/** @type {HTMLSelectElement} */ (e.target).value);
  main.focus();
});
el("f-nose").addEventListener("click", () => {
  showNose();
  main.focus();
});
seated();
el("f-aids-pick").addEventListener("change", (e) => {
  flyWith(Number(/** @type {HTMLSelectElement} */ (e.target).value));
  main.focus();
});
document.getElementById("f-coach")?.addEventListener("click", () => {
  ask();
  main.focus();
});
touchSticks(el("touch-left"), el("touch-right"));
turnTouch(matchMedia("(pointer: coarse)").matches);

// For the tests, which step the simulator and do not wait for it.
page.maestraleFly = {
  fly,
  get: (/** @type {string} */ name) => state[at[name]],
  lost: () => Boolean(scene?.dot),
  draw,
  drawn: () => drawn,
  happen: (/** @type {string} */ e) => page.maestraleSim.happen(e, ""),
  pad,
};

load().then(
  () => {
    requestAnimationFrame(frame);
  },
  (e) => {
    el("f-start").textContent = "The simulator did not load";
    say(`The simulator did not load: ${e instanceof Error ? e.message : e}. Reload the page; nothing was flown`);
  },
);
