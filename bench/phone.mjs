// What a phone waits for: the first page, the pad and Fly, with a processor four times slower than this one, on a line
// of 1.6 Mbit/s with 150 ms to and fro. Prints a line of JSON for each figure; cmd/benchall puts them into its table.
import { atThePad, launch, signedIn, startDemo } from "../e2e/browser.mjs";

const rounds = Number(process.argv[2] ?? 5);
const demo = await startDemo();
const browser = await launch({ gl: true });
const median = (/** @type {number[]} */ list) => list.sort((a, b) => a - b)[Math.floor(list.length / 2)];

/** Watches a page from its first byte on. */
function watch() {
  const seen = (window.seen = { lcp: 0, cls: 0, blocked: 0 });
  const on = (type, take) =>
    new PerformanceObserver((l) => l.getEntries().forEach(take)).observe({ type, buffered: true });
  on("largest-contentful-paint", (e) => (seen.lcp = Math.max(seen.lcp, e.startTime)));
  on("layout-shift", (e) => {
    if (!e.hadRecentInput) seen.cls += e.value;
  });
  on("longtask", (e) => (seen.blocked += Math.max(0, e.duration - 50)));
}

/** A page of a slow phone, which has seen nothing of the school yet, and the bytes that come to it. */
async function phone() {
  const page = await signedIn(browser, demo.url, {
    email: "mirta@saline.example",
    width: 390,
    height: 844,
    hasTouch: true,
    isMobile: true,
  });
  const state = await page.context().storageState();
  await page.context().close();
  const context = await browser.newContext({
    baseURL: demo.url,
    storageState: { cookies: state.cookies, origins: [] },
    viewport: { width: 390, height: 844 },
    hasTouch: true,
    isMobile: true,
    serviceWorkers: "block",
  });
  const fresh = await context.newPage();
  await fresh.addInitScript(watch);
  const cdp = await context.newCDPSession(fresh);
  await cdp.send("Network.enable");
  await cdp.send("Emulation.setCPUThrottlingRate", { rate: 4 });
  await cdp.send("Network.emulateNetworkConditions", {
    offline: false,
    latency: 150,
    downloadThroughput: 1.6e6 / 8,
    uploadThroughput: 0.75e6 / 8,
  });
  const came = { bytes: 0 };
  cdp.on("Network.loadingFinished", (e) => (came.bytes += e.encodedDataLength));
  return { page: fresh, came };
}

/** Opens an address until it is ready, and says what was seen.
 * @param {any} page @param {string} at @param {(page: any) => Promise<any>} ready */
async function opened(page, at, ready) {
  const begun = Date.now();
  await page.goto(at, { waitUntil: "commit" });
  await ready(page);
  const ms = Date.now() - begun;
  await page.waitForTimeout(1500);
  return { ...(await page.evaluate(() => window.seen)), ms };
}

/** @type {Record<string, number[]>} */
const figures = {};
const note = (/** @type {string} */ name, /** @type {number} */ v) => (figures[name] ??= []).push(v);

try {
  for (let i = 0; i < rounds; i++) {
    let { page, came } = await phone();
    let seen = await opened(page, "/today", (p) => p.waitForLoadState("load"));
    note("first page LCP ms", seen.lcp);
    note("first page kB", came.bytes / 1000);
    await page.context().close();

    ({ page, came } = await phone());
    seen = await opened(page, "/pad", async (p) => {
      await atThePad(p);
      await p.waitForSelector(".away-student");
    });
    note("pad ready ms", seen.ms);
    await page.waitForFunction(() => document.documentElement.dataset.judge === "own").catch(() => {});
    seen = await page.evaluate(() => window.seen);
    note("pad CLS", seen.cls);
    note("pad blocked ms", seen.blocked);
    note("pad kB", came.bytes / 1000);
    await page.context().close();

    ({ page, came } = await phone());
    await page.goto("/fly");
    const to = await page.locator("a[href*='/students/'][href*='/fly']").first().getAttribute("href");
    const flying = (/** @type {any} */ p) =>
      p.waitForFunction(() => document.querySelector("#f-start")?.disabled === false);
    seen = await opened(page, to, flying);
    note("Fly cold ms", seen.ms);
    note("Fly cold blocked ms", seen.blocked);
    seen = await opened(page, to, flying);
    note("Fly warm ms", seen.ms);
    await page.context().close();
  }
  for (const [name, list] of Object.entries(figures)) console.log(JSON.stringify({ name, value: median(list) }));
} finally {
  await browser.close();
  await demo.stop();
}
