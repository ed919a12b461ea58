// An instructor's day: what is not checked does not fly with a student, the wind rises, a pack fails, somebody leaves;
// and what the school says of one who is stuck, one who is weaker on a side, and one who is ready.
import assert from "node:assert/strict";
import { test } from "node:test";
import { accessible, atTheDemo, counts, reads, signedIn } from "./browser.mjs";

const is = atTheDemo();

const board = (page) => page.locator("#board");
/** Submits a form of the day and waits for the board that follows. */
async function change(page, fill, button) {
  await page.locator("#change-day").evaluate((d) => {
    d.open = true;
  });
  await fill();
  await page.locator(button).click();
  await page.waitForURL("**/today");
  await page.waitForSelector(".day-strip");
}

test("a day runs: unchecked craft, rising wind, a pack that fails, a student who leaves", async () => {
  const page = await signedIn(is.browser, is.demo.url);
  const wrong = [];
  page.on("pageerror", (e) => wrong.push(e.message));
  await page.goto("/today");
  await page.waitForSelector(".day-strip");
  // What nobody has checked stands first, and leads to its check.
  const craft = page.locator("#fold-craft tbody tr");
  await reads(craft.first(), /not checked today|to be proven/);
  await reads(craft.last(), /checked at \d\d:\d\d/);
  const unchecked = craft.filter({ hasText: "not checked today" }).first();
  const name = (await unchecked.locator("th").innerText()).trim();
  await unchecked.locator("a").click();
  await page.waitForURL("**/fleet/craft/*");
  await reads(page.locator("h1"), new RegExp(name));
  await page.goto("/today");
  await accessible(page, "Today with its craft");

  // The wind rises beyond what the lightest craft may fly in: they are left out for it, until it falls.
  await change(page, () => page.fill("#ch-wind", "8,4"), "button[name=do][value=wind]");
  await reads(board(page), /Left out[\s\S]*wind is over the limit/);
  await reads(page.locator(".sub-plan"), /8\.4 m\/s from now on, until it is changed/);
  const windy = await page.locator(".day-strip").innerHTML();
  await change(page, () => page.fill("#ch-wind", "2"), "button[name=do][value=wind]");
  assert.notEqual(await page.locator(".day-strip").innerHTML(), windy);

  // A pack fails: what it costs is said first, and nothing is changed before the answer.
  const row = page.locator(".pack-list tbody tr", { has: page.locator("button[value=dead]") }).first();
  const pack = (await row.locator("th").innerText()).trim();
  const plan = (await page.locator(".sub-plan").innerText()).match(/Plan \d+/)[0];
  await row.locator("button[value=dead]").click();
  await reads(page.locator("main").first(), new RegExp(`${pack} is taken out: nothing has been changed yet`));
  await accessible(page, "what a pack costs");
  await page.click("text=Leave it as it is");
  await page.waitForURL("**/today");
  assert.match(await page.locator(".sub-plan").innerText(), new RegExp(plan), "the plan is the one that stood");
  await page.locator(".pack-list tbody tr", { hasText: pack }).first().locator("button[value=dead]").click();
  await page.click("button[name=sure]");
  await page.waitForURL("**/today");
  await reads(page.locator(".pack-list tbody tr", { hasText: pack }).first(), /out/);
  await page.goto("/fleet");
  await reads(page.locator("tr", { hasText: pack }).first(), /out today/);

  // Somebody leaves, and is planned no more.
  await page.goto("/today");
  await page.waitForSelector(".day-strip");
  const leaver = (await page.locator(".next .aloft-who b").last().innerText()).replace(/^\d\d:\d\d /, "");
  await change(page, () => page.selectOption("#ch-student", { label: leaver }), "button[name=do][value=leaves]");
  await counts(page.locator(".next .aloft-who b", { hasText: leaver }), 0);
  await reads(page.locator(".sub-plan"), new RegExp(`${leaver} leaves`));
  assert.deepEqual(wrong, []);
  await page.context().close();
});

