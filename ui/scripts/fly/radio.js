// The page on which a radio is set: it listens to the raw axes, finds which is
// which, measures ends and centre, and keeps it for the person and the device.
import { asks, modes, sticks, unset } from "./radio-map.js";

/** @typedef {import("./radio-map.js").Settings} Settings */
/** @template {HTMLElement} E @param {string} id @returns {E} */
const el = (id) => /** @type {E} */ (document.getElementById(id));
const page = el("radio");
/** @type {{radios: Record<string, Settings>}} */
const config = JSON.parse(page.dataset.config ?? "{}");
const names = /** @type {const} */ (["throttle", "yaw", "pitch", "roll", "wheel"]);
const ways = {
  throttle: "throttle up",
  yaw: "yaw to the right",
  pitch: "pitch ahead (up)",
  roll: "roll to the right",
  wheel: "the wheel up",
};
const positions = {
  aids: ["position-hold", "height-hold", "self-level", "tumble", "rate"],
  frame: ["nose", "frozen", "pilot"],
};
let device = "touch";
/** @type {Settings} */
let set = structuredClone(config.radios.touch ?? unset(2));
/**
 * What is being listened for. @type {{what: string, from: number[], done: (axis: number,
 *   value: number) => void} | null}
 */
let hunt = null;
/** @type {{low: number[], high: number[], until: number} | null} */
let ends = null;

const gamepad = () => [...(navigator.getGamepads?.() ?? [])].find((g) => g?.connected && g.axes.length >= 4) ?? null;
/** @param {string} text */
const guide = (text) => {
  el("rd-guide").textContent = text;
};

function rows() {
  el("rd-rows").replaceChildren(
    ...names.map((name) => {
      const c = set.channels[name] ?? { axis: 4, reverse: false, low: -1, centre: 0, high: 1, dead: 0.03, expo: 0 };
      set.channels[name] = c;
      const tr = document.createElement("tr");
      const th = Object.assign(document.createElement("th"), { textContent: name, scope: "row" });
      tr.append(th);
      for (const key of /** @type {const} */ (["axis", "reverse", "low", "centre", "high", "dead", "expo"])) {
        const td = document.createElement("td"),
          input = document.createElement("input");
        input.setAttribute("aria-label", `${name}: ${key}`);
        input.id = `rd-${name}-${key}`;
        if (key === "reverse") {
          input.type = "checkbox";
          input.checked = c.reverse;
          input.addEventListener("change", () => {
            c.reverse = input.checked;
          });
        } else {
          input.inputMode = "decimal";
          input.className = "short";
          input.value = key === "axis" ? String(c.axis + 1) : String(Math.round(c[key] * 1000) / 1000);
          input.addEventListener("change", () => {
            const v = Number(input.value.replace(",", "."));
            if (Number.isFinite(v)) c[key] = key === "axis" ? Math.max(0, Math.round(v) - 1) : v;
          });
        }
        td.append(input);
        tr.append(td);
      }
      const now = Object.assign(document.createElement("td"), { className: "data", id: `rd-now-${name}` });
      tr.append(now);
      return tr;
    }),
  );
  /** @type {HTMLSelectElement} */ (el("rd-mode")).value = String(set.mode);
}

function switchRows() {
  el("rd-switches").replaceChildren(
    .../** @type {const} */ (["aids", "frame"]).map((name) => {
      const p = Object.assign(document.createElement("div"), { className: "row-form" });
      const sw = set.switches[name];
      const find = Object.assign(document.createElement("button"), {
        type: "button",
        className: "go",
        textContent: `Find the switch for ${name === "aids" ? "aids" : "stick frame"}`,
        id: `rd-find-${name}`,
      });
      find.addEventListener("click", () => huntSwitch(name));
      p.append(find);
      if (sw) {
        const is = Object.assign(document.createElement("p"), {
          textContent: sw.button != null ? `button ${sw.button + 1}` : `axis ${(sw.axis ?? 0) + 1}`,
          className: "data",
        });
        p.append(is);
        sw.says.forEach((says, i) => {
          const label = document.createElement("label"),
            pick = document.createElement("select");
          label.textContent =
            ["low", "middle", "high", "fourth", "fifth", "sixth"][sw.says.length === 2 && i === 1 ? 2 : i] + " ";
          for (const w of positions[name])
            pick.append(
              Object.assign(document.createElement("option"), { value: w, textContent: w, selected: w === says }),
            );
          pick.addEventListener("change", () => {
            sw.says[i] = pick.value;
          });
          label.append(pick);
          p.append(label);
        });
        const none = Object.assign(document.createElement("button"), {
          type: "button",
          className: "go",
          textContent: "None",
        });
        none.addEventListener("click", () => {
          delete set.switches[name];
          switchRows();
        });
        const now = Object.assign(document.createElement("p"), { className: "data", id: `rd-now-${name}` });
        p.append(none, now);
      }
      return p;
    }),
  );
}

