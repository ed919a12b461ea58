// The marking pad where no network reaches, on one device and on two, and the board that
// hears of it.
import assert from "node:assert/strict";
import { test } from "node:test";
import { accessible, atThePad, atTheDemo, hold, patience, reads, signedIn, backOnline } from "./browser.mjs";

const is = atTheDemo();

/** A pad on a device that has the day and can do without a network. */
async function pad(email) {
  const page = await signedIn(is.browser, is.demo.url, { email, width: 390, height: 844, hasTouch: true });
  await page.goto("/pad");
  await atThePad(page);
  await page.waitForSelector(".away-student");
  await reads(page.locator("#away-kept"), /opens without a network/);
  await page.waitForFunction(() => navigator.serviceWorker.controller !== null);
  return page;
}

/** Marks an attempt of a student that ends where it is. */
async function mark(page, name, { fault = false } = {}) {
  await page.click(`.away-student:has-text("${name}")`);
  await page.waitForSelector("#m-steps li");
  await page.click("#big");
  await page.waitForTimeout(500);
  await page.click("#big"); // in position
  if (fault) {
    await page.click("#b-fault");
    await page.click("#m-faults >> text=Height lost");
  }
  await hold(page, "#b-end"); // end it here
  await page.waitForFunction(() => !document.querySelector("#view-verdict").hidden);
  const said = await page.locator("#view-verdict").innerText();
  await page.click("#away-back");
  await page.waitForSelector(".away-student");
  return said;
}

// a list that is not drawn yet has no lines
const rows = async (page) => (await page.locator(".away-student").allInnerTexts()).map((t) => t.replace(/\n/g, ""));
const unsent = (page) => page.locator("#away-unsent").innerText();
const record = async (page) => {
  const day = await (await page.request.get("/pad/day")).json();
  return Object.fromEntries(
    day.students.map((s) => [
      s.name,
      s.evidence.filter((e) => Date.now() - Date.parse(e.at) < 3600_000).sort((a, b) => (a.at < b.at ? -1 : 1)),
    ]),
  );
};

test("three students are marked offline, the page is killed, and everything arrives once", async () => {
  let page = await pad("ettore@saline.example");
  await accessible(page, "the list of the pad");
  const before = await record(page);
  const context = page.context();
  await context.setOffline(true);
  assert.match(await mark(page, "Amina Corvelli"), /incomplete/);
  assert.match(await mark(page, "Bruno Fasolar", { fault: true }), /fail/);
  await mark(page, "Dunja Velkovar");
  assert.match(await unsent(page), /^\d+ marks of 3 attempts not sent yet$/);
  // An attempt is under way as the page is killed.
  await page.click('.away-student:has-text("Ginevra Altamor")');
  await page.click("#big");
  await page.waitForTimeout(500);
  await page.click("#big");
  await reads(page.locator("#unsent"), /of 4 attempts/);
  await page.close({ runBeforeUnload: false });

  page = await context.newPage();
  await page.goto("/pad");
  await page.waitForSelector(".away-student");
  assert.match(await unsent(page), /of 4 attempts not sent yet/);
  assert.match((await rows(page))[0], /1 marked here/);
  await page.click('.away-student:has-text("Ginevra Altamor")');
  await page.waitForFunction(() => !document.querySelector("#view-fly").hidden);
  await hold(page, "#b-end");
  await page.waitForFunction(() => !document.querySelector("#view-verdict").hidden);
  await page.click("#away-back");
  await page.waitForTimeout(11_000); // until then it can be withdrawn, and is no evidence yet
  await mark(page, "Amina Corvelli");
  const here = (await rows(page)).map((r) => r.replace(/ · \d+ marked here/, ""));

  await context.setOffline(false);
  await reads(page.locator("#away-unsent"), /all sent/);
  const now = await record(page);
  const fresh = Object.fromEntries(
    Object.entries(now)
      .map(([name, list]) => [name, list.length - (before[name]?.length ?? 0)])
      .filter(([, n]) => n > 0),
  );
  assert.deepEqual(fresh, { "Amina Corvelli": 2, "Bruno Fasolar": 1, "Dunja Velkovar": 1, "Ginevra Altamor": 1 });
  await page.click("#away-again");
  await page.waitForFunction(() => document.querySelector("#away-state").textContent === "");
  assert.deepEqual(
    (await rows(page)).map((r) => r.replace(/ · \d+ marked here/, "")),
    here,
    "the school's standings are the pad's",
  );
  await page.reload();
  await page.waitForSelector(".away-student");
  await reads(page.locator("#away-unsent"), /all sent/);
  assert.deepEqual(await record(page), now);
  await context.close();
});

