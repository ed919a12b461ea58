// What an instructor does in a browser, from the sign-in to the record.
import assert from "node:assert/strict";
import { execFile } from "node:child_process";
import path from "node:path";
import { test } from "node:test";
import { promisify } from "node:util";
import {
  accessible,
  atThePad,
  atTheDemo,
  begun,
  complaints,
  counts,
  fits,
  holdClock,
  pass,
  password,
  patience,
  reads,
  root,
  signedIn,
  swipe,
  until,
} from "./browser.mjs";

const is = atTheDemo();

const phone = { width: 390, height: 844, hasTouch: true };

/** Opens a student's pad for a drill, with the clock in the test's hands. */
async function openPad(page, name, drill, side = "none") {
  await page.click(`text=${name}`);
  const at = new URL(page.url()).pathname;
  await holdClock(page);
  await page.goto(`${at}/mark?drill=${drill}&side=${side}&aids=position-hold`);
  await atThePad(page);
  return at;
}

const says = (page, selector, words) =>
  until(page, ([at, w]) => document.querySelector(at)?.textContent?.includes(w), [selector, words]);
const ended = (page) => until(page, () => !document.querySelector("#view-verdict")?.hidden);

test("a hover is marked to a pass on a phone in under ten taps, and the standing changes", async () => {
  const context = await is.browser.newContext({
    viewport: { width: 390, height: 844 },
    hasTouch: true,
    baseURL: is.demo.url,
  });
  context.setDefaultTimeout(patience);
  const page = await context.newPage();
  const wrong = complaints(page);
  let taps = 0;
  const tap = async (selector) => {
    taps++;
    await page.locator(selector).first().click();
  };
  await page.goto("/sign-in");
  await accessible(page, "sign-in");
  await page.fill("#email", "ettore@saline.example");
  await page.fill("#password", password);
  await tap("button:has-text('Sign in')");
  await page.waitForURL("**/students");
  await holdClock(page);
  await tap("text=Amina Corvelli");
  await page.waitForURL("**/students/*");
  const student = page.url();
  await tap("a.go[href*='drill=hover-tail-in']");
  taps++; // the PIN, once a day
  await atThePad(page);
  await reads(page.locator(".pad-before"), /untried/);
  await tap("#big"); // start
  await begun(page);
  await pass(page, 5);
  await tap("#big"); // in position
  await until(page, () => /^\d+\.\d$/.test(document.querySelector("#ring-big")?.textContent ?? "")); // the clock runs
  await accessible(page, "the pad while it is flown");
  await pass(page, 12);
  await pass(page, 12);
  await says(page, "#big", "Landed");
  await tap("#big"); // landed
  await until(page, () => !document.querySelector("#view-place")?.hidden);
  await accessible(page, "the pad's landing");
  taps++;
  await page.locator(".pad-target").click({ position: { x: 88, y: 80 } });
  await pass(page, 1);
  await tap("#big"); // done
  await ended(page);
  await reads(page.locator("#v-word"), /^pass$/);
  await reads(page.locator("#v-standing"), /passed.*still to fly/);
  assert.ok(taps < 10, `${taps} taps`);
  await accessible(page, "the verdict");
  await tap("#v-student");
  await page.waitForURL(student);
  const first = page.locator(".latest tbody tr").first();
  await reads(first, /pass[\s\S]*Tail-in hover/);
  assert.deepEqual(wrong, []);
  await context.close();
});

test("a sided drill is marked by keyboard alone, and the other side is offered", async () => {
  const page = await signedIn(is.browser, is.demo.url);
  const wrong = complaints(page);
  await openPad(page, "Sibilla Nordest", "yaw-quarter", "left");
  const key = async (k, seconds) => {
    await page.keyboard.press(k);
    await pass(page, seconds);
  };
  await key("Enter", 0); // start
  await begun(page);
  await pass(page, 4);
  await key("Space", 6); // in position, three seconds and one
  await says(page, "#step-name", "step 3 of 7");
  await key("Space", 3); // it turns
  await key("Space", 2); // it stands; then the hold at the new heading
  await says(page, "#step-name", "step 5 of 7");
  await key("Space", 3);
  await key("Space", 2);
  await says(page, "#step-name", "step 7 of 7");
  await page.keyboard.press("l");
  await pass(page, 1);
  await page.locator(".pad-target").focus();
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("ArrowUp");
  await key("Enter", 1); // where it touched
  await page.locator(".pad-target").blur();
  await key("Enter", 1);
  await ended(page);
  await reads(page.locator("#v-word"), /^pass$/);
  await reads(page.locator("#big"), /Next side: right/);
  await pass(page, 2); // a late tap does not go on
  await page.keyboard.press("Enter");
  await page.waitForURL(/side=right/);
  await reads(page.locator("#pad-mark .pad-drill"), /Quarter turn and back, right/);
  assert.deepEqual(wrong, []);
  await page.context().close();
});