test("who is stuck goes back, the weaker side comes first, and who is close stands in Records", async () => {
  const page = await signedIn(is.browser, is.demo.url);
  await page.goto("/students");
  const rows = await page.locator("table[data-list] tbody tr td:nth-of-type(1)").allInnerTexts();
  assert.ok(rows.filter((r) => /^[A-Z].+/.test(r)).length >= rows.length / 2, `each has something next: ${rows}`);
  // Who needs attention comes first, and the list can be cut down to them.
  await reads(page.locator("table[data-list] .need-says").first(), /./);
  await page.locator(".needs a").nth(1).click();
  await page.waitForURL("**/students?show=*");
  assert.ok((await page.locator("table[data-list] tbody tr").count()) < rows.length);
  await page.fill("#st-q", "nobody of that name");
  await page.keyboard.press("Enter");
  await reads(page.locator("main"), /No student matches/);
  // The same answer stands on the student's page and in the lesson.
  for (const i of [0, 1, 2]) {
    await page.goto("/students");
    const r = page.locator("table[data-list] tbody tr").nth(i);
    const next = await r.locator("td").first().innerText();
    await r.locator("th a").click();
    await page.waitForURL("**/students/*");
    const drill = next.split(",")[0];
    await reads(page.locator("body"), new RegExp(drill.replace(/[()+.?]/g, ".")));
    await page.goto(`${page.url().split("?")[0]}/lesson`);
    await reads(page.locator("body"), new RegExp(drill.replace(/[()+.?]/g, ".")));
  }
  await page.goto("/records");
  await reads(page.locator("section[aria-labelledby=near-h]"), /attempt/);
  await reads(page.locator(".records"), /attempts at the field and \d+ in the simulator/);
  await reads(page.locator(".headline"), /Sign-offs in force/);
  await page.context().close();
});

test("on a phone three places and More are in reach, and Today begins with what is to be done", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "ettore@saline.example", width: 390, height: 844 });
  await page.goto("/today");
  await page.waitForSelector(".aloft");
  const row = page.locator("nav.places");
  assert.deepEqual(await row.locator("> a:visible, > details > summary").allInnerTexts(), [
    "Today",
    "Pad",
    "Students",
    "More",
  ]);
  assert.ok((await row.boundingBox()).height <= 60, "the row is low");
  assert.ok((await page.evaluate(() => document.documentElement.scrollHeight)) < 2500, "the page is short");
  // The first two buttons that something is marked and ended with stand above the fold.
  assert.ok((await page.locator(".aloft button:has-text('Landed')").first().boundingBox()).y < 740);
  await accessible(page, "Today on a phone");
  // More opens and closes by keyboard, and leads to the other places.
  const more = row.locator("summary");
  await more.focus();
  await page.keyboard.press("Enter");
  await page.waitForSelector(".more-places[open] a:has-text('Fleet')");
  await accessible(page, "the other places");
  await page.keyboard.press("Escape");
  await counts(page.locator(".more-places[open]"), 0);
  assert.equal(await page.evaluate(() => document.activeElement?.textContent), "More");
  await more.click();
  await page.click(".more-places a:has-text('Fleet')");
  await page.waitForURL("**/fleet");
  // Nothing runs out of a screen of 320 px.
  await page.setViewportSize({ width: 320, height: 700 });
  for (const at of ["/today", "/students", "/fleet"]) {
    await page.goto(at);
    assert.ok((await page.evaluate(() => document.documentElement.scrollWidth)) <= 320, `${at} fits 320 px`);
  }
  await page.context().close();
});

test("a planned flight is moved by keyboard, and what that breaks is said while it moves", async () => {
  const page = await signedIn(is.browser, is.demo.url);
  await page.goto("/today");
  const flights = page.locator(".day-strip g[data-flight]");
  await flights.last().focus();
  await page.keyboard.press("ArrowRight");
  await reads(page.locator("#strip-says"), / at \d\d:\d\d in box \d\. That breaks nothing\./);
  await page.keyboard.press("Escape");
  await reads(page.locator("#strip-says"), /^$/);
  await flights.first().focus();
  for (let i = 0; i < 14; i++) await page.keyboard.press("ArrowRight"); // onto the next one
  await reads(page.locator("#strip-says"), /Box \d is not free at \d\d:\d\d: .* flies there from/);
  await page.context().close();
});

test("a drill's drawing shows the nose at each step and can be played", async () => {
  const page = await signedIn(is.browser, is.demo.url);
  await page.goto("/programmes/drills/yaw-quarter");
  const figures = page.locator("[data-plays]");
  await counts(figures, 2);
  const [left, right] = [figures.nth(0), figures.nth(1)];
  assert.notEqual(await left.locator("svg").innerHTML(), await right.locator("svg").innerHTML(), "the sides differ");
  await accessible(page, "a drill");
  await left.locator("[data-play]").click();
  await reads(left.locator("li.now"), /Take off/);
  await page.waitForFunction(() => /Turn left/.test(document.querySelector("li.now")?.textContent ?? ""));
  await left.locator("[data-play]").click();
  await counts(page.locator("li.now"), 0);
  await page.context().close();
});
