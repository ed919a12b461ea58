// The pad of a school that has more records than a device is given.
import assert from "node:assert/strict";
import { test } from "node:test";
import { atThePad, atTheDemo, reads, signedIn } from "./browser.mjs";

const is = atTheDemo();

/** A pad whose day has a student by name alone, until the record is asked for. The sample school is too small for
 * that. */
async function padWithout(name) {
  const page = await signedIn(is.browser, is.demo.url, {
    email: "ettore@saline.example",
    width: 390,
    height: 844,
    serviceWorkers: "block", // what it fetches would pass by the route below
  });
  const asked = [];
  const cut = { is: false, waits: null };
  await page.route("**/pad/day*", async (route) => {
    if (cut.is) return route.abort(); // what is fetched for the page does not know that the page has no network
    const answer = await route.fetch();
    const { waits } = cut;
    const day = await answer.json();
    const of = day.students.find((s) => s.name === name);
    if (new URL(route.request().url()).searchParams.getAll("student").includes(of.id)) asked.push(of.id);
    else Object.assign(of, { away: true, evidence: [] });
    if (waits) waits.has();
    await waits?.until;
    return route.fulfill({ response: answer, json: day });
  });
  await page.goto("/pad");
  await atThePad(page);
  await page.waitForFunction(() => document.documentElement.dataset.judge === "own");
  await page.waitForSelector(".away-student");
  await page.waitForLoadState("networkidle");
  return { page, asked, cut };
}

test("a record that is not on the device is fetched once the student is chosen, and stays", async () => {
  const { page, asked } = await padWithout("Amina Corvelli");
  await reads(page.locator('.away-student:has-text("Amina Corvelli")'), /the record is fetched when you choose them/);
  await page.click('.away-student:has-text("Amina Corvelli")');
  await page.waitForSelector("#m-steps li");
  assert.equal(asked.length, 1);
  await page.click("#away-back");
  await page.waitForSelector(".away-student");
  await page.click('.away-student:has-text("Amina Corvelli")');
  await page.waitForSelector("#m-steps li");
  assert.equal(asked.length, 1);
  await page.context().close();
});

test("without a network a record that is not on the device is said to be missing", async () => {
  const { page, cut } = await padWithout("Amina Corvelli");
  cut.is = true;
  await page.context().setOffline(true);
  await page.click('.away-student:has-text("Amina Corvelli")');
  await page.waitForSelector("text=The record of Amina Corvelli is not on this device");
  await page.waitForSelector(".away-student");
  await page.click('.away-student:has-text("Bruno Fasolar")');
  await page.waitForSelector("#m-steps li");
  await page.context().close();
});

test("a day that comes late takes nothing off the screen that was said meanwhile", async () => {
  const { page, cut } = await padWithout("Amina Corvelli");
  let letGo, has;
  const until = new Promise((done) => (letGo = done));
  const held = new Promise((done) => (has = done));
  cut.waits = { until, has };
  await page.click("#away-again");
  await held;
  cut.is = true;
  await page.context().setOffline(true);
  await page.click('.away-student:has-text("Amina Corvelli")');
  const says = page.locator("text=The record of Amina Corvelli is not on this device");
  await says.waitFor({ timeout: 1500 }).catch(() => {}); // it may wait for the day that is late
  letGo();
  await says.waitFor();
  await page.waitForTimeout(1500);
  assert.ok(await says.isVisible());
  await page.context().close();
});
