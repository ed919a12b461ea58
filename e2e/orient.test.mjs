// The reflex trainer in a browser: a scripted student who is weak where the nose points
// right is found within 60 items.
import assert from "node:assert/strict";
import { test } from "node:test";
import { accessible, atTheDemo, complaints, fits, patience, reads, signedIn } from "./browser.mjs";

const is = atTheDemo();

/** The key that answers an item rightly, and one that does not: worked out here by itself. */
function keysFor(item) {
  const aspect = item.aspect_deg;
  if (item.yaw) return aspect > 0 ? ["a", "d"] : ["d", "a"];
  const toward = { left: -90, right: 90, closer: 180, away: 0 }[(item.words.match(/left|right|closer|away/) ?? [])[0]];
  const go = item.drift_deg === null ? toward : item.drift_deg + 180;
  const off = (((go - aspect) % 360) + 360) % 360; // from the nose, clockwise
  const all = ["ArrowUp", "ArrowRight", "ArrowDown", "ArrowLeft"];
  const k = Math.round(off / 90) % 4;
  return [all[k], all[(k + 2) % 4]];
}

test("the trainer finds the side that a student is weak on within 60 items", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "nives@saline.example" });
  const wrong = complaints(page);
  await page.click("a:has-text('Trainers')");
  await page.waitForURL("**/trainers");
  await accessible(page, "the trainers");
  await page.click("a:text-is('Reflexes')");
  await page.waitForURL("**/reflex");
  await accessible(page, "the reflex trainer");
  await page.evaluate(() => {
    globalThis.maestraleHaste = true;
  });
  await page.click("button:has-text('Five minutes')");
  for (let i = 0; i < 60; i++) {
    await page.waitForFunction(() => maestraleReflex.get().state === "shown", undefined, { timeout: patience });
    const item = await page.evaluate(() => maestraleReflex.get());
    const [right, bad] = keysFor(item);
    const weak = item.aspect_deg > 50 && item.aspect_deg < 130;
    await page.keyboard.press(weak && i % 5 !== 0 ? bad : right);
    await page.waitForFunction(([n]) => maestraleReflex.get().asked > n, [item.asked], { timeout: patience });
    const after = await page.evaluate(() => maestraleReflex.get());
    assert.equal(after.right - item.right, weak && i % 5 !== 0 ? 0 : 1, `${item.key} with ${weak ? bad : right}`);
  }
  await reads(page.locator("#reflex-advice"), /Five minutes tonight: weak at .*(nose right|of nose-in|of tail-in)/);
  await page.reload();
  await reads(page.locator("#reflex-advice"), /nose right|right of/);
  assert.ok((await page.locator(".reflex-ring .reflex-weak").count()) > 0, "the ring shows it");
  await accessible(page, "the reflexes after a session");
  assert.deepEqual(wrong, []);
});

test("an item whose page was out of sight is void, and not slow", async () => {
  const page = await signedIn(is.browser, is.demo.url, { width: 390, height: 844, hasTouch: true });
  await page.click("text=Bruno Fasolar");
  await page.click("a:has-text('Trainers')");
  await page.click("a:text-is('Reflexes')");
  await page.click("button:has-text('Two minutes')");
  await page.waitForFunction(() => maestraleReflex.get().state === "shown");
  await page.evaluate(() => {
    Object.defineProperty(document, "hidden", { value: true, configurable: true });
    document.dispatchEvent(new Event("visibilitychange"));
    Object.defineProperty(document, "hidden", { value: false, configurable: true });
  });
  await page.locator("[data-stick='1 0 0']").dispatchEvent("pointerdown");
  await reads(page.locator("#reflex-say"), /void/);
  assert.equal(await page.evaluate(() => maestraleReflex.get().asked), 0);
  // So is one during which the display stood still.
  await page.waitForFunction(() => maestraleReflex.get().state === "shown");
  await page.evaluate(async () => {
    const end = performance.now() + 600;
    while (performance.now() < end);
    await new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)));
  });
  await page.locator("[data-stick='1 0 0']").dispatchEvent("pointerdown");
  await reads(page.locator("#reflex-say"), /the display stood still/);
  await page.click("#reflex-sound");
  assert.equal(await page.locator("#reflex-sound").getAttribute("aria-pressed"), "true");
});

test("every view of the trainers is accessible in both themes and fits from 360 to 1920", async () => {
  const page = await signedIn(is.browser, is.demo.url);
  const wrong = complaints(page);
  await page.click("text=Ilario Penzoval");
  await page.waitForURL("**/students/*");
  const at = new URL(page.url()).pathname;
  await page.goto(`${at}/lost`);
  const run = await page.locator("a[href*='#known']").first().getAttribute("href");
  await fits(page, [
    "/fly",
    `${at}/trainers`,
    `${at}/reflex`,
    `${at}/lost`,
    `${at}/lost/sheet`,
    `${at}/sight`,
    "/fly/yaw",
    "/fly/yaw?drill=orbit",
    run.replace("#known", ""),
  ]);
  assert.deepEqual(wrong, []);
});
