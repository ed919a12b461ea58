// A spotter beside the instructor, and what is said: on the pad, by the craft's side, and later in the debrief.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import { accessible, atThePad, hold, launch, reads, signedIn, startDemo, backOnline } from "./browser.mjs";

let browser, demo;
before(async () => {
  demo = await startDemo();
  browser = await launch({ args: ["--use-fake-device-for-media-stream", "--use-fake-ui-for-media-stream"] });
});
after(async () => {
  await browser?.close();
  await demo?.stop();
});
const phone = { width: 390, height: 844, hasTouch: true };

const padOf = async (email) => {
  const page = await signedIn(browser, demo.url, { ...phone, email });
  await page.goto("/pad");
  return page;
};
const said = (page) => page.evaluate(() => globalThis.maestraleSaid.map((s) => `${s.kind}: ${s.words}`));

/** A spotter two taps from Today. */
async function spotterAt(name) {
  const page = await signedIn(browser, demo.url, { ...phone, email: "gildo@saline.example" });
  await page.goto("/today");
  await page.click("nav.places a:has-text('Pad')"); // the first
  await page.fill("#pin", "2222");
  await page.click("#pin-go");
  await page.waitForSelector(".away-student");
  await page.click(`.away-student:has-text("${name}")`); // the second
  await page.waitForSelector("#pad-spot:not([hidden])");
  return page;
}

test("what the spotter sees is said on the instructor's pad and joins the marks by its time", async () => {
  const pad = await padOf("ettore@saline.example");
  await atThePad(pad);
  const spotter = await spotterAt("Bruno Fasolar");
  await accessible(spotter, "the spotter's view");
  await pad.click('.away-student:has-text("Bruno Fasolar")');
  await pad.waitForSelector("#pad-mark:not([hidden]) #m-steps li");
  await pad.selectOption("#drill", "hover-tail-in");
  await pad.waitForFunction(() => location.hash.includes("hover-tail-in"));
  await pad.click("#big");
  await pad.waitForTimeout(600);
  await pad.click("#big"); // in position
  await pad.waitForTimeout(1800);
  await spotter.click("[data-seen=out][data-toward=left]");
  await reads(spotter.locator(".spot-last"), /out, left, noted/);
  await reads(pad.locator("#spotter-says"), /out, left/);
  await spotter.click("[data-seen=traffic]");
  await reads(pad.locator("#spotter-says"), /traffic/);
  const words = await said(pad);
  assert.ok(
    words.some((w) => w === "spotter: Spotter: out, left"),
    words.join("\n"),
  );
  assert.ok(
    words.some((w) => w.startsWith("step: ")),
    words.join("\n"),
  );
  await pad.click("#b-fault");
  await pad.click("[data-back]");
  await hold(pad, "#b-end");
  await pad.waitForSelector("#view-verdict:not([hidden])");
  assert.ok((await said(pad)).some((w) => w.startsWith("verdict: ")));
  await pad.click("#v-debrief"); // what was marked is sent before
  await pad.waitForURL("**/attempts/*");
  await pad.click("summary:has-text('marks')");
  const marks = await pad.locator("details[open] tbody tr td:nth-child(2)").allTextContents();
  assert.deepEqual(marks, ["start", "in", "out", "done"]);
  await pad.context().close();
  await spotter.context().close();
});

test("a spotter without a network is merged by time, and what comes too late is shown beside", async () => {
  const pad = await padOf("ettore@saline.example");
  await atThePad(pad);
  const spotter = await spotterAt("Dunja Velkovar");
  await spotter.waitForFunction(() => navigator.serviceWorker.controller !== null);
  await spotter.context().setOffline(true);
  await pad.click('.away-student:has-text("Dunja Velkovar")');
  await pad.waitForSelector("#pad-mark:not([hidden]) #m-steps li");
  await pad.click("#big");
  await pad.waitForFunction(() => /^step 1 /.test(document.querySelector("#step-name").textContent));
  await pad.waitForTimeout(600);
  await pad.click("#big");
  await pad.waitForTimeout(500);
  await spotter.click("[data-seen=call]");
  await reads(spotter.locator(".spot-last"), /a call, noted/);
  await pad.waitForTimeout(500);
  await hold(pad, "#b-end");
  await pad.waitForSelector("#view-verdict:not([hidden])");
  await pad.click("#v-debrief");
  await pad.waitForURL("**/attempts/*");
  await backOnline(spotter);
  await spotter.click("#spot-back");
  await reads(spotter.locator("#away-unsent"), /all sent/);
  await pad.reload();
  await reads(pad.locator("main"), /Seen by a spotter, and not judged[\s\S]*call[\s\S]*by Gildo/);
  await pad.context().close();
  await spotter.context().close();
});