test("out to the left fails, undo takes it back, and a void does not count", async () => {
  const page = await signedIn(is.browser, is.demo.url, phone);
  await openPad(page, "Teo Brusaferal", "hover-tail-in");
  await page.click("#big");
  await begun(page);
  await pass(page, 4);
  await page.click("#big");
  await pass(page, 5);
  await swipe(page, -90, 0);
  await pass(page, 1);
  await says(page, "#ring-say", "left the box to the left");
  await page.click("#b-undo");
  await pass(page, 1);
  await until(page, () => !document.querySelector("#ring-say")?.textContent?.includes("left the box"));
  await page.click("#b-fault");
  await accessible(page, "the faults");
  await page.click("[data-void='a gust']");
  await ended(page);
  await reads(page.locator("#v-word"), /^void$/);
  await page.context().close();
});

test("without a network the marks wait on the device and are sent once", async () => {
  const page = await signedIn(is.browser, is.demo.url, phone);
  await openPad(page, "Marko Ulivanic", "hover-tail-in");
  await page.click("#big");
  await begun(page);
  await pass(page, 4);
  await page.context().setOffline(true);
  await page.click("#big");
  await pass(page, 1);
  await swipe(page, 90, 0);
  await says(page, "#unsent", "3 marks of 1 attempt not sent yet");
  await page.reload(); // the page was closed in between, where no network reaches
  await page.waitForSelector("#view-fly:not([hidden])");
  await says(page, "#unsent", "3 marks of 1 attempt not sent yet");
  await page.context().setOffline(false);
  await says(page, "#unsent", "all sent");
  await page.click("#b-fault");
  await page.click("[data-void='the instructor stopped it']");
  await ended(page);
  await page.click("#v-debrief");
  await page.click("summary:has-text('marks')");
  const marks = await page.locator("details[open] tbody tr td:nth-child(2)").allTextContents();
  assert.deepEqual(marks, ["start", "in", "out", "void"]);
  await page.context().close();
});

test("the shipped log shows its fault at the right place, here and on the command line", async () => {
  const page = await signedIn(is.browser, is.demo.url);
  const wrong = complaints(page);
  await page.click("text=Nives Torcellan");
  await page.waitForURL("**/students/*");
  const student = page.url();
  await page.keyboard.press("l");
  await page.waitForURL("**/log");
  await accessible(page, "the form of a log");
  const file = path.join(root, "examples/hover-drift.csv");
  await page.setInputFiles("#file", file);
  await page.click("text=Show the log");
  await page.waitForSelector(".preview");
  await accessible(page, "the preview of a log");
  const { stdout } = await promisify(execFile)(path.join(root, "bin/maestrale"), [
    "score",
    "--drill",
    "hover-tail-in",
    "--craft",
    "poiana",
    file,
  ]);
  const scored = JSON.parse(stdout);
  assert.equal(scored.verdict, "fail");
  assert.equal(scored.faults.length, 1);
  assert.equal(scored.faults[0].toward, "right");
  await reads(page.locator(".faults li"), new RegExp(scored.faults[0].text.replaceAll(".", "\\.")));
  // The fault stands on the right-hand edge of the box in the drawing.
  const box = await page.locator("svg.plan circle.limit").first().boundingBox();
  const mark = await page.locator("svg.plan .fault-mark path").first().boundingBox();
  const x = mark.x + mark.width / 2 - (box.x + box.width / 2);
  const y = mark.y + mark.height / 2 - (box.y + box.height / 2);
  assert.ok(
    Math.abs(Math.hypot(x, y) - box.width / 2) < 3 && x > 0.9 * Math.hypot(x, y),
    `fault ${x}, ${y} in a box of ${box.width / 2}`,
  );
  await page.keyboard.press("n"); // keep
  await page.waitForURL("**/attempts/*");
  await accessible(page, "the debrief");
  await reads(page.locator(".big-verdict"), /fail/);
  await page.keyboard.press("]");
  assert.equal(await page.evaluate(() => document.activeElement?.id), "fault-1");
  // What the screen keeps is what the command line prints.
  await reads(page.locator(".big-verdict .why"), new RegExp(scored.margin.toFixed(2).replace("-", "−")));
  await page.locator(".big-verdict .why").focus();
  await page.keyboard.press("w");
  await page.waitForSelector("#slip h2");
  await accessible(page, "a why slip");
  await page.keyboard.press("Escape");
  assert.ok(await page.locator("#slip").isHidden());
  await page.goto(student);
  await reads(page.locator(".latest tbody tr").first(), /to the right of the marker/);
  assert.deepEqual(wrong, []);
  await page.context().close();
});

