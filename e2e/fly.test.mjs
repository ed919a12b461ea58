// A student flies the simulator with a radio: to a pass, through the loss of
// position hold, and into a crash; the server judges all three.
import assert from "node:assert/strict";
import { execFile } from "node:child_process";
import { readFile } from "node:fs/promises";
import path from "node:path";
import { test } from "node:test";
import { promisify } from "node:util";
import { accessible, atTheDemo, atTheRadio, finished, fly, reads, root, signedIn, state, takeOff } from "./browser.mjs";

const is = atTheDemo({ gl: true });

const drill = "drill=hover-tail-in&side=none&aids=position-hold&level=1&wind=3@180&gusts=light&seed=4";

test("a hover is flown to a pass, saved when position hold is lost, and crashed; all are in the record", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "nives@saline.example" }); // a student, the own record
  const wrong = [];
  page.on("pageerror", (e) => wrong.push(e.message));
  const student = new URL(page.url()).pathname;
  assert.match(student, /^\/students\//);

  await atTheRadio(page, `${student}/fly?${drill}`);
  await accessible(page, "the Fly screen");
  // A refusal says why.
  await fly(page, 0.2, { throttle: 0.3 });
  await page.click("#f-arm");
  await reads(page.locator("#f-say"), /Refused: throttle is not low/);
  await takeOff(page);
  await fly(page, 2, { throttle: 0 });
  await reads(page.locator("#f-asked summary"), /^Step [12] of 3/);
  await fly(page, 29);
  // A radio that is unplugged pauses the run.
  await fly(page, 1, { there: false });
  await reads(page.locator("#f-say"), /The radio is gone/);
  await reads(page.locator("#f-pause"), /Go on/);
  await page.click("#f-pause");
  await fly(page, 6, { there: true, throttle: -0.4 });
  await fly(page, 4, { throttle: -1 });
  assert.equal(await state(page, "armed"), 0, "the motors stop by themselves");
  assert.match(await finished(page), /pass \+0\.\d+/);
  const passed = await page.locator("#r-debrief").getAttribute("href");

  // Position hold is lost at ten seconds: the pilot brings it back and holds it by
  // hand, leaning against what drifts.
  await atTheRadio(page, `${student}/fly?${drill}&two`);
  await takeOff(page);
  await fly(page, 8, { throttle: 0 });
  await page.evaluate(() => {
    /** Leans against what drifts from the pad. */
    globalThis.lean = () => {
      const hold = (off, v) => Math.max(-0.6, Math.min(0.6, -0.55 * off - 0.5 * v));
      radio.pitch = hold(maestraleFly.get("y") - 6, maestraleFly.get("vy"));
      radio.roll = hold(maestraleFly.get("x"), maestraleFly.get("vx"));
    };
  });
  const saved = await page.evaluate(() => {
    maestraleFly.happen("fix-lost");
    let worst = 0;
    for (let i = 0; i < 500; i++) {
      lean();
      maestraleFly.fly(5);
      worst = Math.max(worst, Math.hypot(maestraleFly.get("x"), maestraleFly.get("y") - 6));
    }
    return [worst, maestraleFly.get("aids")];
  });
  assert.equal(saved[1], 1, "it flies in height hold now");
  assert.ok(saved[0] < 1, `it drifted ${saved[0]} m`);
  await page.evaluate(() => {
    for (let i = 0; i < 200; i++) {
      lean();
      radio.throttle = -0.4;
      if (maestraleFly.get("ground")) Object.assign(radio, { throttle: -1, pitch: 0, roll: 0 });
      maestraleFly.fly(5);
    }
  });
  assert.match(await finished(page), /pass \+0\.\d+/);
  const held = await page.locator("#r-debrief").getAttribute("href");

  // A rotor gives up.
  await atTheRadio(page, `${student}/fly?${drill}&three`);
  await takeOff(page);
  await fly(page, 4, { throttle: 0 });
  await page.evaluate(() => maestraleFly.happen("rotor=1:0"));
  await fly(page, 6);
  const text = await finished(page);
  assert.match(text, /fail[\s\S]*crashed at \d+\.\d s: (a rotor struck the ground|turned over|hit the ground)/);
  const crash = await page.locator("#r-debrief").getAttribute("href");

  for (const at of [passed, held, crash]) {
    await page.goto(at);
    await reads(page.locator("main"), /flown in the simulator/);
  }
  await page.goto(student);
  const links = await page.locator(".latest tbody a").evaluateAll((l) => l.map((a) => a.getAttribute("href")));
  for (const at of [passed, held, crash]) assert.ok(links.includes(at), `${at} is not in the record`);
  assert.deepEqual(wrong, []);
  await page.context().close();
});