test("a voice note is held, kept without a network, played in the debrief, and deleted by who spoke", async () => {
  const pad = await padOf("mirta@saline.example");
  await atThePad(pad);
  await pad.click('.away-student:has-text("Amina Corvelli")');
  await pad.waitForSelector("#pad-mark:not([hidden]) #m-steps li");
  await pad.click("#big");
  await pad.waitForTimeout(600);
  await pad.context().setOffline(true);
  await hold(pad, "#b-voice", () => pad.waitForTimeout(1200));
  await pad.waitForTimeout(500);
  assert.equal(await pad.locator("#voice-says").isVisible(), false, await pad.locator("#voice-says").innerText());
  await hold(pad, "#b-end");
  await pad.waitForSelector("#view-verdict:not([hidden])");
  await pad.context().setOffline(false);
  await pad.click("#v-debrief");
  await pad.waitForURL("**/attempts/*");
  await reads(pad.locator("main"), /Said while it was flown/);
  const sound = await pad.locator("audio").getAttribute("src");
  const r = await pad.request.get(sound);
  assert.equal(r.status(), 200);
  assert.match(r.headers()["content-type"], /audio\/(webm|ogg)/);
  assert.ok((await r.body()).length > 200);
  const plays = await pad.evaluate(
    (at) =>
      new Promise((done) => {
        const a = new Audio(at);
        a.oncanplay = () => done("plays");
        a.onerror = () => done("no sound");
      }),
    sound,
  );
  assert.equal(plays, "plays");
  const other = await signedIn(browser, demo.url, { email: "ettore@saline.example" });
  assert.equal((await other.request.post(`${sound}/delete`)).status(), 404, "another instructor may not");
  await accessible(pad, "the debrief with a voice note");
  await pad.click("button[aria-label^='Delete it']");
  await pad.waitForLoadState();
  assert.equal(await pad.locator("audio").count(), 0);
  await pad.context().close();
  await other.context().close();
});

test("keys of a clicker are learnt and do what they were given", async () => {
  const pad = await padOf("ettore@saline.example");
  await atThePad(pad);
  await pad.click("#pad-settings summary");
  await accessible(pad, "the settings of the pad");
  await pad.click("#key-kinds button:has-text('In, out')");
  await pad.keyboard.press("PageDown");
  await reads(pad.locator("#key-says"), /learnt/);
  await pad.click("#key-kinds button:has-text('Fault')");
  await pad.keyboard.press("PageUp");
  await pad.uncheck("#say-kinds label:has-text('Seconds left') input");
  await pad.click('.away-student:has-text("Olga Stivanel")');
  await pad.waitForSelector("#pad-mark:not([hidden]) #m-steps li");
  await pad.keyboard.press("PageDown"); // starts
  await pad.waitForSelector("#view-fly:not([hidden])");
  await pad.waitForTimeout(600);
  await pad.keyboard.press("PageDown"); // in position
  await reads(pad.locator("#step-name"), /step 2/);
  // Without looking: each press says the next fault, and the other key confirms it.
  await pad.keyboard.press("PageUp");
  await pad.keyboard.press("PageUp");
  const second = (await pad.locator("#m-faults button").nth(1).innerText()).trim();
  await pad.keyboard.press("PageDown");
  await pad.waitForSelector("#view-fly:not([hidden])");
  await reads(pad.locator("#ring-say"), /./);
  const words = await said(pad);
  assert.ok(words.includes(`out: ${second}`), words.join("\n"));
  assert.ok(!words.some((w) => w.startsWith("count: ")), "what was switched off is not said");
  await pad.context().close();
});
