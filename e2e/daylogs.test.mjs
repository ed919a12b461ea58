// The logs of a field day, given in one go: how far they are is shown, they can be cancelled, and what was found asks.
import assert from "node:assert/strict";
import { readFile } from "node:fs/promises";
import path from "node:path";
import { test } from "node:test";
import { accessible, atTheDemo, complaints, reads, root, signedIn } from "./browser.mjs";

const is = atTheDemo();

const hover = await readFile(path.join(root, "examples/hover-drift.csv"));
const file = (name, buffer) => ({ name, mimeType: "text/csv", buffer });

test("a day's logs are sent one by one, sorted, asked about and thrown away", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "mirta@saline.example" });
  const wrong = complaints(page);
  await page.goto("/today");
  await page.click("text=Logs of the day");
  await page.waitForURL("**/today/logs");
  await accessible(page, "the form of the logs");
  await page.setInputFiles("#files", [
    file("first.csv", hover),
    file("again.csv", hover),
    file("holiday.jpg", Buffer.from([0x89, 0x50, 0x4e, 0x47, 0, 1, 2])),
    file("nothing.csv", Buffer.from("")),
  ]);
  await page.click("text=Read the logs");
  await page.waitForURL("**/today/logs/*");
  await reads(page.locator("main"), /3 files were left out|2 files were left out/);
  await page.click("text=Files that were left out");
  const said = await page.locator("main").innerText();
  assert.match(said, /the same file as again\.csv/);
  assert.match(said, /holiday\.jpg It cannot be read/);
  // A flight that nobody noted asks whose it is, once.
  await page.click("button:has-text('none of these')");
  await reads(page.locator("main"), /0 ask a question/);
  await accessible(page, "what was found in the logs");
  await page.click("text=Discard the folder");
  await page.waitForURL("**/today/logs");
  assert.deepEqual(wrong, []);
  await page.context().close();
});

test("a day's logs are cancelled while they are sent, and nothing is kept", async () => {
  const page = await signedIn(is.browser, is.demo.url, { email: "mirta@saline.example" });
  await page.goto("/today/logs");
  const sent = [];
  await page.route("**/today/logs/*", async (route) => {
    if (route.request().method() === "POST" && sent.push(1) === 3) return; // the third never arrives
    await route.continue();
  });
  await page.setInputFiles(
    "#files",
    [1, 2, 3, 4].map((n) => file(`flight ${n}.csv`, Buffer.concat([hover, Buffer.from("\n".repeat(n))]))),
  );
  await page.click("text=Read the logs");
  await reads(page.locator("#logs-says"), /Log 3 of 4 is sent: flight 3\.csv/);
  assert.ok((await page.locator("#logs-bar").evaluate((b) => b.value)) > 0.3);
  const folder = await page.locator("#logs").evaluate((f) => f.action);
  await page.click("#logs-stop");
  await reads(page.locator("#logs-says"), /Cancelled\. Nothing was kept\./);
  assert.equal((await page.request.get(folder)).status(), 404);
  await page.context().close();
});