test("a drill calls out, the pilot answers up, and the server times the answer", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "nives@saline.example" });
  const student = new URL(page.url()).pathname;
  await atTheRadio(
    page,
    `${student}/fly?drill=away-and-up&side=none&aids=position-hold&level=1&wind=0@0&gusts=none&seed=4`,
  );
  await takeOff(page);
  await fly(page, 0.6, { throttle: 0.4 });
  await fly(page, 1, { throttle: 0 });
  for (let i = 0; i < 60 && (await page.locator("#f-call").isHidden()); i++) await fly(page, 0.2);
  await reads(page.locator("#f-call"), /^Away and up$/);
  await accessible(page, "the Fly screen with a call");
  await fly(page, 0.4);
  await fly(page, 1.4, { throttle: 1 });
  await fly(page, 1, { throttle: 0 });
  while ((await state(page, "z")) > 2.2) await fly(page, 0.2, { throttle: -0.5 });
  await fly(page, 6, { throttle: 0 });
  await fly(page, 6, { throttle: -0.4 });
  await fly(page, 4, { throttle: -1 });
  assert.match(await finished(page), /pass \+0\.\d+/);
  await page.goto(await page.locator("#r-debrief").getAttribute("href"));
  await reads(page.locator("main"), /time to answer \d\.\d+ s, at most 3\.5 s/);
  await page.context().close();
});

test("a run that is flown without a network is sent later", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "nives@saline.example" });
  const student = new URL(page.url()).pathname;
  await atTheRadio(page, `${student}/fly?drill=free&wind=0@0&gusts=none&seed=1`);
  await fly(page, 1);
  await page.context().setOffline(true);
  assert.match(await finished(page), /Kept on this device/);
  await page.context().setOffline(false);
  const sent = page.waitForResponse((r) => r.url().endsWith("/pad/sealed") && r.status() === 200);
  await page.reload();
  const [answer] = (await (await sent).json()).items;
  assert.equal(answer.taken, true);
  assert.equal(answer.said.kept, true);
  await reads(page.locator(".delivered"), /1 item that this device had kept was sent/);
  await page.context().close();
});

test("the browser flies the same bits as the server, for a minute in gusts", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "nives@saline.example" });
  const student = new URL(page.url()).pathname;
  await page.goto(`${student}/fly?drill=free&wind=6@180&gusts=moderate&seed=9`);
  await page.waitForFunction(() => !document.querySelector("#f-start").disabled);
  // Sixty seconds on the sticks of the example, with a seeded wander of all four.
  const result = await page.evaluate(async () => {
    const c = JSON.parse(document.querySelector("#fly").dataset.config);
    maestraleSim.begin(c.numbers, c.names, c.spec);
    const at = maestraleSim.fields;
    const out = new Float64Array(Object.keys(at).length);
    let seed = 5;
    const rnd = () => {
      seed = (seed * 16807) % 2147483647;
      return seed / 2147483647 - 0.5;
    };
    let k = [-1, 0, 0, 0];
    for (let i = 0; i < 6000; i++) {
      if (i === 20) maestraleSim.happen("arm", "");
      if (i === 60) k = [0.6, 0, 0, 0];
      if (i > 300 && i % 40 === 0) k = [0.4 * rnd(), rnd(), 0.8 * rnd(), 0.8 * rnd()];
      if (!maestraleSim.reading(1, k[0], k[1], k[2], k[3], 0, 0, 0, out)) break;
    }
    const trace = JSON.parse(maestraleSim.trace(false));
    const r = await fetch(`/students/${c.student}/runs`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({ id: crypto.randomUUID(), flown_at: new Date().toISOString(), trace }),
    });
    return { status: r.status, answer: await r.json(), readings: trace.readings, x: out[at.x], y: out[at.y] };
  });
  assert.equal(result.status, 200, JSON.stringify(result));
  assert.equal(result.readings, 6000);
  assert.equal(result.answer.kept, true);
  await page.context().close();
});

test("the Fly screen stays under 1.5 MB as it travels", async () => {
  const gz = promisify(execFile);
  let sum = 0;
  for (const f of ["flight.wasm", "fly.js", "wasm_exec.js", "app.css", "archivo-3-text.woff2"]) {
    const { stdout } = await gz("gzip", ["-5", "-c", path.join(root, "ui/dist", f)], {
      encoding: "buffer",
      maxBuffer: 64 << 20,
    });
    sum += stdout.length;
  }
  assert.ok((await readFile(path.join(root, "ui/dist/flight.wasm"))).length > 1 << 20);
  assert.ok(sum < 1.5 * 1024 * 1024, `${sum} bytes`);
});

test("the craft is seen where it will begin while the simulator is still on its way", async () => {
  const page = await signedIn(is.browser, is.demo.url, {
    email: "nives@saline.example",
    serviceWorkers: "block",
  });
  let letGo;
  const until = new Promise((done) => (letGo = done));
  await page.route("**/flight.wasm*", async (route) => {
    await until;
    return route.continue();
  });
  await page.goto(`${new URL(page.url()).pathname}/fly?${drill}`);
  await page.waitForFunction(() => globalThis.maestraleFly?.drawn());
  assert.ok(await page.locator("#f-start").isDisabled());
  const stands = () =>
    page.evaluate(() => ["x", "y", "heading", "qw", "qx", "qy", "qz"].map((n) => maestraleFly.get(n)));
  const before = await stands();
  await page.keyboard.press("v"); // another view of it does no harm
  letGo();
  await page.waitForFunction(() => document.querySelector("#f-start").disabled === false);
  const begins = await stands();
  assert.ok(begins[1] > 1, "it begins away from the pilot");
  begins.forEach((v, i) => assert.ok(Math.abs(v - before[i]) < 1e-3, `${before} and then ${begins}`));
  await page.context().close();
});
