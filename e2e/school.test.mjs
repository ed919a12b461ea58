// A school's people and pages in a browser: a passkey instead of a password, an invitation on a phone, a table with
// mistakes, feet and knots, and every new screen for axe.
import assert from "node:assert/strict";
import { test } from "node:test";
import { accessible, atTheDemo, complaints, fits, patience, reads, signedIn } from "./browser.mjs";

const is = atTheDemo();

/** A device that holds passkeys, as far as the browser knows. */
async function authenticator(page) {
  const devices = await page.context().newCDPSession(page);
  await devices.send("WebAuthn.enable");
  const { authenticatorId } = await devices.send("WebAuthn.addVirtualAuthenticator", {
    options: {
      protocol: "ctap2",
      transport: "internal",
      hasResidentKey: true,
      hasUserVerification: true,
      isUserVerified: true,
      automaticPresenceSimulation: true,
    },
  });
  return {
    keys: async () => (await devices.send("WebAuthn.getCredentials", { authenticatorId })).credentials.length,
    verified: (yes) => devices.send("WebAuthn.setUserVerified", { authenticatorId, isUserVerified: yes }),
  };
}

const byName = (url) => url.replace("127.0.0.1", "localhost");

test("a passkey signs in, and is taken away", async () => {
  const page = await signedIn(is.browser, byName(is.demo.url), { email: "ettore@saline.example" });
  const wrong = complaints(page);
  const device = await authenticator(page);
  await page.goto("/account");
  await accessible(page, "the own account");
  await page.fill("#pk-name", "Field phone");
  await page.click("text=Add a passkey");
  await reads(page.locator("section[aria-labelledby=passkeys]"), /Field phone\s+for localhost/);
  assert.equal(await device.keys(), 1);

  await page.context().clearCookies();
  await page.goto("/sign-in");
  await page.click("text=Sign in with a passkey");
  await page.waitForURL("**/students");
  await page.goto("/account");
  await reads(page.locator("section[aria-labelledby=sign-ins]"), /here since .* by passkey/);

  // Once it is taken away here, the device's key opens nothing.
  await page.click("button[aria-label='Remove Field phone']");
  await page.waitForLoadState("networkidle");
  await page.context().clearCookies();
  await page.goto("/sign-in");
  await page.click("text=Sign in with a passkey");
  await reads(page.locator("[data-passkey-says]"), /does not prove the passkey|not known here/);
  assert.deepEqual(wrong, []);
  await page.context().close();
});

test("by its number the server has no passkeys, and says so", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "mirta@saline.example" });
  await page.goto("/account");
  assert.equal(await page.locator("[data-passkey=add]").isVisible(), false);
  await reads(page.locator("[data-passkey-says]"), /reached by name/);
  await page.context().close();
});

test("an invitation is opened on a phone, once", async () => {
  const chief = await signedIn(is.browser, is.demo.url);
  await chief.goto("/people");
  await accessible(chief, "the people");
  await chief.fill("#in-name", "Zeno Acquaviva");
  await chief.selectOption("#in-role", "spotter");
  await chief.click("text=Make the link");
  await accessible(chief, "a link to hand over");
  const link = await chief.inputValue("#ln-address");

  const phone = await is.browser.newContext({ viewport: { width: 390, height: 844 }, hasTouch: true });
  phone.setDefaultTimeout(patience);
  const page = await phone.newPage();
  await page.goto(link);
  await accessible(page, "an invitation");
  assert.equal(await page.inputValue("#jn-name"), "Zeno Acquaviva");
  await page.fill("#jn-email", "zeno@saline.example");
  await page.fill("#jn-password", "la torre del faro");
  await page.click("button:has-text('Join')");
  await page.waitForURL("**/students");
  const again = await is.browser.newPage();
  await again.goto(link);
  await reads(again.locator("main"), /used already/);
  await again.close();

  // The chief closes the account: the phone is signed out with its next tap.
  await chief.goto("/people");
  await reads(chief.locator(".people-list"), /Zeno Acquaviva/);
  await chief.click("button[aria-label='Close the account of Zeno Acquaviva']");
  await reads(chief.locator("section[aria-labelledby=closed-h]"), /Zeno Acquaviva/);
  await page.goto(new URL("/students", link).href);
  await page.waitForURL("**/sign-in");
  await phone.close();
  await chief.context().close();
});

test("a table with mistakes, mended, taken and undone", async () => {
  const page = await signedIn(is.browser, is.demo.url);
  await page.goto("/school");
  await accessible(page, "the school");
  await page.click("text=Import students, craft, packs and past passes");
  await accessible(page, "bringing in tables");
  const file = (text) => ({ name: "students.csv", mimeType: "text/csv", buffer: Buffer.from(text) });
  await page.setInputFiles(
    "#im-file",
    file("Pilot;Model;Since\nCleo Nuova;Poiana;2.3.2026\nDario Vecchi;Balloon;soon\n"),
  );
  await page.click("text=Show the list");
  await reads(page.locator("section[aria-labelledby=ip-wrong]"), /2 mistakes: nothing is imported.*Balloon.*soon/s);
  await accessible(page, "a table with mistakes");
  await page.goto("/import");
  await page.setInputFiles("#im-file", file("Pilot;Model;Since\nCleo Nuova;Poiana;2.3.2026\nDario Vecchi;Gheppio;\n"));
  await page.click("text=Show the list");
  await page.click("text=Import all 2 students");
  await reads(page.locator("section[aria-labelledby=im-past]"), /students\.csv\s+2 students/);
  await page.goto("/students");
  await reads(page.locator("main"), /Cleo Nuova/);
  await page.goto("/import");
  await page.click("button[aria-label='Undo students.csv']");
  await reads(page.locator("section[aria-labelledby=im-past]"), /undone/);
  await page.goto("/students");
  assert.equal(await page.locator("text=Cleo Nuova").count(), 0);
  await page.context().close();
});

test("feet and knots, and a field that echoes", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "mirta@saline.example" });
  const wrong = complaints(page);
  await page.goto("/account");
  await page.selectOption("#un-length", "ft");
  await page.selectOption("#un-speed", "kn");
  await page.click("text=Use these");
  await page.goto("/sites");
  await reads(page.locator("section[aria-label] h2").first(), / ft$/);
  await page.locator("#w-mps").fill("12");
  await reads(page.locator("#w-mps ~ .unit-line").first(), /kn\s+= 6\.2 m\/s/);
  await page.locator("#w-mps").fill("5 m/s");
  await reads(page.locator("#w-mps ~ .unit-line").first(), /= 9\.7 kn/);
  await page.click("text=Note the wind");
  await reads(page.locator(".wind-now"), / kn/);
  await page.goto("/account");
  await page.click("text=Use the school's");
  await reads(page.locator("section[aria-labelledby=units]"), /You use the school's/);
  assert.deepEqual(wrong, []);
  await page.context().close();
});

test("the new screens fit every width in both themes", async () => {
  const page = await signedIn(is.browser, is.demo.url);
  await fits(page, ["/school", "/people", "/account", "/import", "/start", "/start?step=craft"]);
  await page.context().close();
});
