// Paths marked by eye on a phone, by touch and by keyboard, and flown from a log.
import assert from "node:assert/strict";
import { execFile } from "node:child_process";
import { writeFile, mkdtemp } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import { test } from "node:test";
import { promisify } from "node:util";
import {
  accessible,
  atThePad,
  atTheDemo,
  begun,
  holdClock,
  pass,
  reads,
  root,
  signedIn,
  swipe,
  until,
} from "./browser.mjs";

const is = atTheDemo();

/** Opens the pad for a drill of Amina's on a phone, its clock in hand. */
async function padFor(drill) {
  const page = await signedIn(is.browser, is.demo.url, { width: 390, height: 844, hasTouch: true });
  const wrong = [];
  page.on("pageerror", (e) => wrong.push(e.message));
  await page.click("text=Amina Corvelli");
  await page.waitForURL("**/students/*");
  const student = new URL(page.url()).pathname;
  await holdClock(page);
  await page.goto(`${student}/mark?${drill}`);
  await atThePad(page);
  return { page, student, wrong };
}

/** Waits for the judge, which answers beside the page. */
const ringSays = (page, words) => until(page, (w) => document.querySelector("#ring-big")?.textContent === w, words);
const stepIs = (page, n) =>
  until(page, (k) => document.querySelector("#step-name")?.textContent?.startsWith(`step ${k} `), n);

test("an eight is marked to a fail by touch: off the line once, its lobes of different size", async () => {
  const { page, wrong } = await padFor("drill=eight-kept&side=left&aids=position-hold");
  await page.tap("#big");
  await begun(page);
  await pass(page, 4);
  await page.tap("#big"); // in position: it is up
  await stepIs(page, 2);
  await ringSays(page, "set off");
  await pass(page, 1);
  await page.tap("#big");
  await pass(page, 6);
  await ringSays(page, "flying");
  await accessible(page, "the pad on a path");
  await swipe(page, -90, 0);
  await pass(page, 12);
  await page.tap("#b-fault");
  const said = await page.locator("#view-fault .pad-list").first().innerText();
  assert.match(said, /Lobes or ends of different size/);
  assert.match(said, /Crossed off the centre/);
  assert.doesNotMatch(said, /Turned too far/, "only what this drill can go wrong by");
  await page.tap("text=Lobes or ends of different size");
  await pass(page, 1);
  await page.tap("#big"); // the end of the figure
  await stepIs(page, 3);
  await pass(page, 1);
  await page.tap("#big"); // landed
  await page.locator(".pad-target").tap({ position: { x: 160, y: 150 } });
  await pass(page, 1);
  await page.tap("#big");
  await until(page, () => !document.querySelector("#view-verdict")?.hidden);
  const verdict = await page.locator("#view-verdict").innerText();
  assert.match(verdict, /fail/);
  assert.match(verdict, /off the line to the left/);
  assert.match(verdict, /lobes or ends of different size/);
  assert.deepEqual(wrong, []);
  await page.context().close();
});

test("a step-over is marked by keyboard: both rests are timed, the short one fails it", async () => {
  const { page, wrong } = await padFor("drill=step-over&side=right&aids=position-hold");
  await page.keyboard.press("Enter");
  await begun(page);
  await pass(page, 4);
  await page.keyboard.press("Space");
  await stepIs(page, 2);
  await pass(page, 1);
  await page.keyboard.press("Space"); // sets off
  await pass(page, 3);
  await ringSays(page, "corner 1");
  await page.keyboard.press("Space"); // rests
  await pass(page, 5.5);
  await reads(page.locator("#ring-small"), /of 5 s, corner 1 of 2/);
  await page.keyboard.press("Space");
  await pass(page, 3);
  await page.keyboard.press("Space");
  await pass(page, 2);
  await page.keyboard.press("Space");
  await pass(page, 3);
  await ringSays(page, "flying");
  await page.keyboard.press("Space"); // the end
  await stepIs(page, 3);
  await pass(page, 1);
  await page.keyboard.press("l");
  await pass(page, 1);
  await page.keyboard.press("Enter");
  await until(page, () => !document.querySelector("#view-verdict")?.hidden);
  const verdict = await page.locator("#view-verdict").innerText();
  assert.match(verdict, /fail/);
  assert.match(verdict, /rested [12]\.\d s.*5\.0 s are needed/);
  assert.deepEqual(wrong, []);
  await page.context().close();
});

