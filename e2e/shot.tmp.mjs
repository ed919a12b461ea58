import { atTheDemo, startDemo, launch, signedIn } from "./browser.mjs";
const demo = await startDemo();
const browser = await launch();
try {
  const page = await signedIn(browser, demo.url, {
    email: "ettore@saline.example",
    width: 390,
    height: 844,
    hasTouch: true,
  });
  page.on("console", (m) => console.log("console", m.type(), m.text()));
  page.on("pageerror", (e) => console.log("error", e.message));
  await page.goto("/pad");
  await page.waitForSelector("#pin-form:not([hidden])");
  await page.screenshot({ path: "/tmp/pin.png" });
  await page.fill("#pin", "4711");
  await page.click("#pin-go");
  await page.waitForSelector(".away-student", { timeout: 20000 });
  await page.screenshot({ path: "/tmp/list.png" });
  await page.click(".away-student >> nth=0");
  await page.waitForSelector("#m-steps li");
  await page.screenshot({ path: "/tmp/start.png" });
  await page.click("#big");
  await page.waitForTimeout(1500);
  await page.click("#big");
  await page.waitForTimeout(3000);
  await page.screenshot({ path: "/tmp/fly.png" });
  const b = await page.locator("#b-end").boundingBox();
  await page.mouse.move(b.x + 10, b.y + 10);
  await page.mouse.down();
  await page.waitForTimeout(1300);
  await page.mouse.up();
  await page.waitForTimeout(800);
  await page.screenshot({ path: "/tmp/verdict.png" });
  await page.waitForTimeout(11000);
  console.log(await page.locator("#unsent").innerText(), await page.locator("#away-wrong").innerText());
} catch (e) {
  console.log(e.message);
} finally {
  await browser.close();
  await demo.stop();
}