/** Listens for the axis that moves most. @param {string} what @param {(axis: number, value: number) => void} done */
function listen(what, done) {
  const g = gamepad();
  if (!g) {
    guide("No radio is heard: plug it in and move a stick first.");
    return;
  }
  guide(what);
  hunt = { what, from: [...g.axes], done };
}

/** Finds the channels one after the other. @param {number} i */
function find(i) {
  if (i === 0) {
    const g = gamepad();
    if (g) for (const name of names) Object.assign(set.channels[name], { low: -1, centre: 0, high: 1 });
  }
  if (i >= 4) {
    guide("The four sticks are found. Now measure ends and centre.");
    rows();
    return;
  }
  const name = names[i],
    from = [...(gamepad()?.axes ?? [])];
  listen(
    `${i + 1} of 4: let go of the sticks, throttle in its middle, ` +
      `then push ${ways[name]} to its end and hold it there.`,
    (axis, moved) => {
      set.channels[name].axis = axis;
      set.channels[name].reverse = moved < 0;
      rows();
      guide("Let go.");
      settle(
        (v) => Math.abs(v[axis] - from[axis]) < 0.35,
        () => find(i + 1),
      );
    },
  );
}

/** Waits until nothing moves and the sticks are back.
 * @param {(axes: readonly number[]) => boolean} back @param {() => void} then */
function settle(back, then) {
  let last = gamepad()?.axes.slice() ?? [],
    still = 0;
  const look = () => {
    const now = gamepad()?.axes.slice() ?? [];
    still = back(now) && now.every((v, i) => Math.abs(v - last[i]) < 0.05) ? still + 1 : 0;
    last = now;
    if (still >= 5) then();
    else setTimeout(look, 60);
  };
  look();
}

/** @param {"aids" | "frame"} name */
function huntSwitch(name) {
  const g = gamepad();
  if (!g) {
    guide("No radio is heard: plug it in and move a stick first.");
    return;
  }
  const buttons = g.buttons.map((b) => b.pressed);
  const used = new Set(["throttle", "yaw", "pitch", "roll"].map((n) => set.channels[n].axis));
  guide(`Throw the switch for ${name === "aids" ? "the aids" : "the stick frame"}.`);
  hunt = {
    what: name,
    from: [...g.axes],
    done: (axis) => {
      if (used.has(axis)) {
        guide("That is a stick. Throw a switch.");
        huntSwitch(name);
        return;
      }
      set.switches[name] = { axis, says: positions[name].slice(0, 3) };
      switchRows();
      guide("Found. Say what each position asks for.");
    },
  };
  const pressed = () => {
    if (!hunt || hunt.what !== name) return;
    const b = gamepad()?.buttons.findIndex((x, i) => x.pressed !== buttons[i]) ?? -1;
    if (b >= 0) {
      hunt = null;
      set.switches[name] = { button: b, says: positions[name].slice(0, 2) };
      switchRows();
      guide("Found. Say what each position asks for.");
    } else setTimeout(pressed, 50);
  };
  pressed();
}

function measure() {
  const g = gamepad();
  if (!g) {
    guide("No radio is heard: plug it in and move a stick first.");
    return;
  }
  ends = { low: [...g.axes], high: [...g.axes], until: performance.now() + 8000 };
  guide("Move both sticks round their corners, to every end, for eight seconds. Then let go, throttle in its middle.");
}

function measured() {
  if (!ends) return;
  const { low, high } = ends;
  ends = null;
  guide("Let go of the sticks, throttle in its middle.");
  /** Every stick in the middle half of what it moved through. @param {readonly number[]} v */
  const back = (v) =>
    ["throttle", "yaw", "pitch", "roll"].every((name) => {
      const a = set.channels[name].axis;
      return Math.abs(v[a] - (low[a] + high[a]) / 2) <= Math.max(0.1, (high[a] - low[a]) / 4);
    });
  settle(back, () => {
    const g = gamepad();
    let short = "";
    for (const name of names) {
      const c = set.channels[name];
      const [l, h, m] = [low[c.axis], high[c.axis], g?.axes[c.axis] ?? 0];
      if (!(l < m - 0.1 && h > m + 0.1)) {
        if (name !== "wheel") short = name;
        continue;
      }
      Object.assign(c, { low: l, high: h, centre: m });
    }
    rows();
    guide(
      short ? `${short} was not moved to both ends; measure again.` : "Measured. Look at the drawing, then keep it.",
    );
  });
}