test("a dodge is called by the big button, its answer timed, and a late one fails it", async () => {
  const { page, wrong } = await padFor("drill=nose-in-dodge&side=left&aids=position-hold");
  await page.tap("#big");
  await begun(page);
  await pass(page, 4);
  await page.tap("#big"); // in position
  await stepIs(page, 2);
  await pass(page, 3.5);
  await stepIs(page, 3);
  await page.tap("#big"); // turns
  await pass(page, 6);
  await page.tap("#big"); // stands
  await pass(page, 1.5);
  await stepIs(page, 4);
  await pass(page, 1); // in position, nose-in: the call is what comes next
  await until(page, () => /Dodge left/.test(document.querySelector("#big")?.textContent ?? ""));
  await accessible(page, "the pad with a call to make");
  await page.tap("#big");
  await pass(page, 4);
  assert.match(await page.locator("#ring-small").textContent(), /tap when answered/);
  // pressed twice, it does not end
  await until(page, () => /Answered/.test(document.querySelector("#big")?.textContent ?? ""));
  await page.tap("#big"); // it has dodged, too late
  await pass(page, 1);
  await page.tap("#big"); // back in position
  await pass(page, 6.5);
  await stepIs(page, 5);
  await page.tap("#big");
  await pass(page, 1);
  await page.tap("#big");
  await until(page, () => !document.querySelector("#view-verdict")?.hidden);
  const verdict = await page.locator("#view-verdict").innerText();
  assert.match(verdict, /fail/);
  assert.match(verdict, /answered after \d+\.\d+ s; the limit is 3\.2/);
  assert.deepEqual(wrong, []);
  await page.context().close();
});

test("a log of an eight with unequal lobes is scored alike here and on the command line", async () => {
  // Two circles that touch, flown toward the pilot at the middle, the right one larger.
  const rows = ["t_s,x_m,y_m,z_m,heading_deg"];
  let t = 0;
  const put = (x, y, z) => {
    rows.push(`${t.toFixed(2)},${x.toFixed(3)},${y.toFixed(3)},${z.toFixed(3)},0`);
    t += 0.1;
  };
  for (let i = 0; i < 10; i++) put(0, 4.8, 0);
  for (let i = 0; i <= 25; i++) put(0, 4.8, i / 10);
  for (let i = 0; i <= 40; i++) put(0, 4.8 + (7.2 * i) / 40, 2.5);
  for (const [side, r] of [
    [-1, 4],
    [1, 5.4],
  ])
    for (let i = 0; i <= 200; i++) {
      const a = (i / 200) * 2 * Math.PI;
      put(side * r * (1 - Math.cos(a)), 12 - r * Math.sin(a), 2.5);
    }
  for (let i = 0; i <= 40; i++) put(0, 12 - (7.2 * i) / 40, 2.5);
  for (let i = 0; i <= 50; i++) put(0, 4.8, 2.5 - i / 20);
  for (let i = 0; i < 25; i++) put(0, 4.8, 0);
  const dir = await mkdtemp(path.join(tmpdir(), "maestrale-eight-"));
  const file = path.join(dir, "eight.csv");
  await writeFile(file, rows.join("\n") + "\n");
  const { stdout } = await promisify(execFile)(path.join(root, "bin/maestrale"), [
    "score",
    "--drill",
    "eight-kept",
    "--side",
    "left",
    file,
  ]);
  const scored = JSON.parse(stdout);
  assert.equal(scored.verdict, "fail");
  assert.ok(Math.abs(scored.steps[1].metrics.radius_ratio - 1.35) < 0.02, JSON.stringify(scored.steps[1].metrics));
  const page = await signedIn(is.browser, is.demo.url);
  await page.click("text=Nives Torcellan");
  await page.waitForURL("**/students/*");
  await page.goto(`${new URL(page.url()).pathname}/log?drill=eight-kept&side=left`);
  await page.setInputFiles("#file", file);
  await page.click("text=Show the log");
  await page.waitForSelector(".preview");
  const faults = await page.locator(".preview .faults").innerText();
  for (const f of scored.faults) assert.ok(faults.includes(f.text), `${f.text} is not in ${faults}`);
  assert.match(faults, /lobes is 3\d % larger/);
  assert.ok(
    (await page.locator("svg.plan path.corridor").count()) >= 2,
    "the figure is drawn as wide as it may be flown",
  );
  await accessible(page, "the preview of an eight");
  if (process.env.LOOK) await page.screenshot({ path: "/tmp/look/eight.png", fullPage: true });
  await page.context().close();
});

