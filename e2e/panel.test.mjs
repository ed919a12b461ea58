// The instructor's panel beside a student's flight, the radio's page, touch sticks
// and the trainer of what rotors do.
import assert from "node:assert/strict";
import { test } from "node:test";
import { modes, shaped, sticks, unset } from "../ui/scripts/fly/radio-map.js";
import {
  accessible,
  atTheDemo,
  atTheRadio,
  counts,
  finished,
  fly,
  holdClock,
  reads,
  signedIn,
  state,
  takeOff,
  until,
} from "./browser.mjs";

const is = atTheDemo({ gl: true });

const pilotIs = { email: "nives@saline.example" };
const drill = "drill=hover-tail-in&side=none&aids=position-hold&level=1&wind=3@180&gusts=none&seed=4";

/** No view is wider than its window. */
async function fits(page, what) {
  for (const width of [360, 820, 1280, 1920]) {
    await page.setViewportSize({ width, height: 800 });
    const over = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth);
    assert.ok(over <= 0, `${what} is ${over} px wider than ${width}`);
  }
  await page.setViewportSize({ width: 1280, height: 800 });
}

test("an instructor watches a run on another machine and lets a gust and a lost fix happen", async () => {
  const pilot = await signedIn(is.browser, is.demo.url, pilotIs),
    teacher = await signedIn(is.browser, is.demo.url);
  const student = new URL(pilot.url()).pathname;
  const wrong = [];
  for (const p of [pilot, teacher]) p.on("pageerror", (e) => wrong.push(e.message));
  await teacher.goto(`${student}/watch`);
  await reads(teacher.locator("main"), /flies nothing now/);
  await accessible(teacher, "a panel with nothing to see");

  // It begins by itself as soon as something is flown.
  await atTheRadio(pilot, `${student}/fly?${drill}`);
  await teacher.waitForSelector("[data-event='gust=6']");
  await takeOff(pilot);
  await fly(pilot, 3, { throttle: 0 });
  await teacher.waitForFunction(() => document.querySelector("#w-state").textContent === "Live");
  await pilot.waitForTimeout(50); // pictures that come too close are left out
  await fly(pilot, 0.2);
  await teacher.waitForFunction(() => Number(document.querySelector("#watch").dataset.t) > 5);
  await reads(teacher.locator(".watch-insets"), /position hold · in the air/);
  await accessible(teacher, "the panel");
  await fits(teacher, "the panel");

  /** Lets something happen, and flies until the panel says at which second it did. */
  const lets = async (event, words) => {
    await teacher.click(`[data-event='${event}']`);
    await teacher.waitForFunction((w) => document.querySelector("#w-sent").textContent.includes(w), words);
    for (let i = 0; i < 600 && !(await teacher.locator("#w-sent li").first().innerText()).includes(" s: "); i++) {
      await fly(pilot, 0.1);
      await pilot.waitForTimeout(20);
    }
    await reads(teacher.locator("#w-sent li").first(), new RegExp(`^\\d+\\.\\d s: ${words}$`));
  };
  const before = await state(pilot, "airY");
  await lets("gust=6", "gust of 6 m/s");
  await fly(pilot, 0.9);
  assert.ok((await state(pilot, "airY")) > before + 3, "the gust blows");
  await fly(pilot, 2);
  await lets("fix-lost", "position fix lost");
  await fly(pilot, 0.2);
  assert.equal(await state(pilot, "aids"), 1, "height hold is what is left");
  await lets("fix-back", "position fix back");
  await fly(pilot, 24);
  await fly(pilot, 6, { throttle: -0.4 });
  await fly(pilot, 4, { throttle: -1 });
  assert.match(await finished(pilot), /(pass|fail) [+−]\d/);
  await pilot.waitForSelector("#r-plan svg");
  await teacher.waitForSelector("#w-next:not([hidden])");

  await teacher.goto(await pilot.locator("#r-debrief").getAttribute("href"));
  const said = await teacher.locator("main").innerText();
  for (const what of ["gust of 6 m/s", "position fix lost", "position fix back"])
    assert.match(said, new RegExp(`\\d+\\.\\d s: ${what}, by Livia Marangon`));
  assert.deepEqual(wrong, []);
  await pilot.context().close();
  await teacher.context().close();
});

test("the radio's map: modes, ends, dead band and curve", () => {
  for (const mode of [1, 2, 3, 4]) {
    const s = unset(mode);
    assert.deepEqual([...modes[mode].left, ...modes[mode].right].sort(), ["pitch", "roll", "throttle", "yaw"]);
    // Up on a stick is − on its axis, right is +.
    const k = sticks(s, [0.5, -0.7, -0.2, 0.9]);
    assert.ok(
      Math.abs(k[modes[mode].left[0]] - 0.4845) < 1e-3 &&
        k[modes[mode].left[1]] > 0.6 &&
        k[modes[mode].right[0]] < -0.1 &&
        k[modes[mode].right[1]] < -0.8,
    );
  }
  const c = { axis: 0, reverse: false, low: -0.8, centre: 0.1, high: 0.9, dead: 0.05, expo: 0.4 };
  assert.equal(shaped(c, 0.1), 0);
  assert.equal(shaped(c, 0.13), 0);
  for (const [raw, want] of [
    [0.9, 1],
    [-0.8, -1],
    [2, 1],
    [-2, -1],
  ])
    assert.ok(Math.abs(shaped(c, raw) - want) < 1e-12);
  let last = -1.1;
  for (let raw = -1; raw <= 1; raw += 0.01) {
    const v = shaped(c, raw);
    assert.ok(v >= last && v >= -1 && v <= 1 && Math.abs(shaped({ ...c, reverse: true }, raw) + v) < 1e-12);
    last = v;
  }
  assert.ok(shaped({ ...c, expo: 0.4 }, 0.5) < shaped({ ...c, expo: 0 }, 0.5), "the curve is softer in the middle");
});