test("two devices that marked the same flight are shown to a person", async (t) => {
  const [a, b] = [await pad("ettore@saline.example"), await pad("mirta@saline.example")];
  const board = await signedIn(is.browser, is.demo.url);
  await board.goto("/today");
  await board.waitForSelector(".day-strip");
  await a.context().setOffline(true);
  await b.context().setOffline(true);
  await Promise.all([mark(a, "Olga Stivanel"), mark(b, "Olga Stivanel")]);
  await a.context().setOffline(false);
  await reads(a.locator("#away-unsent"), /all sent/);
  assert.equal(await board.locator("#twice-h").count(), 0);
  await b.context().setOffline(false);
  await reads(b.locator("#away-unsent"), /all sent/);
  const sent = Date.now();
  await board.waitForSelector("#twice-h", { timeout: patience });
  t.diagnostic(`the board said so ${Date.now() - sent} ms after the device knew that it was kept`);
  const twice = await board.locator(".twice").innerText();
  assert.match(twice, /by Ettore Scarpaval/);
  assert.match(twice, /by Mirta/);
  await accessible(board, "the board with a conflict");
  await board.locator(".twice button").first().click();
  await board.waitForLoadState();
  assert.equal(await board.locator("#twice-h").count(), 0);
  for (const page of [a, b, board]) await page.context().close();
});

test("a flight begins and lands with one tap, and a second browser sees it", async (t) => {
  const [one, two] = [
    await signedIn(is.browser, is.demo.url, { email: "ettore@saline.example" }),
    await signedIn(is.browser, is.demo.url, { width: 390, height: 844 }),
  ];
  for (const page of [one, two]) {
    await page.goto("/today");
    await page.waitForSelector("article.aloft");
  }
  await accessible(one, "Today");
  await accessible(two, "Today on a phone");
  const aloft = await two.locator("article.aloft").count();
  const sees = (n) =>
    two.waitForFunction((k) => document.querySelectorAll("article.aloft").length === k, n, { timeout: patience });
  for (let n = aloft; n > 0; n--) {
    await one.locator("article.aloft button:has-text('Landed')").first().click();
    await one.waitForFunction((k) => document.querySelectorAll("article.aloft").length === k, n - 1);
    await sees(n - 1);
  }
  await one.locator(".next .begin button").first().click();
  await one.waitForSelector("article.aloft");
  const begun = Date.now();
  await sees(1);
  t.diagnostic(`the second board changed ${Date.now() - begun} ms after the first`);
  // A flight is moved with the keys: what it breaks is said, and what breaks nothing is kept.
  const flight = one.locator("g.flight.planned").last();
  await flight.focus();
  for (let i = 0; i < 3; i++) await one.keyboard.press("ArrowRight");
  await one.keyboard.press("Enter");
  await reads(one.locator("#move-says"), /breaks/);
  assert.match(await one.locator("#move-says").innerText(), /breaks nothing/);
  await one.click("#move-keep");
  await one.waitForFunction(() => !document.querySelector("#move-dialog").open);
  await one.waitForFunction(() => document.querySelector(".sub-plan").textContent !== "");
  await one.reload();
  assert.match(await one.locator(".sub-plan").innerText(), /moved by hand/);
  for (const page of [one, two]) await page.context().close();
});

test("calls of the nose are noted on a device without a network, and sent once", async () => {
  const page = await pad("mirta@saline.example");
  const calls = () => page.evaluate(() => maestraleSight.get());
  await page.click('.away-student:has-text("Amina Corvelli")');
  await page.waitForSelector("#m-steps li");
  await page.context().setOffline(true);
  await page.click("#m-calls");
  await reads(page.locator("#sight-ask"), /Carry it to \d+ m/);
  await accessible(page, "the calls on the pad");
  for (let i = 0; i < 9; i++) {
    const was = await calls();
    await page.click(`[data-called='${was.mark_m <= 50 ? was.aspect : -1}']`);
    await page.waitForFunction(([n]) => maestraleSight.get().calls === n, [was.calls + 1], { timeout: patience });
  }
  await page.waitForFunction(() => maestraleSight.get().shelved === 9, undefined, { timeout: patience });
  await page.reload(); // the device has the page, the rules and what was noted
  await page.waitForFunction(() => globalThis.maestraleSight?.get().kept === 9, undefined, { timeout: patience });
  assert.equal((await calls()).calls, 9);
  await page.selectOption("#c-light", "dusk");
  await page.waitForFunction(() => location.hash.includes("light=dusk"));
  await backOnline(page);
  await page.waitForFunction(() => globalThis.maestraleSight?.get().kept === 0, undefined, { timeout: patience });
  await page.click("#calls-back");
  await page.waitForSelector(".away-student");
  const day = await (await page.request.get("/pad/day")).json();
  assert.equal(day.students.find((s) => s.name === "Amina Corvelli").calls.length, 9);
});