test("a debrief plays: one moment in every drawing, by keyboard, and another attempt over it", async () => {
  const page = await signedIn(is.browser, is.demo.url);
  const wrong = [];
  page.on("pageerror", (e) => wrong.push(e.message));
  await page.click("text=Nives Torcellan");
  await page.waitForURL("**/students/*");
  await page.goto(`${new URL(page.url()).pathname}/log?drill=hover-tail-in`);
  await page.setInputFiles("#file", path.join(root, "examples/hover-drift.csv"));
  await page.click("text=Show the log");
  await page.waitForSelector(".preview");
  await page.keyboard.press("n");
  await page.waitForURL("**/attempts/*");
  await page.waitForSelector("svg.plan .replay-craft");
  await accessible(page, "a debrief that plays");
  const now = () => page.evaluate(() => maestraleReplay.now());
  const begin = await now();
  await page.keyboard.press("ArrowRight");
  assert.ok(Math.abs((await now()) - begin - 0.5) < 1e-6);
  await page.keyboard.press("Space");
  await page.waitForFunction((t) => maestraleReplay.now() > t + 0.7, begin);
  await page.keyboard.press("Space");
  const paused = await now();
  await page.waitForTimeout(200);
  assert.equal(await now(), paused, "Space pauses");
  // At the fault the craft stands where the fault is drawn.
  await page.keyboard.press("]");
  const at = await page.evaluate(() => {
    const mid = (e) => {
      const b = e.getBoundingClientRect();
      return [b.x + b.width / 2, b.y + b.height / 2];
    };
    return [
      mid(document.querySelector("svg.plan .replay-craft")),
      mid(document.querySelector("svg.plan .fault-mark path")),
    ];
  });
  assert.ok(Math.hypot(at[0][0] - at[1][0], at[0][1] - at[1][1]) < 12, `the craft is drawn ${at}`);
  await reads(page.locator("#rp-says"), /^1[45]\.\d s · 1\.\d m up · tail-in$/);
  // A note to this moment; from it the replay comes back here.
  await page.fill("#note", "The gust came from your left: answer with the right stick first.");
  await page.click("text=Pin the note");
  await page.waitForSelector(".notes li[data-t]");
  await page.locator(".notes li").click();
  assert.ok((await now()) > 13, "the note leads to its moment");
  await accessible(page, "a debrief with a note");
  // On a phone the drawings over time are wider than the screen; the moment stays in sight.
  await page.setViewportSize({ width: 390, height: 844 });
  for (const share of ["1000", "0", "600"]) {
    await page.locator("#rp-at").fill(share);
    const seen = await page.locator(".replay-cursor").evaluateAll((all) =>
      all.map((c) => {
        const line = c.getBoundingClientRect(),
          view = c.closest(".scroll").getBoundingClientRect();
        return c.closest(".scroll").scrollWidth > view.width && line.x >= view.x && line.x <= view.right;
      }),
    );
    assert.deepEqual(seen, [true, true, true], `the moment at ${share} of 1000 is in sight`);
  }
  await page.setViewportSize({ width: 1280, height: 800 });
  // The best of the others over it.
  await page.selectOption("#with", { index: 1 });
  await page.click("text=Draw >> nth=-1");
  await page.waitForSelector("svg.plan path.flown.other");
  await reads(page.locator(".drawing-part"), /the other one/);
  if (process.env.LOOK) await page.screenshot({ path: "/tmp/look/replay.png" });
  assert.deepEqual(wrong, []);
  await page.context().close();
});