test("a radio is set by moving it, is kept for its pilot, and flies so; its switch picks the aids", async () => {
  const page = await signedIn(is.browser, is.demo.url, pilotIs);
  const student = new URL(page.url()).pathname;
  // An odd radio: throttle on axis 3 downward, its ends short; a switch on axis 6.
  await page.addInitScript(() => {
    globalThis.raw = [0, 0, 0, 0, 0, -1];
    navigator.getGamepads = () => [{ connected: true, id: "an odd radio", axes: raw, buttons: [{ pressed: false }] }];
  });
  await holdClock(page);
  await page.goto("/radio");
  await page.waitForFunction(() => /an odd radio, not set yet/.test(document.querySelector("#rd-device").textContent));
  const move = (axis, v) =>
    page.evaluate(
      ([a, x]) => {
        raw[a] = x;
      },
      [axis, v],
    );
  const guided = (text) => until(page, (t) => document.querySelector("#rd-guide").textContent.includes(t), text);
  await page.click("#rd-find");
  for (const [says, axis, v] of [
    ["throttle up", 2, -0.8],
    ["yaw to the right", 0, 0.8],
    ["pitch ahead", 3, 0.8],
    ["roll to the right", 1, -0.8],
  ]) {
    await guided(says);
    await move(axis, v);
    await guided("Let go");
    await move(axis, 0);
  }
  await guided("are found");
  // Its eight seconds pass as the test lets them, however long a move takes here.
  await page.clock.pauseAt(Date.now());
  await page.click("#rd-ends");
  await guided("eight seconds");
  for (const v of [-0.8, 0.8, 0]) {
    for (const axis of [0, 1, 2, 3]) await move(axis, v);
    await page.clock.runFor(500);
  }
  await page.clock.runFor(8000);
  await guided("Measured");
  await page.clock.resume();
  assert.equal(await page.inputValue("#rd-throttle-axis"), "3");
  assert.equal(await page.inputValue("#rd-throttle-low"), "-0.8");
  assert.ok(await page.isChecked("#rd-throttle-reverse"));
  await page.click("#rd-find-aids");
  await move(5, 1);
  await page.waitForSelector("#rd-now-aids");
  await accessible(page, "the radio's page");
  await fits(page, "the radio's page");
  await page.fill("#rd-yaw-dead", "0.9");
  await page.locator("#rd-yaw-dead").blur();
  await page.click("#rd-keep");
  await page.waitForFunction(() => /dead band of yaw/.test(document.querySelector("#rd-said").textContent));
  await page.fill("#rd-yaw-dead", "0.05");
  await page.locator("#rd-yaw-dead").blur();
  await page.click("#rd-keep");
  await page.waitForFunction(() => /Kept for an odd radio/.test(document.querySelector("#rd-said").textContent));

  await page.goto(`${student}/fly?drill=free&wind=0@0&gusts=none&seed=2`);
  await page.waitForFunction(() => !document.querySelector("#f-start").disabled);
  await page.evaluate(() => {
    globalThis.maestraleHeld = true;
    raw[5] = -1;
    raw[2] = 0.8;
  });
  await page.click("#f-start");
  const flies = (n) => page.evaluate((k) => maestraleFly.fly(k), n);
  await flies(20);
  await page.click("#f-arm");
  assert.equal(await state(page, "armed"), 1, "its low throttle is low");
  await move(2, -0.8);
  await flies(150);
  await move(2, 0);
  assert.ok((await state(page, "z")) > 1, "its throttle lifts");
  assert.equal(await state(page, "aids"), 0);
  await move(5, 0);
  await flies(20);
  assert.equal(await state(page, "aids"), 1, "the switch in its middle asks for height hold");
  await page.context().close();
});