function frame() {
  const g = gamepad();
  const id = g?.id ?? "touch";
  if (id !== device) {
    device = id;
    set = structuredClone(config.radios[id] ?? unset(g ? 2 : (config.radios.touch?.mode ?? 2)));
    rows();
    switchRows();
  }
  el("rd-device").textContent = g
    ? `${g.id}${config.radios[g.id] ? ", set for you" : ", not set yet"}`
    : "no radio is heard; the stick mode below is that of the touch sticks";
  if (g) {
    if (hunt) {
      const moved = g.axes.map((v, i) => v - (hunt?.from[i] ?? 0));
      const best = moved.reduce((b, v, i) => (Math.abs(v) > Math.abs(moved[b]) ? i : b), 0);
      if (Math.abs(moved[best]) > 0.6) {
        const { done } = hunt;
        hunt = null;
        done(best, moved[best]);
      }
    }
    if (ends) {
      g.axes.forEach((v, i) => {
        if (ends) {
          ends.low[i] = Math.min(ends.low[i], v);
          ends.high[i] = Math.max(ends.high[i], v);
        }
      });
      if (performance.now() > ends.until) measured();
    }
    const pressed = g.buttons.flatMap((b, i) => (b.pressed ? [i + 1] : [])).join(", ") || "none";
    el("rd-raw").textContent =
      g.axes.map((v, i) => `axis ${i + 1} ${v.toFixed(2)}`).join(" · ") +
      (g.buttons.length ? ` · pressed: ${pressed}` : "");
    for (const name of /** @type {const} */ (["aids", "frame"])) {
      const now = document.getElementById(`rd-now-${name}`);
      if (now) now.textContent = `now: ${asks(set.switches[name], g.axes, g.buttons) ?? "—"}`;
    }
  }
  const k = g ? sticks(set, g.axes) : { throttle: 0, yaw: 0, pitch: 0, roll: 0, wheel: 0 };
  for (const name of names) {
    const now = document.getElementById(`rd-now-${name}`);
    if (now) now.textContent = k[name].toFixed(2);
  }
  draw(k);
  requestAnimationFrame(frame);
}

/** @param {import("./radio-map.js").Axes} k */
function draw(k) {
  const c = /** @type {HTMLCanvasElement} */ (el("sticks")),
    g = /** @type {CanvasRenderingContext2D} */ (c.getContext("2d"));
  const css = (/** @type {string} */ n) => getComputedStyle(document.documentElement).getPropertyValue(n).trim();
  g.clearRect(0, 0, c.width, c.height);
  const m = modes[set.mode];
  for (const [cx, pair] of /** @type {const} */ ([
    [55, m.left],
    [175, m.right],
  ])) {
    g.strokeStyle = css("--ink-soft");
    g.strokeRect(cx - 45, 8, 90, 90);
    g.beginPath();
    g.moveTo(cx, 8);
    g.lineTo(cx, 98);
    g.moveTo(cx - 45, 53);
    g.lineTo(cx + 45, 53);
    g.stroke();
    g.fillStyle = css("--calm");
    g.beginPath();
    g.arc(cx + k[pair[0]] * 42, 53 - k[pair[1]] * 42, 7, 0, 7);
    g.fill();
  }
}

el("rd-mode").addEventListener("change", (e) => {
  // The sticks keep their axes; what they do moves from one to the other.
  const to = Number(/** @type {HTMLSelectElement} */ (e.target).value),
    from = modes[set.mode],
    now = modes[to];
  const was = structuredClone(set.channels);
  set.mode = to;
  for (const side of /** @type {const} */ (["left", "right"]))
    for (const i of /** @type {const} */ ([0, 1])) set.channels[now[side][i]] = was[from[side][i]];
  rows();
});
el("rd-find").addEventListener("click", () => find(0));
el("rd-ends").addEventListener("click", measure);
el("rd-keep").addEventListener("click", async () => {
  const said = el("rd-said");
  const r = await fetch("/radio", {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ device, settings: set }),
  }).catch(() => null);
  const found = r ? await r.json().catch(() => ({})) : { error: "There is no network: the radio was not kept." };
  said.hidden = false;
  said.textContent =
    found.kept === true
      ? `Kept for ${device === "touch" ? "the touch sticks" : device}.`
      : `${found.error ?? "It was not kept."} ${found.do ?? ""}`;
  if (found.kept === true) config.radios[device] = structuredClone(set);
});
rows();
switchRows();
requestAnimationFrame(frame);
