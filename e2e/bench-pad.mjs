// How soon the pad can be used on a phone: 3 Mbit/s with 40 ms of delay, and a processor four times slower than this
// one.
// Not a test; run it with "node e2e/bench-pad.mjs".
import { launch, signedIn, startDemo } from "./browser.mjs";

const demo = await startDemo();
const browser = await launch();
try {
  const page = await signedIn(browser, demo.url, {
    email: "ettore@saline.example",
    width: 390,
    height: 844,
    hasTouch: true,
  });
  await page.waitForSelector("a:has-text('Amina Corvelli')");
  const href = await page.locator("a:has-text('Amina Corvelli')").first().getAttribute("href");
  const cdp = await page.context().newCDPSession(page);
  const bytes = { sum: 0 };
  await cdp.send("Network.enable");
  cdp.on("Network.loadingFinished", (e) => {
    bytes.sum += e.encodedDataLength;
  });
  const slow = { offline: false, latency: 40, downloadThroughput: 375_000, uploadThroughput: 125_000 };
  await cdp.send("Network.emulateNetworkConditions", slow);
  await cdp.send("Emulation.setCPUThrottlingRate", { rate: 4 });
  const use = async (what) => {
    const began = performance.now();
    await page.goto(`${href}/mark?drill=hover-tail-in`);
    let typed = 0;
    if (what === "first") {
      await page.waitForSelector("#pin-form:not([hidden])");
      const from = performance.now();
      await page.fill("#pin", "4711");
      typed = performance.now() - from;
      await page.click("#pin-go");
    }
    await page.waitForSelector("#pad-mark:not([hidden]) #m-steps li");
    console.log(
      `${what}: ${Math.round(performance.now() - began - typed)} ms, ${Math.round(bytes.sum / 1000)} kB until then`,
    );
    bytes.sum = 0;
  };
  await use("first");
  await page.waitForFunction(() => document.documentElement.dataset.judge === "own");
  await page.waitForFunction(() => /opens without/.test(document.querySelector("#away-kept").textContent), undefined, {
    timeout: 120_000,
  });
  for (let i = 0; i < 3; i++) {
    await page.goto("about:blank");
    await use("later");
  }
  await cdp.send("Network.emulateNetworkConditions", { ...slow, offline: true });
  const again = new URL(page.url()).pathname + new URL(page.url()).hash;
  for (let i = 0; i < 3; i++) {
    await page.goto("about:blank");
    const began = performance.now();
    await page.goto(demo.url + again);
    await page.waitForSelector("#pad-mark:not([hidden]) #m-steps li");
    console.log(`offline: ${Math.round(performance.now() - began)} ms`);
  }
} finally {
  await browser.close();
  await demo.stop();
}