test("a tablet flies by two touch sticks", async () => {
  const page = await signedIn(is.browser, is.demo.url, { ...pilotIs, width: 1024, height: 768, hasTouch: true });
  const student = new URL(page.url()).pathname;
  await page.goto(`${student}/fly?drill=free&wind=0@0&gusts=none&seed=2`);
  await page.waitForFunction(() => !document.querySelector("#f-start").disabled);
  await page.evaluate(() => {
    globalThis.maestraleHeld = true;
  });
  await page.click("#f-start");
  if (await page.locator("#f-touch").isHidden()) {
    await page.click(".fly-more summary");
    await page.click("#f-touch-switch");
    await page.click(".fly-more summary");
  }
  const drag = async (which, x, y) => {
    const b = await page.locator(`#touch-${which}`).boundingBox();
    await page.mouse.move(b.x + b.width / 2, b.y + b.height / 2);
    await page.mouse.down();
    await page.mouse.move(b.x + b.width * (0.5 + x / 2.4), b.y + b.height * (0.5 - y / 2.4));
  };
  const flies = (n) => page.evaluate((k) => maestraleFly.fly(k), n);
  await flies(20);
  await page.click("#f-arm");
  assert.equal(await state(page, "armed"), 1, "the throttle rests low");
  await drag("left", 0, 0.8);
  await flies(120);
  await page.mouse.up();
  await flies(50);
  const z = await state(page, "z");
  assert.ok(z > 1, `it climbed to ${z} m`);
  await drag("right", 0.8, 0);
  await flies(200);
  await page.mouse.up();
  assert.ok((await state(page, "x")) > 1, "the right stick leads it to the right");
  await flies(200);
  assert.ok(Math.abs((await state(page, "z")) - z) < 0.6, "let go, the throttle springs to the middle");
  // The rotors are heard only once that is asked for, and at the rate of their blades.
  assert.equal(await page.getAttribute("#f-sound", "aria-pressed"), "false");
  await page.evaluate(() => {
    globalThis.tones = [];
    const make = AudioContext.prototype.createOscillator;
    AudioContext.prototype.createOscillator = function () {
      const o = make.call(this);
      tones.push(o);
      return o;
    };
  });
  await page.click(".fly-more summary");
  await page.click("#f-sound");
  assert.equal(await page.getAttribute("#f-sound", "aria-pressed"), "true");
  const heard = await page.evaluate(async () => {
    for (let i = 0; i < 30; i++) {
      maestraleFly.fly(1);
      maestraleFly.draw();
      await new Promise((r) => setTimeout(r, 20));
    }
    return [tones.length, tones[0].frequency.value, Math.abs(maestraleFly.get("rotor1"))];
  });
  assert.equal(heard[0], 4, "a tone a rotor");
  assert.ok(
    heard[1] > 1.5 * heard[2] && heard[1] < 4.5 * heard[2],
    `a tone of ${heard[1]} Hz for ${heard[2]} turns a second`,
  );
  await page.context().close();
});

test("the rotors' trainer is answered by doing, with four rotors and six, and shows what gives way", async () => {
  const page = await signedIn(is.browser, is.demo.url, pilotIs);
  const wrong = [];
  page.on("pageerror", (e) => wrong.push(e.message));
  await page.goto("/fly");
  await reads(page.locator("main"), /Fly the next drill/);
  await accessible(page, "the place to fly from");
  await fits(page, "the place to fly from");
  for (const rotors of [4, 6]) {
    await page.goto(`/fly/mixing?rotors=${rotors}`);
    await page.waitForFunction(() => !document.querySelector("#mix-check").disabled);
    await page.evaluate(() => {
      globalThis.maestraleHeld = true;
    });
    await counts(page.locator("[data-rotor]"), rotors);
    await accessible(page, "the rotors' trainer");
    const ask = (key) => page.evaluate((k) => maestraleMixing.ask(k), key);
    const set = async (by) => {
      // those that spin one way by a share, the others by another
      for (let i = 1; i <= rotors; i++) {
        const label = await page.locator(`label[for=rotor-${i}]`).innerText();
        await page.locator(`#rotor-${i}`).fill(String(by(/counter/.test(label))));
      }
    };
    const answer = async () => {
      await page.click("#mix-check");
      return page.locator("#mix-answer").innerText();
    };
    await ask("right-rotors");
    await set((ccw) => (ccw ? 85 : 115));
    assert.match(await answer(), /Not yet.*turns its nose left: the rotors that spin clockwise turn faster/);
    await set((ccw) => (ccw ? 114 : 84));
    assert.match(await answer(), /Right.*turns its nose right: the rotors that spin counter-clockwise/);
    await page.evaluate(() => maestraleMixing.step(1));
    assert.ok((await page.evaluate(() => maestraleMixing.get("heading"))) > 0.1, "the nose turns right");
    await page.keyboard.press("Tab"); // every part is reached by keyboard
    await ask("lean-left-sticks");
    await page.locator("#stick-roll").fill("-60");
    assert.match(await answer(), /Right.*leans left/);
    await page.evaluate(() => maestraleMixing.step(1));
    assert.ok((await page.evaluate(() => maestraleMixing.get("roll"))) < -0.05, "it leans left");
    await ask("up-rotors");
    await page.click("#mix-show");
    await reads(page.locator("#mix-answer"), /climbs: all turn faster/);
    if (rotors === 4) {
      await ask("ahead-sticks");
      for (const s of ["throttle", "yaw", "pitch", "roll"]) await page.locator(`#stick-${s}`).fill("100");
      await reads(page.locator("#mix-kept"), /Not all of what is asked can be given: yaw keeps \d+ %/);
    }
    await fits(page, "the rotors' trainer");
  }
  assert.deepEqual(wrong, []);
  await page.context().close();
});
