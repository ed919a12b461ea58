// A keyboard flies height hold: keys are pressed at the rate of a hand, and the server judges the hovers.
import assert from "node:assert/strict";
import { test } from "node:test";
import { atTheDemo, finished, signedIn } from "./browser.mjs";

const is = atTheDemo({ gl: true });

/** Flies one hover in the page by keys. The hand sees what was a quarter of a second ago, a few centimetres wrong, and
 * presses each of the two ways at most four times a second, for 60 to 700 ms give or take a seventh; it leans against
 * the wind that it has felt. */
function hoverByKeys(seed) {
  let numbers = seed * 7919 + 17;
  const even = () => (numbers = (numbers * 16807) % 2147483647) / 2147483647;
  const normal = () => Math.sqrt(-2 * Math.log(even() + 1e-9)) * Math.cos(2 * Math.PI * even());
  const down = new Map(); // each key, and until when it is held, ms
  let t = 0;
  const event = (type, key) => document.body.dispatchEvent(new KeyboardEvent(type, { key, bubbles: true }));
  const press = (key, ms) => {
    if (!down.has(key)) event("keydown", key);
    down.set(key, Math.max(down.get(key) ?? 0, t + ms));
  };
  const tap = (key) => {
    event("keydown", key);
    event("keyup", key);
  };
  const tick = () => {
    for (const [key, until] of down) {
      if (t < until) continue;
      event("keyup", key);
      down.delete(key);
    }
    maestraleFly.fly(1);
    t += 10;
  };
  const get = maestraleFly.get;
  const next = { x: 0, y: 0, z: 0 }; // when each way may be pressed again, ms
  const lean = { x: 0, y: 0 };
  const ways = [
    ["x", "ArrowLeft", "ArrowRight"],
    ["y", "ArrowDown", "ArrowUp"],
  ];
  const steer = (seen) => {
    for (const [axis, less, more] of ways) {
      if (t < next[axis]) continue;
      const off = seen[axis] + 0.05 * normal();
      const speed = seen[`v${axis}`] + 0.05 * normal();
      lean[axis] = Math.max(-0.4, Math.min(0.4, lean[axis] + 0.12 * off + 0.1 * speed));
      const wants = -(0.6 * off + 1.25 * speed + lean[axis]);
      next[axis] = t + 100;
      if (Math.abs(wants) < 0.07) continue;
      const ms = Math.min(700, Math.max(60, 500 * Math.abs(wants))) * (1 + 0.15 * normal());
      press(wants < 0 ? less : more, ms);
      next[axis] = t + Math.max(250, ms + 120);
    }
  };
  for (let i = 0; i < 50; i++) tick();
  tap("m");
  for (let i = 0; i < 100; i++) tick();
  press("w", 900);
  const past = [];
  let up = 0; // since when it hovers, ms
  for (let i = 0, grounded = 0; i < 7000 && grounded < 150; i++) {
    past.push({ x: get("x"), y: get("y") - 6, vx: get("vx"), vy: get("vy"), z: get("z"), vz: get("vz") });
    const seen = past[Math.max(0, past.length - 25)];
    steer(seen);
    if (!up && seen.z > 1.15) up = t;
    if (up && t - up < 29000 && t >= next.z) {
      const low = 1.5 - seen.z - 0.5 * seen.vz;
      if (Math.abs(low) > 0.15) press(low > 0 ? "w" : "s", Math.min(350, 500 * Math.abs(low)));
      next.z = t + 400;
    }
    if (up && t - up >= 29000) {
      press("s", 100);
      if (get("ground")) grounded++;
    }
    tick();
  }
  for (const key of [...down.keys()]) event("keyup", key);
  tap("m");
}

test("eight of ten hovers without position hold are flown to a pass by keyboard", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "nives@saline.example" });
  const student = new URL(page.url()).pathname;
  const drill = "drill=hover-tail-in&side=none&aids=height-hold&level=1&wind=2@150&gusts=light";
  const said = [];
  for (let seed = 201; seed <= 210; seed++) {
    await page.goto(`${student}/fly?${drill}&seed=${seed}`);
    await page.waitForFunction(() => !document.querySelector("#f-start").disabled);
    await page.evaluate(() => {
      globalThis.maestraleHeld = true;
    });
    await page.click("#f-start");
    await page.evaluate(hoverByKeys, seed);
    said.push(/(pass|fail|incomplete)[^\n]*/.exec(await finished(page))?.[0] ?? "nothing");
  }
  assert.ok(said.filter((s) => s.startsWith("pass")).length >= 8, said.join("\n"));
  await page.context().close();
});