test("every view is accessible in both themes and fits from 360 to 1920", async () => {
  const page = await signedIn(is.browser, is.demo.url);
  const wrong = complaints(page);
  await page.click("text=Bruno Fasolar");
  await page.waitForURL("**/students/*");
  const student = new URL(page.url()).pathname;
  const debrief = await page.locator(".latest tbody a").first().getAttribute("href");
  await fits(page, [
    "/students",
    student,
    debrief,
    `${student}/log`,
    `${student}/mark`,
    "/programmes",
    "/programmes/drills/yaw-quarter",
    "/jump?q=tail",
  ]);
  assert.deepEqual(wrong, []);
  await page.context().close();
});

test("jumping, walking and the keys work without a mouse", async () => {
  const page = await signedIn(is.browser, is.demo.url);
  await page.keyboard.press("/");
  await page.keyboard.type("radu");
  await page.waitForSelector("#jump-hits a");
  await accessible(page, "the jump");
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Enter");
  await page.waitForURL("**/students/*");
  await reads(page.locator("h1"), /Radu Petrinel/);
  await page.keyboard.press("?");
  await page.waitForSelector("#keys-dialog[open]");
  await page.keyboard.press("Escape");
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Enter");
  await page.waitForURL("**/attempts/*");
  await page.keyboard.press("n");
  await page.waitForURL("**/pad#*");
  await page.context().close();
});

test("a student sees the own record and nobody else's", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "nives@saline.example" });
  await reads(page.locator("h1"), /Nives Torcellan/);
  await counts(page.locator("text=Mark an attempt"), 0);
  await accessible(page, "the own record");
  assert.equal((await page.goto("/students")).status(), 403);
  await page.context().close();
});

test("a chief changes a drill, sees it drawn, is told of a mistake at its line, and takes it back", async () => {
  const page = await signedIn(is.browser, is.demo.url);
  const wrong = complaints(page);
  await page.goto("/programmes/drills/high-hover");
  await page.click("text=Change this drill");
  await page.waitForURL("**/programmes/write?drill=high-hover");
  const text = await page.inputValue("#source");
  await page.fill("#source", text.replace("minutes:", "minuets:"));
  await reads(page.locator("#said"), /Line \d+: unknown key "minuets"[\s\S]*minuets:/);
  await accessible(page, "a drill with a mistake");
  const seconds = Number(text.match(/seconds: (\d+)/)[1]);
  await page.fill("#source", text.replace(`seconds: ${seconds}`, `seconds: ${seconds + 7}`));
  await reads(page.locator("#said"), new RegExp(`Hold for ${seconds + 7} s`));
  await counts(page.locator("#said svg.plan"), 1);
  await accessible(page, "a drill that is being written");
  await page.click("text=Save as the school's own");
  await page.waitForURL("**/programmes/drills/high-hover");
  await reads(page.locator("main"), new RegExp(`Hold for ${seconds + 7} s`));
  await page.click("text=Change this drill");
  await reads(page.locator("main"), /The school's own[\s\S]*Versions[\s\S]*Livia Marangon/);
  await page.click("text=Return to the built-in version");
  await page.waitForURL("**/programmes/drills/high-hover");
  await reads(page.locator("main"), new RegExp(`Hold for ${seconds} s`));
  assert.deepEqual(wrong, []);
  await page.context().close();
});

test("sign-out ends it, and a wrong password says so", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "mirta@saline.example" });
  await page.click(".who summary");
  await page.click("text=Sign out");
  await page.waitForURL("**/sign-in");
  await page.fill("#email", "mirta@saline.example");
  await page.fill("#password", "wrong");
  await page.click("button:has-text('Sign in')");
  await reads(page.locator("[role=alert]"), /do not match/);
  await page.context().close();
});
