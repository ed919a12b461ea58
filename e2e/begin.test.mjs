// A school from nothing, in a browser alone: from the setup code to a student with a signed gate, whose card a stranger
// checks. It counts what a chief instructor taps and types, on a tablet and on a phone.
import assert from "node:assert/strict";
import { after, before, test } from "node:test";
import {
  accessible,
  atThePad,
  complaints,
  counts,
  holdClock,
  launch,
  pass,
  patience,
  reads,
  startEmpty,
  until,
} from "./browser.mjs";

/** @type {import("playwright-core").Browser} */
let browser;
before(async () => {
  browser = await launch();
});
after(() => browser?.close());

const words = "la torre del faro";

/** A page that counts the taps and the fields that are filled in. */
async function counted(url, width, height) {
  const context = await browser.newContext({
    viewport: { width, height },
    baseURL: url,
    timezoneId: "Europe/Rome",
    hasTouch: width < 600,
    permissions: ["geolocation"],
    geolocation: { latitude: 45.21, longitude: 12.29, accuracy: 8 },
  });
  context.setDefaultTimeout(patience);
  const page = await context.newPage();
  const did = { taps: 0, fields: 0 };
  return {
    page,
    did,
    async tap(what) {
      did.taps++;
      await page.locator(what).first().click();
    },
    async type(what, text) {
      did.fields++;
      await page.locator(what).first().fill(text);
    },
  };
}

async function fromNothing(width, height) {
  const server = await startEmpty();
  try {
    const { page, did, tap, type } = await counted(server.url, width, height);
    const wrong = complaints(page);

    // Nothing else is served before there is a school.
    await page.goto("/students");
    await page.waitForURL("**/setup");
    await page.goto(server.setup);
    await accessible(page, "the setup");
    assert.equal(await page.inputValue("#st-zone"), "Europe/Rome", "the device's zone is proposed");
    await type("#st-school", "Scuola di prova");
    await type("#st-name", "Lia Capovela");
    await type("#st-email", "lia@prova.example");
    await type("#st-password", words);
    await tap("button:has-text('Create the school')");

    await page.waitForURL("**/start");
    await accessible(page, "the first steps");
    await page.goto("/students");
    await reads(page.locator(".to-do"), /Still to do in this school: the first site/);
    await page.goto("/start");
    await type("#fs-name", "Spianata nord");
    if (width < 600) {
      await tap("[data-locate]");
      await reads(page.locator("[data-locate-says]"), /Taken, to within 8 m/);
      assert.equal(await page.inputValue("#fs-lat"), "45.210000");
    } else {
      await type("#fs-lat", "45.21");
      await type("#fs-lon", "12.29");
    }
    await tap("button:has-text('Save the site')");
    await tap("button:has-text('Lay the course')");
    await type("#fk-name", "Uno");
    await tap("button:has-text('Add the craft')");
    await type("#sp-text", "3 × P1 to P3");
    await tap("button:has-text('Add the packs')");
    await reads(page.locator(".step[aria-current=step]"), /instructors and spotters/i);
    await tap("button:has-text('Skip')");
    await type("#ff-name", "Ada Testa");
    await tap("button:has-text('Add the student')");

    // The first marked drill, with the pad's own clock in hand.
    await holdClock(page);
    await tap("a:has-text('Mark the first drill of Ada Testa')");
    await page.waitForURL("**/pad*");
    did.taps++;
    did.fields++;
    await atThePad(page);
    await markWhatIsAsked(page, tap);

    // The gate that is witnessed: signed, confirmed on this device, and shown to a stranger.
    await tap("#v-student");
    await page.waitForURL("**/students/*");
    await tap("a[href$='/gates/supervised']");
    for (let left = 3; left > 0; left--) {
      await tap("button[aria-label^='Witnessed:']");
      await counts(page.locator("button[aria-label^='Witnessed:']"), left - 1);
    }
    await tap("main button:has-text('Sign ')");
    await reads(page.locator("section[aria-labelledby=stands-h]"), /Not in force yet/);
    await accessible(page, "the confirmation on the instructor's device");
    await tap("input[name=cautions]");
    await type("#cf-name", "Ada Testa");
    did.taps++;
    await page.locator(".signature-box").scrollIntoViewIfNeeded();
    const box = await page.locator(".signature-box").boundingBox();
    await page.mouse.move(box.x + 30, box.y + 60);
    await page.mouse.down();
    for (let i = 1; i < 14; i++) await page.mouse.move(box.x + 30 + i * 14, box.y + 50 + 25 * Math.sin(i));
    await page.mouse.up();
    await tap("button:has-text('as witness')");
    await reads(page.locator("section[aria-labelledby=stands-h]"), /on the device of\s+Lia Capovela, who is witness/);
    await tap("button:has-text('Make the card')");
    const address = await page.locator("a[href*='/check/']").getAttribute("href");

    const stranger = await browser.newContext({ viewport: { width, height } });
    const check = await stranger.newPage();
    await check.goto(address);
    await reads(check.locator("main"), /Ada Testa/);
    await reads(check.locator("main"), /Stands today/);
    await stranger.close();

    // The instructor's line of what is left is gone, and the record verifies.
    await page.goto("/students");
    assert.equal(await page.locator(".to-do").count(), 0, "nothing is left to do");
    assert.deepEqual(wrong, []);
    return did;
  } finally {
    assert.equal(await server.stop(), 0, "the server stops cleanly");
  }
}

/** Taps what the pad asks for, until there is a verdict. */
async function markWhatIsAsked(page, tap) {
  for (let i = 0; i < 40; i++) {
    if (await page.evaluate(() => !document.querySelector("#view-verdict")?.hidden)) return;
    await tap("#big");
    await pass(page, 12);
  }
  await until(page, () => !document.querySelector("#view-verdict")?.hidden);
}

test("a school from nothing to a checked card, on a tablet", async (t) => {
  const did = await fromNothing(1280, 800);
  t.diagnostic(`1280x800: ${did.taps} taps, ${did.fields} typed fields`);
});

test("a school from nothing to a checked card, on a phone", async (t) => {
  const did = await fromNothing(390, 844);
  t.diagnostic(`390x844: ${did.taps} taps, ${did.fields} typed fields`);
});
