// The lost craft in a browser: a dot is brought home by a student who knows nothing but
// what the coach says, and what could be known is shown after. How far a nose is told, noted
// with and without a network. The planned yaw.
import assert from "node:assert/strict";
import { test } from "node:test";
import {
  accessible,
  atTheDemo,
  atTheRadio,
  complaints,
  finished,
  fly,
  patience,
  reads,
  signedIn,
  state,
  backOnline,
} from "./browser.mjs";

const is = atTheDemo({ gl: true });

/** Does what the coach says. */
async function obey(page, told) {
  const turn = told.says.match(/turn (\d+)° to the (left|right)/);
  if (turn) await fly(page, Number(turn[1]) / 45, { yaw: turn[2] === "left" ? -0.5 : 0.5, pitch: 0 });
  if (/nose (left|right)/.test(told.says)) return fly(page, 1, { yaw: /left/.test(told.says) ? -0.5 : 0.5, pitch: 0 });
  return fly(page, 1.2, { yaw: 0, pitch: /pull back/.test(told.says) ? -0.5 : 0.5 });
}

test("a lost craft is a dot, the coach leads home, and what could be known is shown", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "nives@saline.example" });
  const wrong = complaints(page);
  await page.click("a:has-text('Trainers')");
  await page.click("a:text-is('Lost craft')");
  await page.waitForURL("**/lost");
  await accessible(page, "the lost craft's grades");
  await page.keyboard.press("n"); // the grade that is due
  await page.waitForURL("**/fly?lost=still**");
  await atTheRadio(page, page.url());
  assert.equal(await page.evaluate(() => maestraleFly.lost()), true);
  assert.equal(await page.locator("#inset-plan").isVisible(), false, "the inset would say where the nose is");
  assert.ok((await page.locator("#f-view").isDisabled()) && (await page.locator("#f-zoom").isDisabled()));
  await fly(page, 0.5, { throttle: 0 });
  const from = await state(page, "y");
  await page.keyboard.press("k");
  await reads(page.locator("#f-say"), /practice now/);
  for (let i = 0; i < 30 && (await page.evaluate(() => maestraleFly.lost())); i++) {
    await obey(page, await page.evaluate(() => JSON.parse(maestraleSim.coach())));
    await page.evaluate(() => maestraleFly.draw());
  }
  assert.equal(await page.evaluate(() => maestraleFly.lost()), false, "it is near and seen");
  assert.ok(Math.hypot(await state(page, "x"), await state(page, "y")) < from, "it is nearer than it was");
  assert.ok((await state(page, "t")) < 40, `home within ${await state(page, "t")} s`);
  await page.waitForSelector("#inset-plan:visible");
  await fly(page, 1, { pitch: 0, yaw: 0 });
  const came = await finished(page);
  assert.match(came, /Practice: the coach was asked/);
  await page.click("#r-debrief");
  await page.waitForSelector("#known");
  await reads(page.locator("#known"), /The most informative movement was .+ bits/);
  assert.ok((await page.locator("#known .known-ring").count()) > 3);
  await accessible(page, "what could be known");
  assert.deepEqual(wrong, []);
});

test("calls are noted, undone, kept without a network, and sent when it is back", async () => {
  const page = await signedIn(is.browser, is.demo.url, { width: 390, height: 844, hasTouch: true });
  const wrong = complaints(page);
  await page.click("text=Teo Brusaferal");
  await page.click("a:has-text('Trainers')");
  await page.click("a:text-is('Visual range')");
  await page.waitForURL("**/sight");
  await reads(page.locator("#sight-ask"), /Carry it to \d+ m/);
  await accessible(page, "how far a nose is told");
  const get = () => page.evaluate(() => maestraleSight.get());
  const note = async (right) => {
    const was = await get();
    await page.click(`[data-called='${right ? was.aspect : -1}']`);
    await page.waitForFunction(([n]) => maestraleSight.get().calls === n, [was.calls + 1], { timeout: patience });
  };
  const tells = 45; // these eyes
  await note(true);
  await page.keyboard.press("u");
  await reads(page.locator("#sight-sent"), /undone/);
  assert.equal((await get()).calls, 0);
  for (let i = 0; i < 12; i++) await note((await get()).mark_m <= tells);
  await page.context().setOffline(true);
  for (let i = 0; i < 6; i++) await note((await get()).mark_m <= tells);
  await reads(page.locator("#sight-sent"), /kept on this device/);
  assert.ok((await get()).kept >= 5);
  await backOnline(page);
  await note((await get()).mark_m <= tells);
  // the last can still be undone
  await page.waitForFunction(() => globalThis.maestraleSight?.get().kept <= 1, undefined, { timeout: patience });
  const fit = await get();
  assert.ok(fit.half_m > 25 && fit.half_m < 80 && !fit.from_cue, `half way at ${fit.half_m} m`);
  await page.reload();
  await page.waitForFunction(() => globalThis.maestraleSight?.get().kept === 0, undefined, { timeout: patience });
  await page.reload();
  await reads(page.locator("#sight-from"), /by 19 calls/);
  assert.deepEqual(
    wrong.filter((w) => !/ERR_INTERNET_DISCONNECTED|Failed to load|htmx:(sendError|afterRequest), .*Paragraph/.test(w)),
    [],
  );
});

test("the spotter's sheet, and a yaw that is planned before it is flown", async () => {
  const page = await signedIn(is.browser, is.demo.url);
  await page.click("text=Ilario Penzoval");
  await page.click("a:has-text('Trainers')");
  await page.click("a:text-is('Lost craft')");
  await page.click("text=The protocol as a sheet");
  await reads(page.locator("main"), /left for [\d.]+ s, then right for [\d.]+ s/);
  await accessible(page, "the spotter's sheet");
  await page.goto("/fly/yaw");
  await accessible(page, "planned yaw");
  await page.selectOption("#drill", "own");
  await page.click("text=Plan >> nth=-1");
  await page.fill("#speed", "3");
  await page.fill("#offset", "6");
  await page.click("button:text-is('Plan')");
  await reads(page.locator("main"), /The yaw rate reaches 29 °\/s/); // 3/6 rad/s
  assert.equal(await page.locator(".yaw-curve .yaw-plan").count(), 1);
});
